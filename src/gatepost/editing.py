# SPDX-License-Identifier: GPL-3.0-or-later
"""Jobs made and changed by scripts: commands of the table, one a line, as JSON. docs/commands.md lists them."""

from __future__ import annotations

import inspect
import json
import typing
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job import commands
from gatepost.core.job.carve import Letters
from gatepost.core.job.commands.parts import KINDS
from gatepost.core.job.file import Document, load, save
from gatepost.core.job.hold import Hold
from gatepost.core.job.kinds import SHIPPED
from gatepost.core.job.model import Job
from gatepost.core.reading import read_whole

MOST_BYTES = 16 * 2**20  # of a file of commands, and of a table that one names
NOTHING = "-"  # in the place of a job: a new one, with the tools that are shipped
PHOTO = (
    "marks",
    "across",
    "up",
    "above",
    "above_doubt",
    "lens",
    "lens_doubt",
    "picking",
)  # what is told of a photo with its file
Say = Callable[[str], None]


@dataclass(frozen=True)
class _Place:
    """Where files are named from."""

    folder: Path

    def text(self, name: object) -> str:
        """What a text file says. Raises OperatorError."""
        return read_whole(self.path(name), MOST_BYTES).decode("utf-8-sig", "replace")

    def path(self, name: object) -> Path:
        """A file by the name that a line gives it. Raises OperatorError."""
        if not isinstance(name, str) or not name:
            raise OperatorError("“file” is the name of a file.")
        return self.folder / name


def empty() -> Document:
    """A new job."""
    from gatepost.core.job.tool_table import shipped_tools

    return Document(Job(tools=shipped_tools()))


def edited(document: Document, text: str, folder: Path) -> Document:
    """A job after a file of commands. folder: where files are named from. Raises OperatorError that begins with the line."""
    for number, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        try:
            document = _one(document, line, _Place(folder))
        except OperatorError as error:
            raise OperatorError(f"line {number}: {error}") from None
    return document


def _one(document: Document, line: str, place: _Place) -> Document:
    try:
        values = json.loads(line)
    except (ValueError, RecursionError) as error:
        raise OperatorError(f"That is not one JSON object ({error}).") from None
    if not isinstance(values, dict) or not isinstance(values.get("do"), str):
        raise OperatorError("A line is an object with “do”, a command's name.")
    name = values.pop("do")
    if not all(isinstance(k, str) for k in values):
        raise OperatorError("Values are told by name.")
    values, pictures = _prepared(document.job, name, values, place)
    job = commands.run(document.job, name, values)
    return replace(document, job=job, pictures={**document.pictures, **pictures})


def _prepared(job: Job, name: str, values: dict[str, Any], place: _Place) -> tuple[dict[str, Any], Mapping[str, bytes]]:
    """Values as the command takes them: texts become outlines, files what is in them."""
    if name in ("add line", "set line", "add lettering"):
        if "face_file" in values:
            values["face"] = _face(place.path(values.pop("face_file")))
        if {"text", "face"} & set(values):
            return _shaped(job, name, values), {}
    if name == "add tool" and "tool" not in values:
        from pydantic import ValidationError

        from gatepost.core.job.base import complaint
        from gatepost.core.job.tool import Tool

        try:
            return {"tool": Tool.model_validate(values)}, {}
        except ValidationError as error:
            raise OperatorError(complaint(error)) from None
    if "file" not in values:
        return values, {}
    file = values.pop("file")
    if name == "set outline":
        return _outlined(values, place.path(file))
    if name == "add drawing":
        return _drawn(values, place.path(file))
    if name == "add relief":
        return _relief(values, place.path(file))
    if name == "set heights":
        from gatepost.core.tables import read_heights

        return {**values, "rows": read_heights(place.text(file), str(file)).tolist()}, {}
    if name == "set pieces":
        from gatepost.core.tables import read_table

        columns = ("name", "length", "width", "thickness")
        return {**values, "rows": read_table(place.text(file), str(file), columns, words=("name",))}, {}
    raise OperatorError(f"“{name}” takes nothing from a file.")


def _face(path: Path) -> str:
    """A face out of a file, kept; gives its name."""
    from gatepost import typefaces
    from gatepost.logbook.places import data_folder

    return typefaces.brought_in(path, data_folder())


def _shaped(job: Job, name: str, values: dict[str, Any]) -> dict[str, Any]:
    from gatepost.core.carve.edits import outlines

    old = _line(job, values) if name == "set line" else None
    text, face = (values.get(k, getattr(old, k, default)) for k, default in (("text", ""), ("face", "Serif")))
    if not isinstance(text, str) or not isinstance(face, str):
        raise OperatorError("A text and a face are words.")
    return {**values, **outlines(text, face)}


def _line(job: Job, values: dict[str, Any]) -> Any:
    """The line that is meant, where there is one: of the operation that is named, or of the first lettering."""
    named = values.get("operation", "")
    on = {i for s in job.setups for o in s.operations if named in ("", o.id) for i in o.on}
    art = values.get("art", "")
    letters = (a for a in job.artwork if a.id in on and art in ("", a.id))
    first = next((a.figures for a in letters if isinstance(a.figures, Letters)), None)
    return next((one for one in first.lines if one.id == values.get("line")), None) if first is not None else None


def _drawn(values: dict[str, Any], path: Path) -> tuple[dict[str, Any], Mapping[str, bytes]]:
    """A drawing, or a picture that is traced: as wide as “width” says, at “threshold” (0 black to 1 white), what is “light” or dark."""
    from gatepost import artwork

    data = read_whole(path, artwork.LARGEST)
    unit, threshold, light = values.pop("unit", ""), values.pop("threshold", 0.5), values.pop("light", False)
    if path.suffix.lower() not in artwork.PICTURES:
        layers = values.pop("layers", None)
        if layers is not None and not (
            isinstance(layers, (list, tuple)) and all(isinstance(one, str) for one in layers)
        ):
            raise OperatorError("“layers” is a list of names.")
        found = artwork.brought_in(data, path.name, unit if isinstance(unit, str) else "", layers)
        return {**found.values, **values}, found.pictures
    width = values.get("width")
    if not isinstance(width, (int, float)) or not isinstance(threshold, (int, float)) or not 0 < width < 10_000:
        raise OperatorError("A picture is traced to a “width” in mm, at a “threshold” between 0 and 1.")
    found = artwork.traced(data, path.name, float(width), float(threshold), bool(light))
    return {**found.values, **values}, found.pictures


def _relief(values: dict[str, Any], path: Path) -> tuple[dict[str, Any], Mapping[str, bytes]]:
    """A height picture, as wide as “width” says, or a mesh, as wide as it is itself where none is told; in proportion where no “height” is."""
    from gatepost import artwork

    width = values.get("width", 0.0 if path.suffix.lower() == artwork.MESH else None)
    if not isinstance(width, (int, float)) or not 0 <= width < 10_000:
        raise OperatorError("A height picture is carved to a “width” in mm.")
    found = artwork.heights_in(read_whole(path, artwork.LARGEST), path.name, float(width))
    return {**found.values, **values}, found.pictures


def _outlined(values: dict[str, Any], path: Path) -> tuple[dict[str, Any], Mapping[str, bytes]]:
    from gatepost import outlining

    if path.suffix.lower() in outlining.DRAWINGS:
        found = outlining.from_drawing(path)
        return {**found.values, **values}, found.pictures
    data, _ = outlining.reduced(outlining.read(path), path.name)
    photo = {k: values.pop(k) for k in PHOTO if k in values}
    found = outlining.from_photo(data, path.name, photo)
    return {**found.values, **values}, found.pictures


def edit(job: str, text: Path, out: Path, say: Say) -> int:
    """``gatepost edit``: 0, or OperatorError and nothing written. out may be the job itself; its journal is kept."""
    document = empty() if job == NOTHING else load(Path(job))
    try:
        lines = read_whole(text, MOST_BYTES).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise UnusableFile(f"{text.name} is not UTF-8: its byte {error.start + 1} is none.") from None
    done = edited(document, lines, text.resolve().parent)
    save(done, out)
    count = sum(bool(line.strip()) for line in lines.splitlines())
    say(f"{count} command{'s' if count != 1 else ''} carried out; {out.name} written.")
    return 0


# -- what there is ----------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Told:
    """A command as it is listed. values: name, what it may be, and whether it must be given."""

    name: str
    words: str
    values: tuple[tuple[str, str, bool], ...]


def told() -> list[Told]:
    """Every command, by name, with its values."""
    out: list[Told] = []
    for name, command in sorted(commands.TABLE.items()):
        values: dict[str, tuple[str, str, bool]] = {}
        for p in list(inspect.signature(command).parameters.values())[1:]:
            if p.kind is not inspect.Parameter.VAR_KEYWORD and p.name != KINDS:
                values[p.name] = (p.name, str(p.annotation), p.default is inspect.Parameter.empty)
        for model in commands.MODELS[name]:
            for entry, field in model.model_fields.items():
                values.setdefault(entry, (entry, _kind(field.annotation), False))
        out.append(Told(name, inspect.getdoc(command) or "", tuple(values.values())))
    return out


def _kind(annotation: Any) -> str:
    """What an entry may be, in few words."""
    if typing.get_origin(annotation) is typing.Literal:
        return " | ".join(str(v) for v in typing.get_args(annotation))
    if isinstance(annotation, type):
        return annotation.__name__
    inner = [_kind(a) for a in typing.get_args(annotation) if isinstance(a, type) or typing.get_origin(a) is not None]
    return " | ".join(dict.fromkeys(i for i in inner if i)) or "value"


def listed(as_json: bool, show: Callable[[Any], None]) -> int:
    """``gatepost commands``."""
    if as_json:
        show(
            [
                {"do": t.name, "what": t.words, "values": [{"name": n, "is": k, "must": m} for n, k, m in t.values]}
                for t in told()
            ]
        )
        return 0
    for one in told():
        print(f"{one.name}: {one.words.splitlines()[0]}")
        print("    " + ", ".join(n + ("" if must else "?") for n, _, must in one.values))
    return 0


def page() -> str:
    """docs/commands.md."""
    lines = [
        "# Commands", "",
        "Made from the code. `gatepost edit JOB --out NEW COMMANDS.jsonl` carries them out, one JSON object a line: `{\"do\": \"set zero\", "
        "\"setup\": \"front\", \"xy\": \"centre\"}`. Empty lines are skipped, `JOB` may be `-` for a new job, and files that a line names "
        "(`file` of `set outline`, `set heights`, `set pieces`, `add drawing`, `add relief`; `face_file` of lines of lettering) are looked for beside COMMANDS.jsonl. A line that can't be carried out is "
        "told with its number, and nothing is written. Lengths are mm. Texts are given outlines by `add line` and `set line` themselves.", "",
        "| do | what | values, those that must be given first |", "|---|---|---|",
    ]  # fmt: skip
    for one in told():
        values = sorted(one.values, key=lambda v: not v[2])
        names = ", ".join(f"**`{n}`**" if must else f"`{n}`" for n, _, must in values if n not in ("glyphs",))
        lines.append(f"| `{one.name}` | {' '.join(one.words.split())} | {names} |")
    lines += [
        "",
        "## Figures by kind",
        "",
        "What is given besides, where something of a kind is added or set.",
        "",
        "| kind | figures |",
        "|---|---|",
    ]
    for what, table in (("operation", SHIPPED.operations), ("artwork", SHIPPED.artwork), ("hold", SHIPPED.holds)):
        for kind, model in table.items():
            own = [n for n in model.model_fields if what != "hold" or n not in Hold.model_fields]
            lines.append(f"| {what} `{kind}` | {', '.join(f'`{n}`' for n in own)} |")
    return "\n".join(lines) + "\n"
