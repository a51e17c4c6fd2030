# SPDX-License-Identifier: GPL-3.0-or-later
"""A person at a real X server: keys and mouse go through the server, with its own key repeat, and acts are counted."""

from __future__ import annotations

import contextlib
import os
import subprocess
import threading
import time
from collections.abc import Callable

from Xlib import XK, X, display, error
from Xlib.ext import xtest

RATE = 20.0  # keys a second
SHIFTED = dict(zip('!@#$%^&*()_+{}|:"<>?~', "1234567890-=[]\\;',./`"))
NAMES = {
    "space": " ", "ctrl": "Control_L", "shift": "Shift_L", "alt": "Alt_L", ".": "period", ",": "comma", "-": "minus", "/": "slash",
    " ": "space", "=": "equal", "'": "apostrophe", ";": "semicolon", "_": "underscore",
}  # fmt: skip


class XServer:
    """An Xvfb of its own, on a display that nobody else has."""

    def __init__(self, size: str = "1280x800x24") -> None:
        read, write = os.pipe()
        self.process = subprocess.Popen(
            ["Xvfb", "-displayfd", str(write), "-screen", "0", size, "-nolisten", "tcp", "-noreset"],
            pass_fds=[write], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        os.close(write)
        with os.fdopen(read) as told:  # to the end of its line: a pipe that is shut too soon ends it
            self.display = f":{told.readline().strip()}"
        assert self.display != ":", "no X server"
        limit = time.monotonic() + 20.0
        while True:  # it tells its number a moment before it answers
            with contextlib.suppress(error.DisplayError, OSError):
                display.Display(self.display).close()
                return
            assert time.monotonic() < limit and self.process.poll() is None, (self.display, self.process.poll())
            threading.Event().wait(0.05)

    def end(self) -> None:
        """End it, and wait."""
        self.process.terminate()
        self.process.wait()


class Typist:
    """Types at a steady rate. acts: each word or figure, each chord and each click, as a person would count them; what only ends a
    figure or goes to the next field is none by itself."""

    def __init__(self, name: str, rate: float = RATE) -> None:
        self.display = display.Display(name)
        self.every = 1.0 / rate
        self.acts = 0
        self._pause = threading.Event()
        self._next = time.monotonic()

    def _in_time(self) -> None:
        """Not faster than the rate."""
        self._pause.wait(max(0.0, self._next - time.monotonic()))
        self._next = max(time.monotonic(), self._next) + self.every

    def _code(self, name: str) -> int:
        symbol = XK.string_to_keysym(NAMES.get(name, name)) or XK.string_to_keysym(name)
        code = self.display.keysym_to_keycode(symbol)
        assert code, f"no key {name}"
        return code

    def _event(self, kind: int, detail: int) -> None:
        xtest.fake_input(self.display, kind, detail)
        self.display.flush()

    def chord(self, words: str, count: bool = True) -> None:
        """A key with its modifiers: ctrl+shift+x."""
        *held, key = words.split("+")
        self.acts += count
        self._in_time()
        codes = [self._code(k) for k in (*held, key)]
        for code in codes:
            self._event(X.KeyPress, code)
        for code in reversed(codes):
            self._event(X.KeyRelease, code)

    def step(self, *keys: str) -> None:
        """Tab, Enter or Escape after a figure: no act by itself."""
        for key in keys:
            self.chord(key, count=False)

    def type(self, words: str) -> None:
        """A word or a figure."""
        self.acts += 1
        for letter in words:
            plain = SHIFTED.get(letter, letter.lower())
            self.chord(f"shift+{plain}" if plain != letter else plain, count=False)

    def hold(self, key: str, seconds: float, until: Callable[[], bool] | None = None) -> None:
        """Keep a key down; the server repeats it. until: and for as long after that as nothing comes of it, 15 s at the most."""
        code = self._code(key)
        self._in_time()
        self._event(X.KeyPress, code)
        self._pause.wait(seconds)
        limit = time.monotonic() + 15.0
        while until is not None and not until() and time.monotonic() < limit:
            self._pause.wait(0.02)
        self._event(X.KeyRelease, code)
        self._next = time.monotonic() + self.every

    def move(self, x: int, y: int) -> None:
        """The pointer, on the screen."""
        xtest.fake_input(self.display, X.MotionNotify, x=x, y=y)
        self.display.flush()

    def click(self, x: int, y: int, button: int = 1) -> None:
        """A click there."""
        self.acts += 1
        self._in_time()
        self.move(x, y)
        self._event(X.ButtonPress, button)
        self._event(X.ButtonRelease, button)

    def keep_down(self, x: int, y: int, seconds: float) -> None:
        """The first button kept down there."""
        self.acts += 1
        self._in_time()
        self.move(x, y)
        self._event(X.ButtonPress, 1)
        self._pause.wait(seconds)
        self._event(X.ButtonRelease, 1)

    def drag(self, x0: int, y0: int, x1: int, y1: int, button: int = 1, steps: int = 8) -> None:
        """A drag, in steps."""
        self.acts += 1
        self.move(x0, y0)
        self._event(X.ButtonPress, button)
        for i in range(1, steps + 1):
            self._in_time()
            self.move(round(x0 + (x1 - x0) * i / steps), round(y0 + (y1 - y0) * i / steps))
        self._event(X.ButtonRelease, button)

    def focus(self, window: int) -> None:
        """What a window manager does: the keys go to this window."""
        with contextlib.suppress(error.XError):
            self.display.create_resource_object("window", window).set_input_focus(X.RevertToParent, X.CurrentTime)
            self.display.flush()
