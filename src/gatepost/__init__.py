# SPDX-License-Identifier: GPL-3.0-or-later
"""Gatepost: a bench companion for people who run a CNC wood router."""
