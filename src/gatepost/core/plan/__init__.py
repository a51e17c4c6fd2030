# SPDX-License-Identifier: GPL-3.0-or-later
"""The plan: all that is reckoned from a job and what has happened. Rooms import no other room; this one alone knows several."""
