# SPDX-License-Identifier: GPL-3.0-or-later
"""Outlines, curves and the medial axis, over well-kept libraries."""
