# SPDX-License-Identifier: GPL-3.0-or-later
"""What is asked of artwork on the bed by a key or the menu: mirrored, copied, locked, set against margins and middles, made as large as they allow."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from gatepost.core.job.operation import Artwork
    from gatepost.desk.context.desk_context import DeskContext

Edit = tuple[str, dict[str, Any]]


def offered(art: Artwork) -> tuple[tuple[str, str], ...]:
    """Words, and what they ask for, with the key that asks for it on the bed."""
    from gatepost.core.plan.arranging import WAYS

    if art.locked:
        return (("Unlock it (L)", "lock"), ("Copy it (D)", "copy"))
    keys = {"across": " (X)", "along": " (Y)"}
    return (
        ("As large as the margins allow (F)", "fill"),
        ("Mirror it (M)", "mirror"),
        ("Copy it (D)", "copy"),
        ("Lock it where it is (L)", "lock"),
        *((f"{words}{keys.get(way, '')}", way) for way, words in WAYS.items()),
    )


def arrange(desk: DeskContext, key: str, what: str) -> None:
    """Do it. key: of a thing on the bed; what else than artwork has it is left as it is."""
    from gatepost.core.plan.arranging import art_of

    if desk.document is None:
        return
    job, setup = desk.document.job, desk.showing.setup
    art = art_of(job, job.setup(setup), key)
    if art is None:
        return
    edit = _edit(desk, art, what)
    if edit is None:
        desk.messages.say("It is as large as the margins allow." if what == "fill" else "That can't be done with it.")
        return
    desk.run(edit[0], edit[1], what)


def _edit(desk: DeskContext, art: Artwork, what: str) -> Edit | None:
    from gatepost.core.plan import arranging

    assert desk.document is not None
    job, setup = desk.document.job, desk.showing.setup
    if what == "fill":
        return arranging.filled(job, setup, art.id)
    if what == "mirror":
        return "set art", {"art": art.id, "mirror": not art.mirror}
    if what == "lock":
        return "set art", {"art": art.id, "locked": not art.locked}
    if what == "copy":
        return "copy art", {"art": art.id}
    return arranging.aligned(job, setup, art.id, what)
