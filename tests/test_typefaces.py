# SPDX-License-Identifier: GPL-3.0-or-later
"""Faces brought in from files: TTF, OTF and WOFF give the same outlines, damaged ones a sentence, and a line is set in them."""

import io
import json
import random
import struct

import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.t2CharStringPen import T2CharStringPen
from fontTools.ttLib import TTFont

from gatepost import typefaces
from gatepost.core.carve import families
from gatepost.core.carve.faces import face_path, letters_in, shape
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job.file import load
from gatepost.editing import edit


def shipped(face="Slab"):
    """A TTF file's bytes."""
    return face_path(face).read_bytes()


def woff(data):
    """The same as WOFF."""
    font, out = TTFont(io.BytesIO(data)), io.BytesIO()
    font.flavor = "woff"
    font.save(out)
    return out.getvalue()


def otf():
    """A face whose letters are a bar 200 by 700 and a bar with a foot, capitals 700 of 1000 high."""
    made = FontBuilder(1000, isTTF=False)
    glyphs = {}
    for name, corners in (
        ("I", ((50, 0), (250, 0), (250, 700), (50, 700))),
        ("L", ((50, 0), (450, 0), (450, 150), (200, 150), (200, 700), (50, 700))),
        (".notdef", ()),
    ):
        pen = T2CharStringPen(500, None)
        for i, at in enumerate(corners):
            (pen.lineTo if i else pen.moveTo)(at)
        if corners:
            pen.closePath()
        glyphs[name] = pen.getCharString()
    made.setupGlyphOrder([".notdef", "I", "L"])
    made.setupCharacterMap({73: "I", 76: "L"})
    made.setupCFF("Bars", {}, glyphs, {})
    made.setupHorizontalMetrics({n: (300 if n == "I" else 500, 0) for n in glyphs})
    made.setupHorizontalHeader(ascent=800, descent=-200)
    made.setupNameTable({"familyName": "Bars", "styleName": "Regular"})
    made.setupOS2(sCapHeight=700)
    made.setupPost()
    out = io.BytesIO()
    made.save(out)
    return out.getvalue()


@pytest.fixture(autouse=True)
def _found_again(monkeypatch):
    """What one test brought in is not there in the next."""
    monkeypatch.setattr("gatepost.core.carve.face_folders._kept", [])
    families.families.cache_clear()
    yield
    families.families.cache_clear()


def test_the_same_face_packed_as_woff_is_set_the_same(tmp_path):
    (tmp_path / "Ours.ttf").write_bytes(shipped())
    (tmp_path / "Packed.woff").write_bytes(woff(shipped()))
    names = [typefaces.brought_in(tmp_path / f, tmp_path / "data") for f in ("Ours.ttf", "Packed.woff")]
    assert names == ["Ours", "Packed"]
    ours, packed, slab = (shape("Fennick & Wharf", n) for n in (*names, "Slab"))
    assert ours == packed == slab
    assert [f.name for f in families.families()[5:7]] == names and families.family_of("Packed")[1] == "as brought in"


def test_an_open_type_face_is_set_by_its_own_figures(tmp_path):
    (tmp_path / "Bars.otf").write_bytes(otf())
    face = typefaces.brought_in(tmp_path / "Bars.otf", tmp_path / "data")
    line = shape("LIL", face)
    assert [g.x for g in line.glyphs] == pytest.approx([0.0, 500 / 700, 800 / 700]) and line.width == pytest.approx(
        1300 / 700
    )
    assert line.glyphs[1].path.startswith("M0.0714286 0L")
    with pytest.raises(OperatorError, match="has no 'O'"):
        shape("LO", face)


def test_a_newer_file_of_the_same_name_takes_its_place(tmp_path):
    path = tmp_path / "Mine.ttf"
    path.write_bytes(shipped("Sans"))
    typefaces.brought_in(path, tmp_path / "data")
    first = shape("A", "Mine")
    (tmp_path / "Mine.woff").write_bytes(woff(shipped("Serif")))
    typefaces.brought_in(tmp_path / "Mine.woff", tmp_path / "data")
    assert shape("A", "Mine") == shape("A", "Serif") != first
    assert [p.name for p in (tmp_path / "data" / "faces").iterdir()] == ["Mine.woff"]


def test_a_shipped_face_stays_what_it_is(tmp_path):
    (tmp_path / "Serif.ttf").write_bytes(shipped("Sans"))
    assert typefaces.brought_in(tmp_path / "Serif.ttf", tmp_path / "data") != "Serif"
    assert shape("A", "Serif") != shape("A", "Sans")


def _bomb():
    """A WOFF of one table that says it is short and is 40 MB."""
    import zlib

    body = zlib.compress(bytes(40 * 2**20), 9)
    head = b"wOFF" + b"\0\1\0\0" + struct.pack(">IHH", 64 + len(body), 1, 0) + bytes(28)
    return head + struct.pack(">4sIIII", b"glyf", 64, len(body), len(body) + 5, 0) + body


BAD = {
    "empty": lambda: b"", "words": lambda: b"not a face at all", "cut short": lambda: shipped()[:3000], "half": lambda: shipped()[: len(shipped()) // 2],
    "woff cut short": lambda: woff(shipped())[:70], "woff 2": lambda: b"wOF2" + bytes(60), "unpacks without end": _bomb, "a head alone": lambda: b"\0\1\0\0\0\0" + bytes(20),
}  # fmt: skip


@pytest.mark.parametrize("what", BAD)
def test_what_is_no_face_is_said_and_nothing_is_kept(what, tmp_path):
    (tmp_path / "Bad.woff").write_bytes(BAD[what]())
    with pytest.raises(UnusableFile, match=r"Bad\.woff .*\.$"):
        typefaces.brought_in(tmp_path / "Bad.woff", tmp_path / "data")
    assert not (tmp_path / "data").exists()


@pytest.mark.parametrize("kind", ["ttf", "woff", "otf"])
def test_a_damaged_face_gives_a_sentence_or_letters(kind):
    whole = {"ttf": shipped("Condensed"), "woff": woff(shipped("Condensed")), "otf": otf()}[kind]
    random_ = random.Random(7)
    for _ in range(40):
        data = bytearray(whole)
        for _ in range(random_.randint(1, 30)):
            data[random_.randrange(min(len(data), 4000) if random_.random() < 0.7 else len(data))] = random_.randrange(
                256
            )
        try:
            letters_in(bytes(data), "spoiled")
        except UnusableFile as error:
            assert "spoiled" in str(error) and len(str(error)) < 400


def test_a_line_of_a_script_names_a_file_and_the_job_opens_where_it_is_not(tmp_path, monkeypatch):
    monkeypatch.setenv("GATEPOST_DATA", str(tmp_path / "data"))
    (tmp_path / "Bars.otf").write_bytes(otf())
    lines = tmp_path / "do.jsonl"
    lines.write_text(json.dumps({"do": "add line", "text": "LIL", "face_file": "Bars.otf", "height": 30}))
    assert edit("-", lines, tmp_path / "a.gatepost", lambda words: None) == 0
    monkeypatch.setattr("gatepost.core.carve.face_folders._kept", [])
    line = next(a for a in load(tmp_path / "a.gatepost").job.artwork if a.kind == "lettering").figures.lines[0]
    assert line.face == "Bars" and len(line.glyphs) == 3
    lines.write_text(json.dumps({"do": "add line", "text": "LOL", "face_file": "Bars.otf", "height": 30}))
    with pytest.raises(OperatorError, match="line 1: .*has no 'O'"):
        edit("-", lines, tmp_path / "b.gatepost", lambda words: None)
    assert not (tmp_path / "b.gatepost").exists()
