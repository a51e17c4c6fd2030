# SPDX-License-Identifier: GPL-3.0-or-later
"""Job files damaged, filled with strange values, and saved by a process that is killed."""

from __future__ import annotations

import copy
import hashlib
import io
import json
import os
import random
import signal
import time
import zipfile
from pathlib import Path

from gatepost.core.cache import Memory
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job.file import Document, from_bytes, load, save, to_bytes
from gatepost.core.job.journal import NUMBERS, WANTED, Kind
from gatepost.core.plan.pipeline import plan
from gatepost.core.zero.trust import trust, where

_MEMORY = Memory(keep=8)


def damaged(data: bytes, seed: int) -> bytes:
    """A job file cut short or changed somewhere."""
    chance = random.Random(seed)
    out = bytearray(data)
    way = seed % 6
    at = chance.randrange(len(out))
    if way == 0:
        return bytes(out[:at])
    if way == 1:
        for _ in range(chance.choice((1, 1, 2, 40))):
            out[chance.randrange(len(out))] = chance.randrange(256)
    elif way == 2:
        out[at] ^= 1 << chance.randrange(8)
    elif way == 3:
        size = chance.randrange(1, 600)
        out[at : at + size] = bytes(len(out[at : at + size]))
    elif way == 4:
        size = chance.randrange(1, 600)
        del out[at : at + size]
    else:
        size = chance.randrange(1, 600)
        other = chance.randrange(len(out))
        out[at:at] = out[other : other + size]
    return bytes(out)


def of_damage(document: Document, seed: int) -> str:
    """What a damaged file opens to: ``same`` or ``refused``; anything else raises."""
    data = to_bytes(document)
    try:
        again = from_bytes(damaged(data, seed), "board.gatepost")
    except UnusableFile as error:
        assert "board.gatepost" in str(error) or "journal" in str(error), error
        assert len(str(error)) > 25, error
        return "refused"
    assert again == document, f"seed {seed} opened to another job"
    return "same"


STRANGE = (
    None, True, -1, 0, 1e308, -1e308, 1e-320, 10**30, "", "x" * 5000, "\u0000", "\ud800", [], {}, [[]], "NaN",
    [[[[[[1]]]]]] * 50, "../../x", 0.1 + 0.2, "1e5",
)  # fmt: skip


def strange(document: Document, seed: int) -> bytes:
    """A whole file, sums and all, with one or two values of the job made strange."""
    chance = random.Random(seed)
    raw = document.job.model_dump(mode="json")
    for _ in range(chance.choice((1, 1, 2))):
        node = raw
        while True:
            keys = list(node) if isinstance(node, dict) else list(range(len(node)))
            if not keys:
                break
            key = chance.choice(keys)
            below = node[key]
            if isinstance(below, (dict, list)) and below and chance.random() < 0.85:
                node = below
                continue
            node[key] = copy.deepcopy(chance.choice(STRANGE))
            break
    return packed({"job.json": json.dumps(raw).encode(), "journal.jsonl": b""})


def packed(parts: dict[str, bytes]) -> bytes:
    """A job file of parts, with its sums."""
    sums = {name: hashlib.sha256(data).hexdigest() for name, data in parts.items()}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in {**parts, "sums.json": json.dumps(sums).encode()}.items():
            archive.writestr(name, data)
    return out.getvalue()


def of_strangeness(document: Document, seed: int, planned: bool = True) -> str:
    """What a strange job comes to: refused with a sentence, or opened, and planned without a crash."""
    try:
        again = from_bytes(strange(document, seed), "board.gatepost")
    except UnusableFile as error:
        assert str(error).endswith("."), error
        return "refused"
    if not planned:
        return "opened"
    try:
        plan(again.job, again.journal, coarse=True)
    except OperatorError:
        return "opened, not to be planned"
    return "planned"


def of_a_kill(folder: Path, old: Document, new: Document, seed: int) -> str:
    """A save killed somewhere: the file is the old one or the new one, whole."""
    path = folder / "kept.gatepost"
    save(old, path)
    ready, told = os.pipe()
    child = os.fork()
    if child == 0:
        os.write(told, b"x")
        save(new, path)
        os._exit(0)
    os.read(ready, 1)
    until = time.perf_counter() + random.Random(seed).random() * 0.05
    while time.perf_counter() < until:
        pass
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    os.close(ready)
    os.close(told)
    found = load(path)
    assert found in (old, new), "neither the old file nor the new one"
    for left in folder.iterdir():
        if left != path:
            left.unlink()
    return "old" if found == old else "new"


def of_a_journal(document: Document, seed: int) -> str:
    """A whole file whose journal has strange entries: refused with a sentence, or opened, planned and reckoned on."""
    chance = random.Random(seed)
    lines = []
    for n in range(1, chance.randrange(2, 14)):
        kind = chance.choice(list(Kind.__args__))
        names = [*WANTED.get(kind, ()), *chance.sample(sorted(NUMBERS), 2), "words", "step", "program", "outcome"]
        data = {m: chance.choice((1.0, -62.5, 3, "x", "front", "face")) for m in names if chance.random() < 0.8}
        data |= {"axis": chance.choice("xyzw")} if chance.random() < 0.7 else {}
        if chance.random() < 0.25 and data:
            data[chance.choice(list(data))] = chance.choice(STRANGE)
        entry = {
            "seq": n,
            "at": "2026-11-20T10:00:00",
            "kind": kind,
            "setup": chance.choice(("front", "", "surface")),
            "data": data,
        }
        if chance.random() < 0.08:
            entry[chance.choice(list(entry))] = chance.choice(STRANGE)
        lines.append(json.dumps(entry))
    raw = json.dumps(document.job.model_dump(mode="json"))
    try:
        again = from_bytes(
            packed({"job.json": raw.encode(), "journal.jsonl": "\n".join(lines).encode()}), "board.gatepost"
        )
    except UnusableFile as error:
        assert str(error).endswith(".") and len(str(error)) > 25, error
        return "refused"
    for setup in again.job.setups:
        trust(again.journal.standing(), where(again.job, setup))
    try:
        plan(again.job, again.journal, _MEMORY, coarse=True)
    except OperatorError:
        return "opened, not to be planned"
    return "planned"
