# SPDX-License-Identifier: GPL-3.0-or-later
"""Kinds of operation that carve: one module each."""
