# SPDX-License-Identifier: GPL-3.0-or-later
"""What plans came to when their programs were last looked through: jobs as files, and what was written of each."""
