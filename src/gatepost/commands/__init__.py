# SPDX-License-Identifier: GPL-3.0-or-later
"""The command line's verbs, a module each. A module has the verb's WORDS and EXAMPLE, ``arguments`` that adds its options to a
parser, and ``carry_out``, which gives the exit code."""
