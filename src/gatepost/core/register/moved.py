# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece that lies otherwise on the bed than it was meant to: turned about the bed's 0, then shifted."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Moved:
    """degrees: against the clock about the bed's 0; x, y: after it, mm."""

    degrees: float = 0.0
    x: float = 0.0
    y: float = 0.0

    def there(self, x: float, y: float) -> tuple[float, float]:
        """Where a place of the bed goes."""
        c, s = math.cos(math.radians(self.degrees)), math.sin(math.radians(self.degrees))
        return c * x - s * y + self.x, s * x + c * y + self.y

    def back(self, x: float, y: float) -> tuple[float, float]:
        """Where what goes to a place came from."""
        c, s = math.cos(math.radians(self.degrees)), math.sin(math.radians(self.degrees))
        a, b = x - self.x, y - self.y
        return c * a + s * b, -s * a + c * b

    def then(self, after: Moved) -> Moved:
        """One after the other, as one."""
        return Moved(self.degrees + after.degrees, *after.there(self.x, self.y))


NOT_MOVED = Moved()
