# SPDX-License-Identifier: GPL-3.0-or-later
"""Where places for holds are looked for."""

STEP = 20.0  # mm along the edge between places that are tried
LONGEST_NOSE = 110.0  # mm from bolt to nose that a strap is taken to reach
SHORTEST_NOSE = 22.0
INSET = 7.0  # mm of a nose's middle inside the edge
HEADINGS = (90.0, 270.0, 0.0, 180.0)
