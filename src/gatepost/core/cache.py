# SPDX-License-Identifier: GPL-3.0-or-later
"""A small memory of reckoned nodes, by what went into them."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar, cast

from gatepost.core.errors import Cancelled

T = TypeVar("T")

SMALL = 400  # results to remember where each is small


class Memory:
    """Keeps the newest results of each node. ask: called before each reckoning; true ends it with Cancelled."""

    def __init__(
        self, keep: int = 8, ask: Callable[[], bool] | None = None, tell: Callable[[str], None] | None = None
    ) -> None:
        self._keep = keep
        self._kept: dict[str, OrderedDict[Hashable, Any]] = {}
        self.ask = ask
        self.tell = tell

    def get(self, node: str, key: Hashable, reckon: Callable[[], T], keep: int = 0) -> T:
        """The node's result for these inputs, reckoned once. keep: how many to keep, where not as many as usual."""
        kept = self._kept.setdefault(node, OrderedDict())
        if key in kept:
            kept.move_to_end(key)
            return cast(T, kept[key])
        if self.ask is not None and self.ask():
            raise Cancelled(node)
        if self.tell is not None:
            self.tell(node)
        result = reckon()
        kept[key] = result
        while len(kept) > (keep or self._keep):
            kept.popitem(last=False)
        return result
