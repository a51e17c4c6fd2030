# SPDX-License-Identifier: GPL-3.0-or-later
"""Recent jobs, with the picture of their sign and how they stood when they were saved."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from gatepost.core.writing import write_whole

MOST = 8


@dataclass(frozen=True)
class RecentJob:
    """A job that is still there. state: how it stood, in a few words; shut: whether something bars its run."""

    path: Path
    name: str
    picture: Path
    state: str = ""
    shut: bool = False


def picture_of(data: Path, job: Path) -> Path:
    """Where the picture of a job's sign is kept."""
    return data / "pictures" / f"{hashlib.sha256(str(job.resolve()).encode()).hexdigest()[:16]}.png"


def recent(data: Path) -> list[RecentJob]:
    """Recent jobs that are still there, newest first."""
    out: list[RecentJob] = []
    for row in _rows(data):
        try:
            path = Path(row["path"])
            if path.exists():
                state, shut = str(row.get("state", "")), bool(row.get("shut", False))
                out.append(RecentJob(path, str(row["name"]), picture_of(data, path), state, shut))
        except (KeyError, TypeError, ValueError, OSError):
            continue
    return out


def _rows(data: Path) -> list[Any]:
    try:
        rows = json.loads((data / "recent.json").read_text("utf-8"))
    except (OSError, ValueError):
        return []
    return [row for row in rows if isinstance(row, dict)] if isinstance(rows, list) else []


def remember(data: Path, job: Path, name: str, state: str | None = None, shut: bool = False) -> Path:
    """Put a job at the head of the list; gives where its picture goes. state: how it stands; nothing leaves what was said of it."""
    known = {r.path.resolve(): r for r in recent(data)}
    old = known.pop(job.resolve(), None)
    if state is None and old is not None:
        state, shut = old.state, old.shut
    first = {"path": str(job.resolve()), "name": name, "state": state or "", "shut": shut}
    rest = [{"path": str(r.path), "name": r.name, "state": r.state, "shut": r.shut} for r in known.values()]
    write_whole(data / "recent.json", json.dumps([first, *rest][:MOST], ensure_ascii=False).encode())
    picture = picture_of(data, job)
    picture.parent.mkdir(parents=True, exist_ok=True)
    return picture
