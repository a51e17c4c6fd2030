# SPDX-License-Identifier: GPL-3.0-or-later
"""RS-274 programs: written, read back, timed."""
