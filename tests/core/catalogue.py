# SPDX-License-Identifier: GPL-3.0-or-later
"""What fires each finding and what keeps it silent: small boards, one plan each, spoiled by as little as will do.

A row is a sound job, what brings it right to the border and must say nothing yet, and what goes over it. Where the border
can be worked out by hand, the sum stands beside the row.
"""

from __future__ import annotations

from tests.core.catalogue_carve import SUNK
from tests.core.catalogue_finish import FINISH
from tests.core.catalogue_found import FOUND
from tests.core.catalogue_more import MORE, SEEN
from tests.core.catalogue_proved import PROVED
from tests.core.catalogue_rows import BLANK, CARVE, HOLD, SURFACE, TOOLS, ZERO

ROWS = [*BLANK, *HOLD, *ZERO, *TOOLS, *CARVE, *SURFACE, *MORE, *SEEN, *SUNK, *FOUND, *PROVED, *FINISH]
