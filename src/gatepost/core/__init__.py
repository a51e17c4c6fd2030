# SPDX-License-Identifier: GPL-3.0-or-later
"""The reckoning: no Qt, no clock, no store."""
