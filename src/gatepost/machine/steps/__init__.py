# SPDX-License-Identifier: GPL-3.0-or-later
"""How each kind of step is carried out."""
