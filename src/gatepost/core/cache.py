# SPDX-License-Identifier: GPL-3.0-or-later
"""A small memory of nodes that were worked out, by what went into them."""

from __future__ import annotations

from collections import OrderedDict, deque
from collections.abc import Callable, Hashable
from typing import Any, TypeVar, cast

from gatepost.core.errors import Cancelled

T = TypeVar("T")

SMALL = 400  # results to remember where each is small


class Memory:
    """Keeps the newest results of each node. cancelled: asked before each node; true ends it with Cancelled. progress: told each node's name;
    wholes: how many of what is made of all nodes are kept as well."""

    def __init__(
        self,
        keep: int = 8,
        cancelled: Callable[[], bool] | None = None,
        progress: Callable[[str], None] | None = None,
        wholes: int = 0,
    ) -> None:
        self._keep = keep
        self._wholes: deque[tuple[Hashable, object, Any]] = deque(maxlen=wholes)
        self._kept: dict[str, OrderedDict[Hashable, Any]] = {}
        self.cancelled = cancelled
        self.progress = progress

    def get(self, node: str, key: Hashable, compute: Callable[[], T], keep: int = 0) -> T:
        """The node's result for these inputs, worked out once. keep: how many to keep, where not as many as usual."""
        kept = self._kept.setdefault(node, OrderedDict())
        if key in kept:
            kept.move_to_end(key)
            return cast(T, kept[key])
        if self.cancelled is not None and self.cancelled():
            raise Cancelled(node)
        if self.progress is not None:
            self.progress(node)
        result = compute()
        kept[key] = result
        while len(kept) > (keep or self._keep):
            kept.popitem(last=False)
        return result

    def whole(self, key: Hashable, beside: object, compute: Callable[[], T], most: Callable[[T], int]) -> T:
        """What is made of all nodes for these inputs. beside: an input that is told by comparing alone; most: how many as large as a result may be
        kept, where that is fewer than usual."""
        kept = self.kept_whole(key, beside)
        if kept is not None:
            return cast(T, kept)
        result = compute()
        self._wholes.append((key, beside, result))
        while len(self._wholes) > most(result):
            self._wholes.popleft()
        return result

    def kept_whole(self, key: Hashable, beside: object) -> Any:
        """The same where it is kept, and then kept longest; else nothing."""
        for kept in reversed(self._wholes):
            if kept[0] == key and kept[1] == beside:
                others = [one for one in self._wholes if one is not kept]
                self._wholes = deque([*others, kept], maxlen=self._wholes.maxlen)
                return kept[2]
        return None
