# SPDX-License-Identifier: GPL-3.0-or-later
"""A serial line or pseudo-terminal that behaves like a connected socket, as far as a session needs."""

from __future__ import annotations

import os
import select
import termios
import time
import tty


class TerminalLine:
    """Opens a terminal device raw. recv raises TimeoutError like a socket; sendall writes whole."""

    def __init__(self, path: str) -> None:
        self._fd = os.open(path, os.O_RDWR | os.O_NOCTTY | os.O_NONBLOCK)
        try:
            tty.setraw(self._fd, termios.TCSANOW)
        except termios.error as error:
            os.close(self._fd)
            raise OSError(f"{path} is no terminal") from error
        self._timeout = 1.0

    def settimeout(self, seconds: float) -> None:
        """How long recv and sendall wait."""
        self._timeout = seconds

    def recv(self, most: int) -> bytes:
        """What has come, at least a byte; nothing when the line is gone."""
        if not select.select([self._fd], [], [], self._timeout)[0]:
            raise TimeoutError
        try:
            return os.read(self._fd, most)
        except BlockingIOError:
            raise TimeoutError from None
        except OSError:
            return b""

    def sendall(self, data: bytes) -> None:
        """Write all of it, or raise OSError when the line does not take it for a while."""
        limit = time.monotonic() + max(self._timeout, 5.0)
        while data:
            if not select.select([], [self._fd], [], self._timeout)[1]:
                if time.monotonic() > limit:
                    raise OSError("the line takes nothing")
                continue
            try:
                data = data[os.write(self._fd, data[:1024]) :]
            except BlockingIOError:
                continue

    def close(self) -> None:
        """Let go of the line."""
        os.close(self._fd)
