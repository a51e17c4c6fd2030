# SPDX-License-Identifier: GPL-3.0-or-later
"""Lettering, V-cuts and cut-outs."""
