# SPDX-License-Identifier: GPL-3.0-or-later
import io
import json
import os
import resource
import signal
import zipfile
from collections import Counter

import pytest

import job_files
from gatepost.core import writing
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job import file as job_file
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.file import Document, from_bytes, load, read_job, save, source_name, to_bytes
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork
from tests.conftest import some


@pytest.fixture
def document(lock7):
    return Document(
        lock7, Journal().add("2026-01-01T10:00", "homed", "front").add("2026-01-01T10:01", "remark", words="ok")
    )


def test_saved_and_opened_is_the_same_job_and_the_same_bytes(document, tmp_path):
    path = tmp_path / "a.gatepost"
    save(document, path)
    again = load(path)
    assert again == document
    assert to_bytes(again) == path.read_bytes()


def test_a_damaged_file_opens_to_the_same_job_or_says_what_is_wrong(document):
    outcomes = Counter(job_files.of_damage(document, seed) for seed in range(300))
    assert outcomes["refused"] > 250 and outcomes["refused"] + outcomes["same"] == 300
    whole = to_bytes(document)
    stamp = whole.index(b"PK\x01\x02") + 12  # the time in the list at the end: harmless
    assert from_bytes(whole[:stamp] + b"\x21" + whole[stamp + 1 :]) == from_bytes(whole)


def test_a_job_with_strange_values_is_refused_or_planned_and_never_breaks_anything(quay):
    outcomes = Counter(job_files.of_strangeness(Document(quay), seed) for seed in range(150))
    assert outcomes["refused"] > 100


def zipped(parts):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in parts:
            archive.writestr(name, data)
    return out.getvalue()


def test_outward_paths_bombs_twins_and_strangers_are_refused(document):
    good = to_bytes(document)
    with zipfile.ZipFile(io.BytesIO(good)) as archive:
        parts = [(n, archive.read(n)) for n in archive.namelist()]
    for bad in (
        zipped([*parts, ("../../etc/cron", b"x")]),
        zipped([*parts, ("/root/x", b"x")]),
        zipped([*parts, ("bomb", b"\0" * (job_file.LARGEST + 1))]),
        zipped([*parts, *((f"p{i}", b"") for i in range(job_file.MOST_PARTS))]),
        zipped([]),
        b"not a zip at all",
        b"",
    ):
        with pytest.raises(UnusableFile):
            from_bytes(bad)


def changed(document, **values):
    return json.dumps({**document.job.model_dump(mode="json"), **values}).encode()


@pytest.mark.parametrize(
    "text",
    [
        b"[]",
        b"{}",
        b"[" * 5000,
        b'{"format": "1"}',
        b'{"format": 1, "name": NaN}',
        b'{"format": 0}',
        b"\xff\xfe",
        b'{"format": 1, "colour": "red"}',
        b'{"format": 1, "blank": {"length": 1e400}}',
        b'{"format": 1, "blank": {"length": -4}}',
        b'{"format": 1, "tools": [{"number": 1e9}]}',
    ],
)
def test_wrong_types_depths_and_numbers_are_refused_with_a_sentence(text):
    with pytest.raises(UnusableFile) as caught:
        read_job(text)
    assert str(caught.value).endswith(".")


def test_a_newer_format_is_refused_politely(document):
    with pytest.raises(UnusableFile, match="newer Gatepost"):
        read_job(changed(document, format=99))


def in_a_child(act):
    """Carry something out in a process that is then gone; what it says by its exit code."""
    child = os.fork()
    if child == 0:
        try:
            act()
        except OperatorError:
            os._exit(7)
        except BaseException:
            os._exit(9)
        os._exit(0)
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])


STEPS = ("mkstemp", "write", "flush", "fsync", "chmod", "replace", "folder", "never")


class CutOff(io.FileIO):
    """A file whose writer is gone after some bytes, or at its flush."""

    after, at_flush = None, False

    def write(self, data):
        if self.after is None:
            return super().write(data)
        super().write(data[: self.after])
        os._exit(3)

    def flush(self):
        if self.at_flush:
            os._exit(3)
        super().flush()


def saved_but_gone_at(step, after, document, path):
    """Save, and be gone at a step (before it is done), or after so many bytes."""
    gone = lambda *_, **__: os._exit(3)  # noqa: E731
    if step in ("write", "flush"):
        CutOff.after, CutOff.at_flush = (after, False) if step == "write" else (None, True)
        os.fdopen = lambda handle, mode: CutOff(handle, mode)
    elif step == "mkstemp":
        writing.tempfile.mkstemp = gone
    elif step == "folder":
        real = os.open
        writing.os.open = lambda name, flags, *more: os._exit(3) if flags == os.O_RDONLY else real(name, flags, *more)
    elif step != "never":
        setattr(writing.os, step, gone)
    save(document, path)


@pytest.mark.parametrize("step", STEPS)
def test_gatepost_gone_at_any_moment_of_a_save_leaves_the_old_file_or_the_new(step, document, tmp_path):
    path = tmp_path / "a.gatepost"
    old, new = Document(document.job), document
    size = len(to_bytes(new))
    for after in [0, 1, *range(97, size, 101), size - 1] if step == "write" else [0]:
        save(old, path)
        code = in_a_child(lambda: saved_but_gone_at(step, after, new, path))  # noqa: B023
        assert code == (0 if step == "never" else 3)
        assert load(path) == (new if step in ("folder", "never") else old)


def test_what_a_cut_off_save_left_is_taken_away_by_a_later_one(document, tmp_path):
    path = tmp_path / "a.gatepost"
    in_a_child(lambda: saved_but_gone_at("fsync", 0, document, path))
    (left,) = tmp_path.iterdir()
    stranger = tmp_path / ".a.gatepost.kept-by-somebody"
    stranger.touch()
    save(document, path)
    assert left.exists()  # another Gatepost may be at it just now
    os.utime(left, (1, 1))
    save(document, path)
    assert sorted(tmp_path.iterdir()) == sorted([path, stranger])


def test_a_full_disk_a_read_only_file_and_a_folder_that_is_not_there(document, tmp_path):
    path = tmp_path / "a.gatepost"
    save(Document(document.job), path)
    old = path.read_bytes()

    def with_no_room():
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (2000, 2000))
        save(document, path)

    assert in_a_child(with_no_room) == 7
    assert path.read_bytes() == old and list(tmp_path.iterdir()) == [path]
    path.chmod(0o444)
    with pytest.raises(OperatorError, match="read-only"):
        save(document, path)
    assert path.read_bytes() == old
    path.chmod(0o640)
    save(document, path)
    assert path.stat().st_mode & 0o777 == 0o640 and load(path) == document
    for nowhere in (tmp_path / "none" / "a.gatepost", tmp_path / ("n" * 300 + ".gatepost"), path / "b.gatepost"):
        with pytest.raises(OperatorError, match=r"can't be saved here|was not saved"):
            save(document, nowhere)


def test_a_link_to_a_job_stays_a_link(document, tmp_path):
    path, link = tmp_path / "a.gatepost", tmp_path / "link.gatepost"
    save(Document(document.job), path)
    link.symlink_to(path)
    save(document, link)
    assert link.is_symlink() and load(path) == document


def test_saves_killed_at_any_time_leave_a_whole_file(document, quay, tmp_path):
    assert sum(Counter(job_files.of_a_kill(tmp_path, document, Document(quay), s) for s in range(25)).values()) == 25


def test_the_schema_in_docs_is_the_models_own():
    import jsonschema

    from tests.conftest import ROOT

    schema = jsonschema.Draft202012Validator(json.loads((ROOT / "docs" / "job.schema.json").read_text()))
    from gatepost.core.job.model import Job

    for path in (ROOT / "src/gatepost/assets/examples").glob("[qrst]*.gatepost"):
        schema.validate(load(path).job.model_dump(mode="json"))
    made = load(next((ROOT / "src/gatepost/assets/examples").glob("lock-7-name*"))).job.model_dump(mode="json")
    made["setups"][0]["operations"][0]["figures"]["colour"] = "red"
    with pytest.raises(jsonschema.ValidationError):
        schema.validate(made)
    schema.validate(Job().model_dump(mode="json"))
    with pytest.raises(jsonschema.ValidationError):
        schema.validate({"format": 1, "colour": "red"})


def test_the_page_about_the_file_is_true():
    """Its history ends at today's format, every kind of entry stands in it, and the limits are those of the models."""
    import re
    from pathlib import Path

    from gatepost.core.job import blank, journal, model

    page = (Path(__file__).parents[2] / "docs" / "job-format.md").read_text("utf-8")
    assert max(int(n) for n in re.findall(r"[Ff]ormat (\d+)", page)) == model.FORMAT
    assert set(journal.Kind.__args__) <= set(re.findall(r"`([a-z ]+)`", page))
    for kind, wanted in journal.WANTED.items():
        row = next(line for line in page.splitlines() if line.startswith(f"| `{kind}` |"))
        assert all(f"`{name}`" in row for name in wanted)
    limits = {
        (model.Setup, "holds"): 60, (model.Setup, "operations"): 100, (model.Job, "artwork"): 400, (blank.Blank, "outline"): 2000, (blank.Blank, "calipers"): 2000, (blank.Blank, "heights"): 5000,
        (blank.Blank, "supports"): 60, (blank.Blank, "flaws"): 200, (blank.Blank, "coats"): 20, (model.Job, "tools"): 200,
        (model.Job, "setups"): 40, (model.Job, "accepted"): 1000,
    }  # fmt: skip
    for (owner, name), most in limits.items():
        assert any(getattr(m, "max_length", None) == most for m in owner.model_fields[name].metadata), name
        assert f"{most:,} " in page


def test_parts_that_unpack_to_too_much_together_are_refused_before_they_do(monkeypatch):
    import io
    import zipfile

    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for n in range(16):
            archive.writestr(f"photo-{n:012x}.jpg", b"\xff\xd8" + bytes(2**20))
    monkeypatch.setattr(
        "gatepost.core.job.file.MOST_TOGETHER", 15 * 2**20
    )  # each by itself is well under what one may have
    with pytest.raises(UnusableFile, match="together"):
        from_bytes(out.getvalue())


@pytest.mark.parametrize("data", [b"", b"GIF89a", b"\x89PNG\r\n\x1a\n" + bytes(8) + b"\x00\x01\x00\x00" * 2])
def test_a_picture_is_looked_into_before_it_is_taken(data, quay):
    import job_files

    raw = json.dumps(quay.model_dump(mode="json")).encode()
    packed = job_files.packed({"job.json": raw, "journal.jsonl": b"", "photo-0123456789ab.png": data})
    with pytest.raises(UnusableFile, match="not a PNG or JPEG"):
        from_bytes(packed)


def drawn(path, data):
    """A drawing as artwork, and what it was read from."""
    name = source_name(data, ".svg")
    return DrawnFigures(path=path, wide=4, high=4, width=4, height=4, source=name), {name: data}


@pytest.mark.parametrize(
    ("count", "corners", "bytes_each", "opens"),
    some([(400, 2, 40, True), (2, 300_000, 40, True), (5, 2, 30 * 2**20, False), (3, 1_490_000, 40, False)], 2),
)
def test_whatever_is_saved_opens_again_and_what_would_not_is_not_saved(tmp_path, count, corners, bytes_each, opens):
    """Many drawings; drawings of very many points; large files that they were read from."""
    path = tmp_path / "drawings.gatepost"
    before = Document(Job())
    save(before, path)
    outline = "M0 0" + "L4 0L4 4" * (corners // 2) + "Z"
    made = [drawn(outline, b"<svg/>" + str(i).encode() * bytes_each) for i in range(count)]
    art = tuple(Artwork(id=f"d-{i}", kind="drawing", figures=f) for i, (f, _) in enumerate(made))
    document = Document(Job(artwork=art), Journal(), {n: d for _, kept in made for n, d in kept.items()})
    if opens:
        save(document, path)
        again = load(path)
        assert again.job == document.job and dict(again.pictures) == dict(document.pictures)
    else:
        with pytest.raises(OperatorError, match="can't be saved"):
            save(document, path)
        assert load(path).job == before.job
