# SPDX-License-Identifier: GPL-3.0-or-later
"""Several boards alike: one after another to its end, or all of them with one bit before the next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gatepost.core.working import Named, Working, working


@dataclass(frozen=True)
class BatchWays:
    """Minutes of both ways. visits: stretches of cutting with one bit on each board; changes: of bits in all, each way."""

    by_board: Working
    by_bit: Working
    visits: int
    changes: tuple[int, int]


def batch_ways(setups: Sequence[Sequence[int]], cutting: float, change: float, laying: float, boards: int) -> BatchWays:
    """setups: the tools of each setup's cuts, in order; cutting: minutes of one board's cuts; change: of a change of bit with its touch-off; laying: to lay
    a board, hold it and find X0 Y0; boards: alike.

    Board by board each is laid once a setup, and the bits are changed as the cuts go, and back for the next one. Bit by bit, setup by setup, all
    boards are laid once for each bit, and the bits are changed as for one.
    """
    visits = [_visits(tools) for tools in setups if tools]
    row = [t for tools in visits for t in tools]
    one = sum(a != b for a, b in zip(row, row[1:]))
    back = int(bool(row) and row[0] != row[-1])
    board = one * boards + back * (boards - 1)
    lays = (len(visits) * boards, sum(len(v) for v in visits) * boards)

    def minutes(changes: int, laid: int, how: str) -> Working:
        return working(
            "boards * cutting + changes * change + laid * laying",
            Named("boards", boards, "count"), Named("cutting", cutting, "minutes"), Named("changes", changes, "count"), Named("change", change, "minutes"),
            Named("laid", laid, "count"), Named("laying", laying, "minutes"), unit="minutes", assumption=how, shop_rule=True,
        )  # fmt: skip

    return BatchWays(
        minutes(board, lays[0], "each board to its end before the next, bits changed back for it"),
        minutes(one, lays[1], "all boards with one bit before the next: each comes back into the very same place by nest, stop or pins, or its zeros are found again"),
        sum(len(v) for v in visits),
        (board, one),
    )  # fmt: skip


def _visits(tools: Sequence[int]) -> list[int]:
    """Bits as they come, each stretch once."""
    return [t for i, t in enumerate(tools) if i == 0 or t != tools[i - 1]]
