# SPDX-License-Identifier: GPL-3.0-or-later
"""Window, worker, messages, saving."""
