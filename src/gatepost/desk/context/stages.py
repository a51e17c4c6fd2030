# SPDX-License-Identifier: GPL-3.0-or-later
"""The stages of a job, in the order of the fence."""

NAMES = {
    "blank": "Blank", "surface": "Surface", "hold": "Hold", "zero": "Zero", "register": "Register", "carve": "Carve",
    "tools": "Tools", "run": "Run", "finish": "Finish", "log": "Log",
}  # fmt: skip
STAGES = tuple(NAMES)
