# SPDX-License-Identifier: GPL-3.0-or-later
"""What only a simulated machine can be told and asked: what hands do at a real one, and what eyes and calipers see there."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from gatepost.core.job.turning import Ways
from gatepost.machine.connection import SOON, Connection

MOST_SEATS, MOST_HOLES = 200, 400
SLOWLY = 30.0  # s that a whole board may take to be turned or kept


class HandsAndEyes(Connection):
    """A connection whose other end may be simulated."""

    def fit(self, tool: dict[str, Any]) -> None:
        """Tell a simulated machine which bit is in its collet."""
        self._order("fit", tool=tool)
        self._until("fitted", SOON)

    def sight(self, x: float, y: float, eye: float) -> tuple[float, float]:
        """What an operator sees over the point on a simulated machine: how far a mark that is meant to be at a bed place lies
        from the tip, ± eye."""
        self._order("sight", x=x, y=y, eye=eye)
        off = self._until("sighted", SOON).data["off"]
        return float(off[0]), float(off[1])

    def look_over(self, at: str = "") -> list[str]:
        """What an operator sees who looks over a simulated machine, its bed or the plate's circuit: what is not as it should
        be."""
        self._order("look", at=at)
        return [str(v) for v in self._until("seen", SOON).data["things"]]

    def mend(self, what: str) -> None:
        """Tell a simulated machine that something was put right."""
        self._order("mend", what=what)
        self._until("mended", SOON)

    def lay(
        self, dx: float, dy: float, standing: list[dict[str, Any]] | None = None, still: bool = False,
        off: tuple[float, float, float] | None = None, turned: tuple[float, float, float] | None = None,
        fresh: bool = False, pins: Sequence[tuple[float, float]] = (), play: float = 0.0,
        were: Sequence[tuple[float, float]] = (), seats: Sequence[tuple[float, float, float]] = (),
        holes: Sequence[tuple[float, float, float]] = (),
    ) -> None:  # fmt: skip
        """Tell a simulated machine that the board was laid elsewhere, and what was set about it. still: it was not taken up; off: by
        how much it can lie otherwise, X, Y and degrees, where something stops it; turned: degrees that it is meant to lie turned by,
        and the place on the bed about which; pins: places on the bed where it is laid on pins, whose holes are wider by play, or two corners of its slot in the frame that it is
        laid into; were: these where they were cut, and the middle; seats: ways in which it may lie there, degrees about the middle and a shift; holes: that are in it already, X, Y on the bed where it is meant to lie and diameter; fresh: it is another board, and dx, dy are from where the first one lay first."""
        more: dict[str, Any] = {} if standing is None else {"standing": standing}
        more |= {"still": True} if still else {}
        more |= {"fresh": True} if fresh else {}
        more |= (
            {
                "pins": [[*p] for p in pins],
                "play": play,
                "were": [[*p] for p in were],
                "seats": [[round(v, 5) for v in s] for s in seats[:MOST_SEATS]],
            }
            if pins
            else {}
        )
        more |= {"holes": [[*h] for h in holes[:MOST_HOLES]]} if holes else {}
        more |= {"off": [*off]} if off is not None else {}
        more |= {"turned": [*turned]} if turned is not None else {}
        self._order("lay", dx=dx, dy=dy, **more)
        self._until("laid", SOON)

    def push(self, x: float, y: float, degrees: float) -> None:
        """Tell a simulated machine that the board was turned about a place on the bed, and what holds it was set anew."""
        self._order("push", x=x, y=y, degrees=degrees)
        self._until("pushed", SOON)

    def take_up(self) -> None:
        """Tell a simulated machine that the board was taken off its bed, and put aside."""
        self._order("take-up")
        self._until("taken-up", SOON)

    def turn(self, ways: Ways) -> None:
        """Tell a simulated machine that the board was turned. ways: X, Y and Z of the bed then, in the bed's directions before."""
        self._order("turn", ways=[[*way] for way in ways])
        self._until("turned", SLOWLY)

    def calipers(self) -> list[float]:
        """What calipers show at a simulated board's corners: front left, front right, back right, back left."""
        self._order("calipers")
        return [float(v) for v in self._until("measured", SOON).data["corners"]]

    def gauge(self, x: float, y: float, near: float, about: float) -> tuple[float, float]:
        """What is measured of a simulated board at a place: how thick it is in its lowest place so near, and how deep that lies under what is about it."""
        self._order("gauge", x=x, y=y, near=near, about=about)
        said = self._until("gauged", SOON).data
        return float(said["low"]), float(said["deep"])

    def save_wood(self, name: str) -> str:
        """Ask a simulated machine to keep its wood; gives the file."""
        self._order("save-wood", name=name)
        return str(self._until("saved", SLOWLY).data["path"])
