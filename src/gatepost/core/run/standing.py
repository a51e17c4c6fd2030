# SPDX-License-Identifier: GPL-3.0-or-later
"""Which steps are done and still stand: a tick counts until something that happened since undoes what it said."""

from __future__ import annotations

from collections.abc import Sequence

from gatepost.core.acts import BY_SUM, CRASH, LOSE, TABLE, ShopAct
from gatepost.core.job.journal import Entry, Journal
from gatepost.core.run.step import Step

LYING = ("turn", "shims", "hold", "set")
PLACED = ("zero", "square", "proof", "note", "read", "over", "take", "ring")
UPRIGHT = ("touch", "lay", "prove", "away", "sense")
SWITCHED = ("power", "home", "warm", "jog")
ASKED = ("scrap", "look-twice", "list-")  # once a setup, before its first cut


def _act(entry: Entry) -> ShopAct | None:
    if entry.kind == "rocked":
        return TABLE["rocks"] if entry.data.get("answer") == "rocks" else None
    return TABLE.get(entry.kind)


def _undoes(entry: Entry, step: Step) -> bool:
    """Whether something that happened takes back what a step said."""
    act = _act(entry)
    if act is None:
        return False
    first = step.key.partition("-")[0]
    if step.guard:
        mine = not entry.setup or entry.setup == step.setup or act.kind != "touched"
        laid_under = (
            step.guard != "away" or entry.data.get("way") not in BY_SUM
        )  # nothing was laid under what is set by a sum
        return mine and laid_under and step.guard in act.undoes
    if first in LYING:
        return act.kind in ("laid", "turned") and entry.setup != step.setup and not entry.data.get("still")
    if first in SWITCHED:
        return act.session
    if first in PLACED or step.key.startswith("mark"):
        moved = act.across == LOSE and not entry.data.get("still") and not (act.kind == "squared" and first == "square")
        mine = entry.setup == step.setup
        anew = act.kind == "marked" and mine and first in ("zero", "proof", "note", "over", "take")
        again = mine and _seen_anew(act.kind, entry, step.key)
        return moved or anew or again or (first == "proof" and act.across == CRASH)
    if first in UPRIGHT:
        lost = act.across != LOSE and LOSE in (act.top, act.bed)
        return act.session or (act.across == LOSE and not entry.data.get("still")) or lost
    if first == "fit":
        return act.kind == "fitted" and "tool" in entry.data and int(float(entry.data["tool"])) != step.tool
    return False


def _seen_anew(kind: str, entry: Entry, key: str) -> bool:
    """Whether what was seen over marks, or taken of it, has to be seen or taken anew: X0 Y0 was set otherwise since, or something else was seen."""
    if kind == "touched":
        set_anew = entry.data.get("axis") != "z" and entry.data.get("way") != "proof"
        return set_anew and key.startswith(("over", "take"))
    if kind == "moved":  # by marks: once more over them; rings tell more than any look
        return entry.data.get("by") != "rings" and key.startswith("over")
    return (kind, key) in (("proved", "take-looks"), ("ringed", "take-rings"))


def _ticked(entries: Sequence[Entry], step: Step) -> tuple[str, int]:
    """When a step was ticked last, and which entry that was; nothing and -1 where it was not."""
    for i in range(len(entries) - 1, -1, -1):
        e = entries[i]
        if e.kind == "ticked" and e.setup == step.setup and e.data.get("step") == step.key:
            other = step.fingerprint and e.data.get("fingerprint", step.fingerprint) != step.fingerprint
            return ("", -1) if other or e.data.get("off") else (e.at, i)
    return "", -1


def stands(journal: Journal, step: Step) -> bool:
    """Whether a step is ticked, and nothing since has undone it."""
    entries = journal.this_board()
    at, i = _ticked(entries, step)
    return bool(at) and not any(_undoes(e, step) for e in entries[i + 1 :])


def served(steps: Sequence[Step], step: Step) -> list[Step]:
    """The runs, or where it is an isolating the steps of hands, for which a step has to stand."""
    i = next((k for k, s in enumerate(steps) if s.key == step.key), len(steps))
    if step.guard == "isolate":
        after: list[Step] = []
        for s in steps[i + 1 :]:
            if not s.reach:
                break
            after.append(s)
        return after
    lies = (
        step.guard == "rock" or step.key.partition("-")[0] in LYING
    )  # of the board, which is off while the bare bed is bored
    runs = [s for s in steps[i + 1 :] if s.kind == "run" and not (lies and s.bare)]
    number = step.tool if step.tool is not None else _tool_of(step)
    if number is None:
        return runs
    fitted_again = next((k for k, s in enumerate(steps) if k > i and _fits(s, number)), len(steps))
    return [s for s in steps[i + 1 : fitted_again] if s.kind == "run" and s.tool == number]


def _fits(step: Step, number: int) -> bool:
    return step.kind == "fit" and step.tool == number


def _tool_of(step: Step) -> int | None:
    last = step.key.rpartition("-")[2]
    of_no_tool = step.kind == "run" or step.key.startswith(("set-", "list-"))
    return int(last) if last.isdigit() and not of_no_tool else None


def done_all(journal: Journal, steps: Sequence[Step]) -> list[str]:
    """When each step of a setup was done, or nothing. A tick counts plainly once everything that it served is done too; until then it
    counts as long as it stands."""
    entries = journal.this_board()
    ticks = [_ticked(entries, s) for s in steps]
    out = [at for at, _ in ticks]
    where = {s.key: k for k, s in enumerate(steps)}
    for k in range(len(steps) - 1, -1, -1):
        step, (at, i) = steps[k], ticks[k]
        if not at or step.kind in ("run", "measure", "depth"):
            continue
        if all(out[where[s.key]] for s in served(steps, step)):
            continue
        if any(_undoes(e, step) for e in entries[i + 1 :]):
            out[k] = ""
    return out


def done(journal: Journal, step: Step) -> str:
    """When a step was ticked, or nothing, whatever has happened since. A run counts for the program that was run, however it came about."""
    return journal.ticked(step.setup, step.key, step.fingerprint)


def next_step(journal: Journal, steps: Sequence[Step]) -> Step | None:
    """The first step of a setup not done."""
    return next((s for s, at in zip(steps, done_all(journal, steps)) if not at), None)


def barring(journal: Journal, steps: Sequence[Step], step: Step) -> Step | None:
    """What must be asked before a step is carried out: for a run each guard of its tool and of the work, and what the shop itself asks; for hands
    under the spindle that it is isolated."""
    i = next((k for k, s in enumerate(steps) if s.key == step.key), 0)
    if step.reach:
        asked = next((s for s in reversed(steps[:i]) if s.guard == "isolate"), None)
        return asked if asked is not None and not stands(journal, asked) else None
    if step.kind != "run":
        return None
    before = [s for s in steps[:i] if s.guard and s.guard != "isolate"]
    fitted = max((k for k, s in enumerate(steps[:i]) if step.tool is not None and _fits(s, step.tool)), default=0)
    since = {s.key for s in steps[fitted:i]}  # the last time that the tool was fitted
    mine = [s for s in before if s.guard == "rock" or (_tool_of(s) == step.tool and s.key in since)]
    rocks = [s for s in mine if s.guard == "rock"][-1:] if not step.bare else []
    listed = [s for s in steps[:i] if s.key.startswith(ASKED)]
    return next((s for s in [*rocks, *(s for s in mine if s.guard != "rock"), *listed] if not stands(journal, s)), None)
