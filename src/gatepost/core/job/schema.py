# SPDX-License-Identifier: GPL-3.0-or-later
"""The JSON Schema of job.json, with what each kind of operation and of artwork has for figures."""

from __future__ import annotations

from typing import Any

from pydantic.json_schema import models_json_schema

from gatepost.core.job.model import Job
from gatepost.core.job.operation import ARTWORK, OPERATIONS, Kinds


def schema(operations: Kinds = OPERATIONS, artwork: Kinds = ARTWORK) -> dict[str, Any]:
    """As a validator takes it. operations, artwork: the models of figures by kind."""
    models: list[Any] = [Job, *operations.values(), *artwork.values()]
    _, whole = models_json_schema([(m, "validation") for m in models], ref_template="#/$defs/{model}")
    defs = whole["$defs"]
    job = defs.pop("Job")
    for owner, kinds in (("Operation", operations), ("Artwork", artwork)):
        one = defs[owner]
        one["properties"]["figures"] = {"type": "object"}
        one["properties"]["kind"] = {"enum": sorted(kinds)}
        one["allOf"] = [
            {
                "if": {"properties": {"kind": {"const": kind}}},
                "then": {"properties": {"figures": {"$ref": f"#/$defs/{model.__name__}"}}},
            }
            for kind, model in sorted(kinds.items())
        ]
    defs.pop("Model", None)
    return {**job, "$defs": defs}
