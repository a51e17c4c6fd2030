# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated machine as a process of its own: newline-delimited JSON over TCP, one client at a time.

python -m gatepost.machine.standins.server --listen 127.0.0.1:0 --speed max --wood HEIGHTS.npy --profile FILE
"""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import json
import math
import os
import re
import shutil
import signal
import sys
import threading
import time
import tty
from pathlib import Path

import numpy as np

from gatepost.machine.standins import motion
from gatepost.machine.standins.messages import AFTER, FAULTS, LAG
from gatepost.machine.standins.router import Router
from gatepost.machine.standins.state import Profile
from gatepost.machine.standins.wood import BedWood
from gatepost.machine.standins.world import World

LONGEST = 64 * 1024
SAVED_NAME = re.compile(r"[A-Za-z0-9-]{1,60}", re.ASCII)
LEAST_SPAN = 0.02  # s that hurried time passes at once at the least
SAY_EVERY = 0.05  # s between states while moving


class Server:
    """Holds the machine, lets its time pass, and talks to whoever is connected."""

    def __init__(self, router: Router, speed: float, keep: Path | None) -> None:
        self.router = router
        self.speed = speed
        self.keep = keep
        self.writer: asyncio.StreamWriter | None = None
        self.wake = asyncio.Event()
        self.heard = 0
        self._part = b""
        self._spoiling = False

    async def client(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Serve one client until it goes; another meanwhile is told so and closed."""
        if self.writer is not None:
            writer.write(b'{"say": "refused", "do": "", "n": 0, "reason": "another desk is connected"}\n')
            writer.close()
            return
        self.writer = writer
        try:
            while True:
                line = await reader.readline()
                if not line or len(line) > LONGEST:
                    break
                self._take(line)
                if "drop link" in self.router.faults and self.router.done > 12:
                    break
        except (ConnectionError, ValueError, asyncio.LimitOverrunError):
            pass
        finally:
            self.writer = None
            if self.router.state == "moving":
                self.router.braking = True  # nobody is there: come to a stand, keep the queue
            with contextlib.suppress(ConnectionError):
                writer.close()

    def _take(self, line: bytes) -> None:
        self.heard += 1
        try:
            message = json.loads(line)
        except (ValueError, RecursionError):
            message = None
        if not isinstance(message, dict):
            self.router.said.append({"say": "refused", "do": "", "n": 0, "reason": "that is not a JSON object"})
        elif message.get("do") == "save-wood":
            self._save(message.get("name", "wood"))
        else:
            self.router.hear(message)
        if "stall" in self.router.faults and self.router.taken > 100 and self.router.state == "moving":
            self.router.fault("the Z drive has stalled")
        self._flush()
        self.wake.set()

    def _save(self, name: object) -> None:
        wood = self.router.wood
        sound = isinstance(name, str) and SAVED_NAME.fullmatch(name) is not None
        why = "" if sound else "its name is not of letters, digits and hyphens"
        why = why or ("no folder was named to keep wood in" if self.keep is None or wood is None else "")
        if not why:
            assert self.keep is not None and wood is not None
            path = self.keep / f"{name}.npy"
            frame = {
                "x0": wood.x0, "y0": wood.y0, "cell": wood.cell, "outline": wood.outline.tolist(),
                "skew": wood.skew, "slide": wood.slide.tolist(),
            }  # fmt: skip
            try:
                np.save(path, np.where(wood.z > -1e8, wood.z, np.nan).astype(np.float32))
                path.with_suffix(".json").write_text(json.dumps(frame))
            except OSError as error:
                why = f"it can't be written: {error.strerror or error}"
        if why:
            self.router.said.append({"say": "refused", "do": "save-wood", "n": 0, "reason": why})
        else:
            self.router.said.append({"say": "saved", "path": str(path)})

    def _flush(self) -> None:
        out = []
        if self.router.dark:  # with the power the link is gone too
            self.router.dark = False
            self.router.said.clear()
            if self.writer is not None:
                self.writer.close()
            return
        while self.router.said:
            out.append(self.router.said.popleft())
        if out and self.writer is not None and not self.writer.is_closing():
            data = b"".join((json.dumps(m) + "\n").encode() for m in self._spoilt(out))
            if "lag" in self.router.faults:
                asyncio.get_running_loop().call_later(LAG, self._write, data)
            elif "split" in self.router.faults:  # a few bytes now, the rest a moment later: lines split and joined
                self._part += data
                loop = asyncio.get_running_loop()
                loop.call_later(0.002, self._write_part)
            else:
                self._write(data)

    def _write(self, data: bytes) -> None:
        if data and self.writer is not None and not self.writer.is_closing():
            self.writer.write(data)

    def _write_part(self) -> None:
        count = max(1, len(self._part) * 2 // 3)
        now, self._part = self._part[:count], self._part[count:]
        self._write(now)
        if self._part:
            asyncio.get_running_loop().call_later(0.002, self._write_part)

    def _spoilt(self, said: list[dict[str, object]]) -> list[dict[str, object]]:
        """What is said, as the faults have it."""
        faults, r = self.router.faults, self.router
        if not faults or r.taken < AFTER and not self._spoiling:
            return said
        self._spoiling = True
        if "die" in faults:
            os._exit(3)
        if "mute" in faults:
            return []
        if "no ack" in faults:
            return [m for m in said if m["say"] not in ("taken", "done")]
        if "double ack" in faults:
            return [m for m in said for _ in range(2 if m["say"] == "done" else 1)]
        if "garble" in faults:
            return [{**m, "say": str(m["say"])[::-1]} if m["say"] == "taken" else m for m in said]
        if "late answer" in faults and any(m["say"] == "stopped" for m in said):
            return [*said, {"say": "done", "n": r.done + 1}]
        return said

    async def run(self) -> None:
        """Let the machine's time pass at its speed; with nothing to do, sleep until spoken to."""
        last = told = time.monotonic()
        fed = self.heard
        idle_since = last
        while True:
            now = time.monotonic()
            if self.router.state != "moving":
                self.wake.clear()
                with contextlib.suppress(asyncio.TimeoutError):
                    await asyncio.wait_for(self.wake.wait(), 0.2)
                last = idle_since = time.monotonic()
                continue
            if self.heard != fed:
                fed, idle_since = self.heard, now
            by_hand = (
                self.router.moving_kind == "creeping"
            )  # in real time, whatever the speed: somebody watches the bit
            if self.speed != 1.0 and self.router.hungry and not self.router.braking and now - idle_since < 0.5:
                await asyncio.sleep(0.0005)  # hurried time waits for blocks on their way; real time would not
                last = time.monotonic()
                continue
            span = now - last if by_hand else 2.0 if math.isinf(self.speed) else max((now - last) * self.speed, 0.001)
            most = max(0.5 * self.router.fed_for, LEAST_SPAN) if self.speed != 1.0 else 5.0
            self.router.advance(min(span, most, 5.0))
            last = now
            if now - told > SAY_EVERY and self.router.state == "moving":
                self.router.tell()
                told = now
            self._flush()
            await asyncio.sleep(0.0 if math.isinf(self.speed) and not by_hand else 0.004)


class TerminalWriter:
    """Writes to a pseudo-terminal's near end as it takes it."""

    def __init__(self, fd: int) -> None:
        self._fd = fd
        self._kept = b""

    def write(self, data: bytes) -> None:
        """Keep what has to be said, and say what goes now."""
        self._kept += data
        with contextlib.suppress(BlockingIOError):
            while self._kept:
                self._kept = self._kept[os.write(self._fd, self._kept[:1024]) :]

    def is_closing(self) -> bool:
        """It never closes: nobody can see a desk go."""
        return False


async def serve_terminal(router: Router, speed: float, keep: Path | None) -> None:
    """Listen on a pseudo-terminal, say where, and serve until ended. A new desk begins with hello."""
    near, far = os.openpty()
    tty.setraw(far)
    os.set_blocking(near, False)
    server = Server(router, speed, keep)
    writer = TerminalWriter(near)
    server.writer = writer  # type: ignore[assignment]
    kept = bytearray()

    def heard() -> None:
        with contextlib.suppress(BlockingIOError):
            kept.extend(os.read(near, 65536))
        while (end := kept.find(b"\n")) >= 0:
            line = bytes(kept[: end + 1])
            del kept[: end + 1]
            server._take(line)
        if len(kept) > LONGEST:
            kept.clear()

    async def pump() -> None:
        while True:
            writer.write(b"")
            await asyncio.sleep(0.002)

    asyncio.get_running_loop().add_reader(near, heard)
    print(f"listening {os.ttyname(far)}", flush=True)
    await asyncio.gather(server.run(), pump())


async def serve(router: Router, host: str, port: int, speed: float, keep: Path | None) -> None:
    """Listen, say where, and serve until ended."""
    server = Server(router, speed, keep)
    listening = await asyncio.start_server(server.client, host, port, limit=LONGEST)
    where = listening.sockets[0].getsockname()
    print(f"listening {where[0]}:{where[1]}", flush=True)
    async with listening:
        await server.run()


def _end_with(parent: int, folder: Path | None) -> None:
    """A machine that somebody started for themselves does not stay when they are gone, nor does its folder."""
    while os.getppid() == parent:
        time.sleep(0.5)
    if folder is not None and folder.name.startswith(f"gatepost-machine-{parent}-"):
        shutil.rmtree(folder, ignore_errors=True)
    os._exit(0)


def _when_asked_to_end(folder: Path | None) -> None:
    """A machine of its own takes its folder away when it is asked to end; one that was started for a desk leaves that to it."""

    def end(*_: object) -> None:
        if folder is not None and folder.name.startswith(f"gatepost-machine-{os.getpid()}-"):
            shutil.rmtree(folder, ignore_errors=True)
        os._exit(0)

    signal.signal(signal.SIGTERM, end)


def main(arguments: list[str] | None = None) -> int:
    """Run the simulated machine."""
    parser = argparse.ArgumentParser(prog="simulated-machine", description=__doc__)
    parser.add_argument("--listen", default="127.0.0.1:0")
    parser.add_argument("--speed", default="1")
    parser.add_argument("--wood", type=Path)
    parser.add_argument("--profile", type=Path)
    parser.add_argument("--keep", type=Path)
    parser.add_argument("--with-parent", action="store_true", help="end when whoever started it has ended")
    parser.add_argument("--seed", type=int, help="of the shop: bits, board and touches a little otherwise than planned")
    parser.add_argument("--fault", nargs="*", default=[], choices=FAULTS)
    asked = parser.parse_args(arguments)
    if asked.with_parent:
        threading.Thread(target=_end_with, args=(os.getppid(), asked.keep), daemon=True).start()
    _when_asked_to_end(asked.keep)
    try:
        profile = Profile(**json.loads(asked.profile.read_text("utf-8"))) if asked.profile else Profile()
        wood = BedWood.load(asked.wood) if asked.wood else None
    except (OSError, ValueError, KeyError, TypeError, EOFError) as error:
        why = getattr(error, "strerror", None) or error
        sys.stderr.write(f"The simulated machine can't use {(asked.wood or asked.profile).name}: {why}.\n")
        return 2
    speed = math.inf if asked.speed == "max" else float(asked.speed)
    motion.warm()
    router = Router(profile, wood, tuple(asked.fault), world=World(asked.seed))
    try:
        if asked.listen == "pty":
            asyncio.run(serve_terminal(router, speed, asked.keep))
        else:
            host, _, port = asked.listen.rpartition(":")
            asyncio.run(serve(router, host or "127.0.0.1", int(port), speed, asked.keep))
    except KeyboardInterrupt:
        pass
    except OSError as error:
        sys.stderr.write(f"The simulated machine can't listen at {asked.listen}: {error.strerror or error}.\n")
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
