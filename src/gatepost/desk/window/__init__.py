# SPDX-License-Identifier: GPL-3.0-or-later
"""The main window: the desk view, the open job, and what shows a plan."""
