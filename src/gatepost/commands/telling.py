# SPDX-License-Identifier: GPL-3.0-or-later
"""Messages go to stderr, results to stdout."""

from __future__ import annotations

import json
import sys
from typing import Any

from gatepost import arguments as take
from gatepost.core.units import spell


def say(words: str) -> None:
    """A message for whoever is watching."""
    print(take.printable(spell(words)), file=sys.stderr, flush=True)


def show(value: Any) -> None:
    """One JSON document on stdout."""
    print(json.dumps(value, ensure_ascii=False, indent=1))
