# SPDX-License-Identifier: GPL-3.0-or-later
"""Dialogs over the window."""
