# SPDX-License-Identifier: GPL-3.0-or-later
"""Ways of coming from the setup before: one module each."""
