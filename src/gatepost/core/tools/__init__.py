# SPDX-License-Identifier: GPL-3.0-or-later
"""The order of tools and where each touches off."""
