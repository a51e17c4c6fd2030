# SPDX-License-Identifier: GPL-3.0-or-later
import io
import json
import random
import zipfile

import pytest

from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job import file as job_file
from gatepost.core.job.file import Document, from_bytes, load, read_job, save, to_bytes
from gatepost.core.job.journal import Journal


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


@pytest.mark.parametrize("seed", range(150))
def test_a_damaged_file_opens_to_the_same_job_or_says_what_is_wrong(seed, document):
    chance = random.Random(seed)
    data = bytearray(to_bytes(document))
    if seed % 3 == 0:
        data = data[: chance.randrange(len(data))]
    else:
        for _ in range(chance.choice((1, 1, 2, 40))):
            data[chance.randrange(len(data))] = chance.randrange(256)
    try:
        assert from_bytes(bytes(data), "board.gatepost") == document
    except UnusableFile as error:
        assert "board.gatepost" in str(error) and len(str(error)) > 25


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
        zipped([*parts, *((f"p{i}", b"") for i in range(80))]),
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


def test_a_failed_save_leaves_the_old_file_whole(document, tmp_path, monkeypatch):
    path = tmp_path / "a.gatepost"
    save(document, path)
    old = path.read_bytes()

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(job_file.os, "fsync", full)
    with pytest.raises(OperatorError, match="untouched"):
        save(Document(document.job), path)
    assert path.read_bytes() == old
    assert list(tmp_path.iterdir()) == [path]


def test_the_schema_in_docs_is_the_models_own():
    import jsonschema

    from tests.conftest import ROOT

    schema = json.loads((ROOT / "docs" / "job.schema.json").read_text())
    from gatepost.core.job.model import Job

    jsonschema.validate(Job().model_dump(mode="json"), schema)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({"format": 1, "colour": "red"}, schema)
