# SPDX-License-Identifier: GPL-3.0-or-later
"""Register: how a piece comes into a setup from the one before, and whether it lies where the plan has it."""
