# SPDX-License-Identifier: GPL-3.0-or-later
"""Blocks as they come: taken, queued, read again, carried out in their order, paused and stopped."""

from __future__ import annotations

import math
from collections import deque
from dataclasses import replace
from typing import Any

import numpy as np

from gatepost.machine.standins.blocks import Action, BadBlock, understand
from gatepost.machine.standins.messages import BUMP, CREDITS, FARTHEST, TROUBLE, BadMessage, number
from gatepost.machine.standins.state import RouterState
from gatepost.machine.standins.troubles import goes_wrong

HOLD = 0.5  # behind the number of its block, where a program is held


def set_zero(m: RouterState, message: dict[str, Any]) -> None:
    """Work zero. While it waits at an M0 the blocks that it holds are read again with it; paused anywhere else a move is
    half done, and a zero is refused."""
    if m.state != "ready" and not (m.state == "paused" and m.waiting):
        return m._refuse(message, "a move is half done" if m.state == "paused" else f"it is {m.state}")
    zero = m.zero.copy()
    for i, axis in enumerate("xyz"):
        if axis in message:
            zero[i] = number(message, axis, -FARTHEST, FARTHEST)
    if m.state == "paused":
        try:
            m.queue, m.expect = read_again(m, zero)
        except BadBlock as error:
            return m._refuse(message, f"with it {error}")
    m.zero = zero
    m.said.append({"say": "set", "do": "zero"})
    if "z" in message and "bump" in m.trouble and m.wood is not None:  # somebody leans on the board
        m.trouble.discard("bump")
        m.wood.knock(*BUMP)
    m.tell()


def read_again(m: RouterState, zero: np.ndarray) -> tuple[deque[tuple[float, Action]], np.ndarray]:
    """The blocks that wait, read with another zero from where it stands, and where they end. Raises BadBlock."""
    queue: deque[tuple[float, Action]] = deque()
    expect = m.at.copy()
    for n, old in m.queue:
        if old.kind == "hold":
            queue.append((n, old))
            continue
        text, modal = m.words[int(n)]
        action = understand(text, replace(modal), tuple(expect - zero))
        expect = ends(m, action, expect, zero)
        queue.append((n, action))
    return queue, expect


def begin(m: RouterState, message: dict[str, Any]) -> None:
    """A program begins: its blocks are numbered from 1."""
    if m.state != "ready":
        return m._refuse(message, f"it is {m.state}")
    m._forget()
    m.begun = True
    m.said.append({"say": "begun"})


def block(m: RouterState, message: dict[str, Any]) -> None:
    n, text = message.get("n"), message.get("text")
    if type(n) is not int or not isinstance(text, str):
        raise BadMessage("a block is a whole number n and a text")
    if not m.begun:
        return m._refuse(message, "no program was begun")
    if m.state not in ("ready", "moving", "paused") or (m.state == "moving" and m.moving_kind != "running"):
        return m._refuse(message, f"it is {m.state}")
    if n != m.taken + 1:
        return m._refuse(message, f"block {m.taken + 1} was expected")
    if n - m.done > CREDITS:
        return m._refuse(message, f"more than {CREDITS} blocks in flight")
    if m.end_seen:
        return m._refuse(message, "the program has ended")
    before = replace(m.modal)
    try:
        action = understand(text, m.modal, tuple(m.expect - m.zero))
        m.expect = ends(m, action, m.expect, m.zero)
    except BadBlock as error:
        m.fault(f"block {n}: {error}")
        return None
    m.taken = n
    m.queue.append((n, action))
    if n in m.holds:
        m.queue.append((n + HOLD, Action("hold")))
    m.words[n] = (text, before)
    m.end_seen = m.end_seen or action.kind == "end"
    m.said.append({"say": "taken", "n": n})
    if m.state == "ready":
        m.state, m.moving_kind = "moving", "running"


def pause(m: RouterState, message: dict[str, Any]) -> None:
    """At once, or behind a block that has not been sent yet (after: its number)."""
    if "after" in message:
        after = message["after"]
        if type(after) is not int or after < 1:
            raise BadMessage("a program is paused after a whole number of blocks")
        if not m.begun or after <= m.taken:
            return m._refuse(message, "that block is not to come")
        m.holds.add(after)
        return None
    if m.state == "moving" and m.moving_kind == "running":
        m.braking = True
        m.said.append({"say": "pausing"})
    elif m.state == "ready" and m.begun and m.taken == 0:  # a program whose first block is still on its way
        m.said.append({"say": "pausing"})
        m._paused()
    else:
        m._refuse(message, f"it is {m.state}")


def resume(m: RouterState, message: dict[str, Any]) -> None:
    if m.state != "paused":
        return m._refuse(message, f"it is {m.state}")
    m.braking = m.waiting = False
    m.state, m.moving_kind = "moving", "running"
    m.tell()


def stop(m: RouterState, message: dict[str, Any]) -> None:
    if "deaf to stop" in m.faults:
        return
    if m.state == "moving":
        m.ending = m.braking = True
    else:
        m._stopped()


def ends(m: RouterState, action: Action, expect: np.ndarray, zero: np.ndarray) -> np.ndarray:
    """Where the tip is after an action, machine coordinates. Raises BadBlock where it leaves the travel."""
    for leg in action.legs:
        target = np.array(leg)
        target = np.where(action.axes, target, expect) if action.machine else target + zero
        if not m._inside(target):
            where = ", ".join(f"{a}{v:.2f}" for a, v in zip("XYZ", target))
            raise BadBlock(f"it leaves the travel at machine {where}")
        expect = target
    return expect


def next_block(m: RouterState) -> bool:
    """Take what stands at the head of the queue: words at once, moves as legs. False when there is nothing."""
    report_done(m)
    if not m.queue:
        return False
    n, action = m.queue[0]
    if action.kind == "legs":
        load_legs(m)
        return True
    if action.kind == "dwell" and action.value > 0:
        m.dwell_left = action.value
        return True
    if action.kind == "hold":
        m.queue.popleft()
        m.said.append({"say": "pausing"})
        m._paused()
        return False
    if action.kind == "wait":
        finish_head(m)
        m.waiting = True
        m._paused()
        return False
    if action.kind == "spindle":
        if action.value and not m.profile.rpm[0] - 1 <= action.value <= m.profile.rpm[1] + 1:
            m.fault(f"block {n:.0f}: the spindle does not turn at {action.value:.0f}")
            return False
        m.programmed = action.value
        m.spindle = m.at_speed(action.value)
    if action.kind == "tool" and int(action.value) != int(m.tool["number"]):
        m.fault(f"block {n:.0f}: tool {int(action.value)} is asked for, tool {int(m.tool['number'])} is fitted")
        return False
    finish_head(m)
    if action.kind == "end":
        m.spindle = 0.0
        m.state, m.moving_kind, m.begun = "ready", "", False
        m.said.append({"say": "ended"})
        m.tell()
        return False
    return True


def finish_head(m: RouterState) -> None:
    n = int(m.queue.popleft()[0])
    m.words.pop(n, None)
    m.done = n
    m.said.append({"say": "done", "n": n})
    if m.trouble and n >= TROUBLE:
        goes_wrong(m)


def load_legs(m: RouterState) -> None:
    """Legs of all moves that stand in the queue before its next word."""
    m.loaded_to = 0
    rows, m.owner = legs_after(m, m.at.copy())
    m.legs = np.array(rows).reshape(-1, 10)
    m.walk[0], m.walk[1] = 0.0, 0.0
    if not rows:
        while m.queue and m.queue[0][0] <= m.loaded_to:
            finish_head(m)


def legs_after(m: RouterState, here: np.ndarray) -> tuple[list[list[float]], list[int]]:
    """Legs of the moves after what is loaded, up to the next word, and the block that each belongs to."""
    rows: list[list[float]] = []
    owner: list[int] = []
    for n, action in m.queue:
        if n <= m.loaded_to or action.kind == "nothing":
            continue
        if action.kind != "legs":
            break
        for leg in action.legs:
            target = np.where(action.axes, np.array(leg), here) if action.machine else np.array(leg) + m.zero
            row = m._leg(here, target, action.rapid, action.feed)
            if row is not None:
                rows.append(row)
                owner.append(int(n))
                here = target
        m.loaded_to = int(n)
    return rows, owner


def extend(m: RouterState) -> None:
    """Take moves that arrived since into the legs, so that the look-ahead sees them."""
    at = int(m.walk[0])
    if not m.owner or m.queue[-1][0] == m.loaded_to:
        return
    rows, owner = legs_after(m, m.legs[-1, :3] + m.legs[-1, 3:6] * m.legs[-1, 6])
    if rows:
        m.legs = np.vstack([m.legs[at:], np.array(rows)])
        m.owner = m.owner[at:] + owner
        m.walk[0] = 0.0


def report_done(m: RouterState) -> None:
    """Blocks whose last leg lies behind are done."""
    at = int(m.walk[0])
    current = m.owner[at] if at < len(m.owner) else math.inf
    while m.queue and m.queue[0][1].kind in ("legs", "nothing") and m.queue[0][0] < current:
        n, action = m.queue[0]
        if action.kind == "legs" and (not m.owner or n > m.loaded_to):
            break
        if action.kind == "nothing" and at < len(m.owner) and n > current:
            break
        finish_head(m)
    if at >= len(m.owner):
        m.legs, m.owner = np.zeros((0, 10)), []
        m.walk[0], m.walk[1] = 0.0, 0.0
