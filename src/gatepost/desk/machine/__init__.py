# SPDX-License-Identifier: GPL-3.0-or-later
"""The view at the machine, and the machine as the window sees it."""
