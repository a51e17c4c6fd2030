# SPDX-License-Identifier: GPL-3.0-or-later
"""The removal model: the wood as it will be."""
