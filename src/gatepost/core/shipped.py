# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the tables of kinds stand that are shipped, module:name: told without loading the rooms."""

KINDS = "gatepost.core.plan.kinds:SHIPPED"
