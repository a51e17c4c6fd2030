# SPDX-License-Identifier: GPL-3.0-or-later
"""What can be done, by subject: each is given the desk it works on."""
