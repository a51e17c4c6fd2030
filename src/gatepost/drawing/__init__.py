# SPDX-License-Identifier: GPL-3.0-or-later
"""A plan becomes shapes in mm with roles; every painter paints these."""
