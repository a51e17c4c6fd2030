# SPDX-License-Identifier: GPL-3.0-or-later
"""Widgets that paint shapes, and painters for files."""
