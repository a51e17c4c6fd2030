# SPDX-License-Identifier: GPL-3.0-or-later
"""The JSON Schema of job.json, with what each kind of operation, of artwork, of hold and of coming into a setup has for figures."""

from __future__ import annotations

from typing import Any

from pydantic.json_schema import models_json_schema

from gatepost.core.job.kinds import SHIPPED, FigureTables
from gatepost.core.job.model import Job


def schema(kinds: FigureTables = SHIPPED) -> dict[str, Any]:
    """As a validator takes it."""
    models: list[Any] = [
        Job,
        *kinds.operations.values(),
        *kinds.artwork.values(),
        *kinds.holds.values(),
        *kinds.registers.values(),
    ]
    _, whole = models_json_schema([(m, "validation") for m in models], ref_template="#/$defs/{model}")
    defs = whole["$defs"]
    job = defs.pop("Job")
    for owner, table in (("Operation", kinds.operations), ("Artwork", kinds.artwork)):
        one = defs[owner]
        one["properties"]["figures"] = {"type": "object"}
        one["properties"]["kind"] = {"enum": sorted(table)}
        one["allOf"] = [
            {
                "if": {"properties": {"kind": {"const": kind}}},
                "then": {"properties": {"figures": {"$ref": f"#/$defs/{model.__name__}"}}},
            }
            for kind, model in sorted(table.items())
        ]
    for model in (*kinds.holds.values(), *kinds.registers.values()):
        own = defs[model.__name__]
        own["required"] = [*own.get("required", ()), "kind"]
    defs["Setup"]["properties"]["holds"]["items"] = {
        "oneOf": [{"$ref": f"#/$defs/{model.__name__}"} for model in kinds.holds.values()]
    }
    defs["Setup"]["properties"]["comes"]["anyOf"] = [
        *({"$ref": f"#/$defs/{model.__name__}"} for model in kinds.registers.values()), {"type": "null"},
    ]  # fmt: skip
    defs.pop("Hold", None)
    defs.pop("Register", None)
    defs.pop("Model", None)
    return {**job, "$defs": defs}
