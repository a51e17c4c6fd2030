# SPDX-License-Identifier: GPL-3.0-or-later
"""Recent jobs and their pictures."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path

from gatepost.core.writing import write_whole

MOST = 8


def _picture(data: Path, job: Path) -> Path:
    return data / "pictures" / f"{hashlib.sha256(str(job.resolve()).encode()).hexdigest()[:16]}.png"


def recent(data: Path) -> list[tuple[Path, str, Path]]:
    """Path, name and picture of recent jobs that are still there, newest first."""
    try:
        rows = json.loads((data / "recent.json").read_text("utf-8"))
        return [
            (Path(r["path"]), str(r["name"]), _picture(data, Path(r["path"]))) for r in rows if Path(r["path"]).exists()
        ]
    except (OSError, ValueError, KeyError, TypeError):
        return []


def remember(data: Path, job: Path, name: str) -> Path:
    """Put a job at the head of the list; gives where its picture goes."""
    rows = [{"path": str(p), "name": n} for p, n, _ in recent(data) if p.resolve() != job.resolve()]
    rows.insert(0, {"path": str(job.resolve()), "name": name})
    write_whole(data / "recent.json", json.dumps(rows[:MOST], ensure_ascii=False).encode())
    picture = _picture(data, job)
    picture.parent.mkdir(parents=True, exist_ok=True)
    return picture
