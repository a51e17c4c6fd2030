# SPDX-License-Identifier: GPL-3.0-or-later
"""The start page and the list of recent jobs."""
