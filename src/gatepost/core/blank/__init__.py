# SPDX-License-Identifier: GPL-3.0-or-later
"""What is known of the wood."""
