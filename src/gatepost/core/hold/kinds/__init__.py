# SPDX-License-Identifier: GPL-3.0-or-later
"""Ways of holding, one module each. The table of those that are shipped stands in ``core/plan/kinds.py``."""
