# SPDX-License-Identifier: GPL-3.0-or-later
"""What was done, what came of it, and what was learned."""
