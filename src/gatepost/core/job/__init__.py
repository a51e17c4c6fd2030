# SPDX-License-Identifier: GPL-3.0-or-later
"""The document: models, journal, commands, file."""
