# SPDX-License-Identifier: GPL-3.0-or-later
"""Is it flat enough, and how to make it so."""
