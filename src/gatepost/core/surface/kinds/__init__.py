# SPDX-License-Identifier: GPL-3.0-or-later
"""Kinds of operation that make a face flat: one module each."""
