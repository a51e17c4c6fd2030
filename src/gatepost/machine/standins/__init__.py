# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated machine: its own reader, motion and wood."""
