# SPDX-License-Identifier: GPL-3.0-or-later
"""Finish: sanding, coats, resin, hanging, and when it is ready."""
