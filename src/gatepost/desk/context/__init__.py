# SPDX-License-Identifier: GPL-3.0-or-later
"""What everything at the desk is given: the open job, what is shown of it, messages, and the table of what can be done."""
