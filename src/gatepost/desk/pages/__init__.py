# SPDX-License-Identifier: GPL-3.0-or-later
"""One page a stage: entries and what to show; nothing is computed here."""
