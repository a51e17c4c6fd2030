# SPDX-License-Identifier: GPL-3.0-or-later
"""Faces brought in from files: looked through, then kept among Gatepost's own data, where every job finds them."""

from __future__ import annotations

import re
from pathlib import Path

from gatepost.core.carve import face_folders, faces, families
from gatepost.core.errors import OperatorError
from gatepost.core.reading import read_whole
from gatepost.core.writing import write_whole

FOLDER = "faces"


def brought_in(path: Path, data: Path) -> str:
    """A face out of a TTF, OTF or WOFF file, kept; gives its name. Raises OperatorError."""
    if path.suffix.lower() not in faces.ENDINGS:
        raise OperatorError(f"{path.name} is no TTF, OTF or WOFF file.")
    body = read_whole(path, faces.MOST_BYTES)
    faces.letters_in(body, path.name)
    name = re.sub(r"[^\w .-]", "", path.stem).strip()[:60] or "face"
    if name in faces.SHIPPED:
        name = f"{name} of a file"
    kept = data / FOLDER / f"{name}{path.suffix.lower()}"
    try:
        kept.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise OperatorError(f"{kept.parent} can't be made: {error.strerror or error}.") from None
    write_whole(kept, body)
    for other in kept.parent.glob(f"{name}.*"):  # the same face of another kind
        if other != kept and other.suffix in faces.ENDINGS:
            other.unlink(missing_ok=True)
    face_folders.keep_in(lambda: kept.parent)
    faces.forget()
    families.families.cache_clear()
    return name
