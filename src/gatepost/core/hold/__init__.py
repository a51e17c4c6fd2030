# SPDX-License-Identifier: GPL-3.0-or-later
"""Work holding: what stands where, how high, and what clears it."""
