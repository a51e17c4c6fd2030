# SPDX-License-Identifier: GPL-3.0-or-later
"""Power and push of a cut. Starting values k_s, k_e per kind of wood: shop rules, good to a factor of two."""

from __future__ import annotations

import math

from gatepost.core.job.blank import Wood
from gatepost.core.job.machine import Machine
from gatepost.core.job.tool import Tool
from gatepost.core.profile import is_vee
from gatepost.core.working import Named, Working, working

RESISTANCE = {"soft": (18.0, 2.4), "medium": (30.0, 4.0), "hard": (42.0, 5.6)}  # N/mm², N/mm


def chip(tool: Tool) -> Working:
    """Feed per tooth, mm."""
    return working(
        "feed / (rpm * teeth)",
        Named("feed", tool.feed, "feed"),
        Named("rpm", tool.rpm, "rpm"),
        Named("teeth", tool.teeth, "count"),
    )


def thickest_chip(tool: Tool, share: float) -> Working:
    """Thickest chip of a cut of a share of the diameter: 2·f·sqrt(x(1 - x)) under half, f from half on."""
    f = chip(tool).result
    if share >= 0.5:
        return working("chip", Named("chip", f))
    return working("2 * chip * sqrt(share * (1 - share))", Named("chip", f), Named("share", share, "number"))


def mean_chip(tool: Tool, stepover: float) -> float:
    """Mean chip over the arc of contact, mm: f·(1 - cos φ)/φ with cos φ = 1 - 2·stepover/diameter."""
    share = min(1.0, max(1e-3, stepover / tool.diameter))
    arc = math.acos(1.0 - 2.0 * share)
    return chip(tool).result * (1.0 - math.cos(arc)) / arc


def push(tool: Tool, wood: Wood, stepover: float, depth: float) -> Working:
    """Mean push of a cut, N: power over rim speed, k = k_s + k_e/h with mean chip h. stepover, depth: mm."""
    mean = mean_chip(tool, stepover)
    k_s, k_e = RESISTANCE[wood.kind]
    return working(
        "step * depth * feed * (shear + edge / chip) / (3.14159265 * diameter * rpm)", Named("step", stepover), Named("depth", depth),
        Named("feed", tool.feed, "feed"), Named("shear", k_s, "N/mm²"), Named("edge", k_e, "N/mm"), Named("chip", mean),
        Named("diameter", tool.diameter), Named("rpm", tool.rpm, "rpm"), unit="force",
        assumption="a sharp edge; good to a factor of two", shop_rule=True,
    )  # fmt: skip


def power(tool: Tool, wood: Wood, stepover: float, depth: float) -> Working:
    """Power at the cutter, W: wood taken a minute by k = k_s + k_e/h with mean chip h. stepover, depth: mm."""
    mean = mean_chip(tool, stepover)
    k_s, k_e = RESISTANCE[wood.kind]
    return working(
        "step * depth * feed * (shear + edge / chip) / 60000", Named("step", stepover), Named("depth", depth),
        Named("feed", tool.feed, "feed"), Named("shear", k_s, "N/mm²"), Named("edge", k_e, "N/mm"), Named("chip", mean),
        unit="W", assumption="a sharp edge; good to a factor of two", shop_rule=True,
    )  # fmt: skip


def available(machine: Machine, rpm: float) -> Working:
    """Power that a spindle has at a speed, W: inverter drives give constant torque, a fifth is lost."""
    return working(
        "rated * rpm / rated_rpm * 0.8", Named("rated", machine.rated_power, "W"), Named("rpm", rpm, "rpm"),
        Named("rated_rpm", machine.rated_rpm, "rpm"), unit="W",
        assumption="constant torque under an inverter, a fifth lost on the way", shop_rule=True,
    )  # fmt: skip


def feed_within(tool: Tool, wood: Wood, stepover: float, depth: float, most: float) -> float:
    """The feed at which a cut takes a power, mm/min; nought where no feed does. The edge's share does not fall with the
    feed (thinner chips cost more each), so power is a straight line of it."""
    now = taken(tool, wood, stepover, depth).result
    edge = taken(tool.model_copy(update={"feed": 1e-6}), wood, stepover, depth).result
    return max(0.0, tool.feed * (most - edge) / (now - edge)) if now > edge else 0.0


def v_push(tool: Tool, wood: Wood, depth: float) -> Working:
    """Mean push of a V groove of a depth, as a slot of its mean width at its mean diameter."""
    width = depth * math.tan(math.radians(tool.angle / 2.0))
    k_s, k_e = RESISTANCE[wood.kind]
    mean = 2.0 / math.pi * chip(tool).result
    return working(
        "depth * width * feed * (shear + edge / chip) / (3.14159265 * width * rpm)", Named("depth", depth), Named("width", max(width, 1e-6)),
        Named("feed", tool.feed, "feed"), Named("shear", k_s, "N/mm²"), Named("edge", k_e, "N/mm"), Named("chip", mean),
        Named("rpm", tool.rpm, "rpm"), unit="force", assumption="a sharp edge; good to a factor of two", shop_rule=True,
    )  # fmt: skip


def v_power(tool: Tool, wood: Wood, depth: float) -> Working:
    """Power of a V groove of a depth, W: its cross section fed through, k = k_s + k_e/h, as v_push has it."""
    width = depth * math.tan(math.radians(tool.angle / 2.0))
    k_s, k_e = RESISTANCE[wood.kind]
    return working(
        "depth * width * feed * (shear + edge / chip) / 60000", Named("depth", depth), Named("width", width), Named("feed", tool.feed, "feed"),
        Named("shear", k_s, "N/mm²"), Named("edge", k_e, "N/mm"), Named("chip", 2.0 / math.pi * chip(tool).result), unit="W",
        assumption="a sharp edge; good to a factor of two", shop_rule=True,
    )  # fmt: skip


def taken(tool: Tool, wood: Wood, step: float, depth: float) -> Working:
    """Power of a cut by any tool: of a V as a groove, of any other by how much of it is in the wood. step, depth: mm."""
    return v_power(tool, wood, depth) if is_vee(tool) else power(tool, wood, step, depth)


def peak_factor(stepover: float, tool: Tool) -> float:
    """Peak over mean push: 1.3 in a slot, 3 in light cuts; in proportion between."""
    share = min(1.0, stepover / tool.diameter)
    return 3.0 - 1.7 * share
