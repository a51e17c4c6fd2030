# SPDX-License-Identifier: GPL-3.0-or-later
"""What one Gatepost writes beside others, as a process of its own: runs by the recorder that programs are run with, a word when each has ended.

``one_gatepost.py URL FOLDER NAME COUNT``; the number of each run is in its block count, so that none can be mistaken for another."""

import contextlib
import sys
import uuid
from pathlib import Path

from gatepost.core.errors import OperatorError
from gatepost.logbook.store import Logbook
from gatepost.machine.keeping import RunRecorder

VALUES = {
    "started": "2026-03-02T09:00:00", "kind": "shop", "setup": "front", "program": "front-1.nc", "tool": "T1 60° V", "fingerprint": "abc", "planned_minutes": 1.0, "zeros": {},
}  # fmt: skip


def main():
    url, folder, name, count = sys.argv[1], Path(sys.argv[2]), sys.argv[3], int(sys.argv[4])
    book, said = Logbook(url, folder), []
    for i in range(1, count + 1):
        recorder = RunRecorder(book, None, "shop", folder=folder, tell=said.append)
        recorder._begin({**VALUES, "job": name, "blocks": i, "key": uuid.uuid4().hex, "owner": ""})
        recorder._end("done", {"real_minutes": 1.5, "blocks_done": i})
        if i % 50 == 0:
            print(i, len(said), flush=True)
    with contextlib.suppress(OperatorError):
        book.close_leftovers("2026-03-02T10:00:00")
    print("end", len(said), *said[:2], flush=True)


if __name__ == "__main__":
    main()
