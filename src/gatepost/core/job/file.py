# SPDX-License-Identifier: GPL-3.0-or-later
"""The job file: a zip with job.json, journal.jsonl and a list of sums. docs/job-format.md describes it.

History of the format: 1, the first; 2 with the underside, supports and shims; 3 with shapes, photos and what is known of the
wood; 4 with every way of holding, what stays on the bed, and the ways of touching; 5 with artwork, and with setups and
operations as lists. What 2 to 4 brought is optional; what was before 5 is told anew. A newer one is refused.
"""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import io
import json
import os
import re
import time
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job.base import complaint
from gatepost.core.job.blank import PICTURE
from gatepost.core.job.drawing import SOURCE, DrawnFigures
from gatepost.core.job.history import from_4, of_first_days
from gatepost.core.job.journal import Journal, read_lines, write_lines
from gatepost.core.job.kinds import SHIPPED, FigureTables
from gatepost.core.job.model import FORMAT, Job
from gatepost.core.job.relief import HeightsFigures
from gatepost.core.picture import picture_is_sound
from gatepost.core.reading import read_whole
from gatepost.core.writing import write_whole

SUFFIX = ".gatepost"
LARGEST = 64 * 1024 * 1024  # of one part, unpacked
MOST_TOGETHER = 2 * LARGEST  # of the file, and of all its parts unpacked
ROOM = 2**20  # for what a file has beside its parts
LARGEST_TEXT = 16 * 1024 * 1024  # of job.json and of the journal
MOST_PARTS = 512  # more than a job may have artwork, each with what it was read from
DEEPEST = 40  # nesting of job.json
_PARTS = ("job.json", "journal.jsonl")
IS_PICTURE = re.compile(PICTURE, re.ASCII)
IS_KEPT = re.compile(rf"{PICTURE}|{SOURCE}", re.ASCII)  # what may be kept beside the job itself
_STAMP = (1980, 1, 1, 0, 0, 0)  # so that the same job gives the same bytes


@dataclass(frozen=True)
class Document:
    """A job with its journal and the pictures and drawings that it names, by the names of the parts that hold them."""

    job: Job
    journal: Journal = Journal()
    pictures: Mapping[str, bytes] = field(default_factory=dict)

    def kept(self) -> dict[str, bytes]:
        """The pictures and drawings that the job names."""
        return {name: data for name, data in sorted(self.pictures.items()) if name in _named(self.job)}


def picture_name(data: bytes, squared: bool = False) -> str:
    """The name of the part that holds a picture, from what is in it."""
    ending = "png" if data[:4] == b"\x89PNG" else "jpg"
    return f"photo-{hashlib.sha256(data).hexdigest()[:12]}{'-squared' if squared else ''}.{ending}"


def source_name(data: bytes, ending: str) -> str:
    """The name of the part that holds what a drawing was read from. ending: of the file, with its point."""
    return f"art-{hashlib.sha256(data).hexdigest()[:12]}{ending.lower().replace('.jpeg', '.jpg')}"


def to_bytes(document: Document) -> bytes:
    """The file's bytes. Raises OperatorError where they could not be opened again."""
    text = json.dumps(document.job.model_dump(mode="json"), ensure_ascii=False, indent=1, sort_keys=True)
    parts = {"job.json": text.encode(), "journal.jsonl": write_lines(document.journal).encode(), **document.kept()}
    sums = {name: hashlib.sha256(data).hexdigest() for name, data in parts.items()}
    parts["sums.json"] = json.dumps(sums, sort_keys=True).encode()
    _opens_again(parts)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in parts.items():
            packed = (
                zipfile.ZIP_STORED if IS_PICTURE.fullmatch(name) else zipfile.ZIP_DEFLATED
            )  # pictures are packed already
            archive.writestr(zipfile.ZipInfo(name, _STAMP), data, packed)
    return out.getvalue()


def _opens_again(parts: Mapping[str, bytes]) -> None:
    """Nothing is saved that would be refused when it is opened."""
    large = next((n for n in _PARTS if len(parts[n]) > LARGEST_TEXT), "")
    if large:
        raise OperatorError(
            f"The job can't be saved: its {large} has {len(parts[large]) / 2**20:.0f} MB, and {LARGEST_TEXT // 2**20} is the most that opens again. "
            "Take a drawing away, or bring it in with fewer points."
        )
    together = sum(len(data) for data in parts.values())
    if together > MOST_TOGETHER - ROOM:
        raise OperatorError(
            f"The job can't be saved: its drawings and pictures have {together / 2**20:.0f} MB together, and {MOST_TOGETHER // 2**20} is the most "
            "that opens again. Take one away, or bring it in smaller."
        )


def from_bytes(data: bytes, name: str = "The file", kinds: FigureTables = SHIPPED) -> Document:
    """Read a job file. Raises UnusableFile with what is wrong and what can be saved."""
    parts = _unpack(data, name)
    try:
        sums = json.loads(parts.get("sums.json", b"{}"))
    except ValueError:
        sums = {}
    for part in _PARTS:
        if part not in parts:
            raise UnusableFile(f"{name} is damaged: its {part} is missing. {_advice(parts)}")
        if not isinstance(sums, dict) or sums.get(part) != hashlib.sha256(parts[part]).hexdigest():
            raise UnusableFile(f"{name} is damaged: its {part} is not what was saved. {_advice(parts)}")
    try:
        journal = read_lines(parts["journal.jsonl"].decode().splitlines())
    except UnicodeDecodeError:
        raise UnusableFile(f"{name} is damaged: its journal is not text.") from None
    pictures = {}
    for part in parts:
        if IS_KEPT.fullmatch(part):
            if sums.get(part) != hashlib.sha256(parts[part]).hexdigest():
                raise UnusableFile(f"{name} is damaged: its {part} is not what was saved. {_advice(parts)}")
            if not part.endswith((".svg", ".dxf", ".stl")) and not picture_is_sound(parts[part]):
                raise UnusableFile(f"{name} is refused: its {part} is not a PNG or JPEG picture of a size that can be.")
            pictures[part] = parts[part]
    missing = {part for part in sums if IS_KEPT.fullmatch(part)} - set(pictures)
    if missing:
        raise UnusableFile(f"{name} is damaged: its {min(missing)} is missing. {_advice(parts)}")
    return Document(read_job(parts["job.json"], name, kinds), journal, pictures)


def _named(job: Job) -> set[str]:
    """Names of the pictures and drawings that a job names."""
    photo = job.blank.photo
    drawn = {
        a.figures.source
        for a in (*job.artwork, *(one for d in job.designs for one in d.artwork))
        if isinstance(a.figures, (DrawnFigures, HeightsFigures)) and a.figures.source
    }
    return drawn | ({photo.file, photo.squared} if photo is not None else set())


def _advice(parts: dict[str, bytes]) -> str:
    if parts:
        return "Open the copy kept beside it, or take job.json out of it with any unzipping program."
    return "Nothing in it can be saved; open the copy kept beside it."


def _unpack(data: bytes, name: str) -> dict[str, bytes]:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            infos = archive.infolist()
            if len(infos) > MOST_PARTS or len({i.filename for i in infos}) != len(infos):
                raise UnusableFile(f"{name} is refused: it has too many parts, or two of one name.")
            together = 0
            for info in infos:
                together += info.file_size
                if info.filename.startswith("/") or ".." in Path(info.filename).parts or "\\" in info.filename:
                    raise UnusableFile(f"{name} is refused: a part of it points outside the file.")
                if info.file_size > LARGEST:
                    raise UnusableFile(f"{name} is refused: its {info.filename} would unpack to over 64 MB.")
            if together > MOST_TOGETHER:
                raise UnusableFile(
                    f"{name} is refused: its parts would unpack to over {MOST_TOGETHER // 2**20} MB together."
                )
            wanted = [i for i in infos if i.filename in (*_PARTS, "sums.json") or IS_KEPT.fullmatch(i.filename)]
            return {info.filename: _read(archive, info, name) for info in wanted}
    except UnusableFile:
        raise
    except Exception as error:  # zipfile raises a dozen kinds on damaged bytes; all mean the same here
        raise UnusableFile(f"{name} is damaged or not a Gatepost job ({error or type(error).__name__}).") from None


def _read(archive: zipfile.ZipFile, info: zipfile.ZipInfo, name: str) -> bytes:
    most = LARGEST if IS_KEPT.fullmatch(info.filename) else LARGEST_TEXT
    with archive.open(info) as part:
        data = part.read(most + 1)
    if len(data) > most:
        raise UnusableFile(f"{name} is refused: its {info.filename} unpacks to over {most // 2**20} MB.")
    return data


def read_job(text: bytes, name: str = "The file", kinds: FigureTables = SHIPPED) -> Job:
    """Read job.json. kinds: of what it may be made. Raises UnusableFile."""
    if _depth(text) > DEEPEST:
        raise UnusableFile(f"{name} is refused: it is nested deeper than any job.")
    try:
        raw: Any = json.loads(text, parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise UnusableFile(f"{name} can't be read: {error}.") from None
    if not isinstance(raw, dict) or not isinstance(raw.get("format"), int):
        raise UnusableFile(f"{name} is not a Gatepost job: it names no format.")
    if raw["format"] > FORMAT:
        raise UnusableFile(
            f"{name} was saved by a newer Gatepost (format {raw['format']}); this one reads up to {FORMAT}."
        )
    if raw["format"] < 1:
        raise UnusableFile(f"{name} names format {raw['format']}, which never was.")
    try:
        raw = of_first_days({**raw, "format": FORMAT} if raw["format"] == FORMAT else from_4(raw))
        return Job.model_validate_json(json.dumps(raw), context=kinds.context)
    except ValidationError as error:
        raise UnusableFile(f"{name} is not a sound job: {complaint(error)}") from None


def _no_constant(word: str) -> float:
    raise ValueError(f"{word} is not a number that a job can hold")


def _depth(text: bytes) -> int:
    deep = most = 0
    quoted = escaped = False
    for byte in text:
        if quoted:
            if escaped:
                escaped = False
            elif byte == 0x5C:
                escaped = True
            elif byte == 0x22:
                quoted = False
        elif byte == 0x22:
            quoted = True
        elif byte in b"[{":
            deep += 1
            most = max(most, deep)
        elif byte in b"]}":
            deep -= 1
    return most


def load(path: Path, kinds: FigureTables = SHIPPED) -> Document:
    """Open a job file. kinds: of what it may be made. Raises UnusableFile."""
    return from_bytes(read_whole(path, MOST_TOGETHER), path.name, kinds)


@contextlib.contextmanager
def locked(path: Path, patience: float = 20.0) -> Iterator[None]:
    """Alone with a job file while it is read, changed and written again. patience: s to wait for another.

    The file's folder is locked, since the file itself is replaced. Raises OperatorError when another does not let go.
    """
    try:
        folder = os.open(path.resolve().parent, os.O_RDONLY | os.O_CLOEXEC)
    except OSError:  # then nothing can be saved there either, and the save says why
        yield
        return
    try:
        limit = time.monotonic() + patience
        while True:
            try:
                fcntl.flock(folder, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except BlockingIOError:
                if time.monotonic() > limit:
                    raise OperatorError(
                        f"{path.name} is being written by another Gatepost. Try again in a moment."
                    ) from None
                time.sleep(0.02)
            except OSError:  # a file system without locks
                break
        yield
    finally:
        os.close(folder)


def save(document: Document, path: Path) -> None:
    """Write aside, sync, replace: the old file or the new one is always whole. Raises OperatorError."""
    write_whole(path, to_bytes(document))
