# SPDX-License-Identifier: GPL-3.0-or-later
"""The process that works plans out, and the pipe to it."""
