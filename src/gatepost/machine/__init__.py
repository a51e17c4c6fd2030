# SPDX-License-Identifier: GPL-3.0-or-later
"""The link to a machine, the runner, and the machines that can be stood in."""
