# SPDX-License-Identifier: GPL-3.0-or-later
"""Simulated machines started quickly: one process has loaded all that they need and forks them, each a process of its own
with the command line that it would have had."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path


class Forked:
    """A forked machine, as far as a Popen is wanted of it."""

    def __init__(self, pid: int, out: int) -> None:
        self.pid, self.stdout = pid, os.fdopen(out, "r")
        self.returncode: int | None = None

    def poll(self):
        """Its exit code, or nothing while it runs."""
        with contextlib.suppress(FileNotFoundError, ProcessLookupError):
            if Path(f"/proc/{self.pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z":
                return None
        self.returncode = 0
        return 0

    def wait(self, timeout=None):
        """Wait for its end."""
        limit = time.monotonic() + (timeout or 60.0)
        while self.poll() is None:
            if time.monotonic() > limit:
                raise subprocess.TimeoutExpired("machine", timeout or 60.0)
            time.sleep(0.005)
        return 0

    def _signal(self, number):
        with contextlib.suppress(ProcessLookupError):
            os.kill(self.pid, number)

    def terminate(self):
        """Ask it to end."""
        self._signal(signal.SIGTERM)

    def kill(self):
        """End it."""
        self._signal(signal.SIGKILL)


class Nursery:
    """The process that forks them."""

    def __init__(self) -> None:
        self._mine, theirs = socket.socketpair()
        command = [sys.executable, "-m", "tests.nursery", str(theirs.fileno())]
        self.process = subprocess.Popen(command, pass_fds=[theirs.fileno()])
        theirs.close()

    def start(self, words: list[str]) -> Forked:
        """A machine with the words after its module's name."""
        read, write = os.pipe()
        socket.send_fds(self._mine, [json.dumps(words).encode()], [write])
        os.close(write)
        return Forked(int(self._mine.recv(32)), read)

    def end(self) -> None:
        """End it; its machines end with it."""
        self._mine.close()
        self.process.wait(10)


def main(fd: int) -> None:
    """Fork a machine for each command line that comes."""
    from gatepost.machine.standins import motion, server

    motion.warm()
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    asked = socket.socket(fileno=fd)
    while True:
        data, fds, _, _ = socket.recv_fds(asked, 65536, 1)
        if not data:
            return
        child = os.fork()
        if child == 0:
            asked.close()
            signal.signal(signal.SIGCHLD, signal.SIG_DFL)
            os.dup2(fds[0], 1)
            os.close(fds[0])
            sys.stdout = os.fdopen(1, "w")
            os._exit(server.main(json.loads(data)))
        os.close(fds[0])
        asked.send(str(child).encode())


if __name__ == "__main__":
    main(int(sys.argv[1]))
