# SPDX-License-Identifier: GPL-3.0-or-later
"""The slate beside the bed: checks with their fixes, and figures to be typed."""
