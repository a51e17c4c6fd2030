# SPDX-License-Identifier: GPL-3.0-or-later
"""Where X0 Y0 Z0 are, how they are touched, and what is still known of them."""
