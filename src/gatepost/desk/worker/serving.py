# SPDX-License-Identifier: GPL-3.0-or-later
"""How the process that works plans out begins: ``python -m gatepost.desk.worker.serving FD``, a socket it answers on."""

from __future__ import annotations

import signal
import sys
from multiprocessing.connection import Connection


def main() -> None:
    """Answer requests until the socket closes."""
    from gatepost.desk.worker.server import serve

    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the window is told, and ends it
    serve(Connection(int(sys.argv[1])))


if __name__ == "__main__":
    main()
