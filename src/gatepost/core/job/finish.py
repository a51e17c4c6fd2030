# SPDX-License-Identifier: GPL-3.0-or-later
"""What is coloured, coated and waited for: tins as their labels say, the coats in their order, the room, and how far it is sanded. Minutes, °C, mm."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from gatepost.core.job.base import Called, Day, Model, Name, Words, with_ids

Does = Literal["primer", "colour", "seal coat", "stain", "oil", "varnish", "resin", "filler", "mask"]
Base = Literal["water", "solvent", "oil", "shellac", "two-part", "film"]
Where = Literal["face", "letters", "all round", "edges"]
SchemeName = Literal["", "painted first", "painted after", "stained", "oiled", "bare"]
Wait = Annotated[float, Field(ge=0, le=200_000)]  # minutes
Celsius = Annotated[float, Field(ge=-40, le=60)]
GRITS = (80, 100, 120, 150, 180, 220, 240, 320, 400)


class Tin(Model):
    """A finish as its label says. touch: minutes until it is dry to the touch; recoat, within: from when and until when it may be coated again, 0 where there is no end; sand, hard: until
    it may be sanded, and masked, clamped or wrapped; lowest: temperature under which it does not dry; covers: m² a litre; film: of a dry coat; ratio: parts to one of its
    hardener; deepest: that may be poured at once; shift: what it does to colour; smell; spray: whether it is sprayed; isocyanate: whether its hardener has any; batch: of this tin; best: until when it keeps, by its label; price: of a litre."""

    id: Called = ""
    name: Name
    does: Does = "colour"
    base: Base = "water"
    touch: Wait = 60.0
    recoat: Wait = 240.0
    within: Wait = 0.0
    sand: Wait = 0.0
    hard: Wait = 1440.0
    lowest: Celsius = 8.0
    covers: Annotated[float, Field(ge=0, le=100)] = 12.0
    film: Annotated[float, Field(ge=0, le=20)] = 0.03
    ratio: Annotated[float, Field(ge=0, le=100)] = 0.0
    deepest: Annotated[float, Field(ge=0, le=500)] = 0.0
    shift: Words = ""
    smell: Words = ""
    spray: bool = False
    isocyanate: bool = False
    batch: Words = ""
    best: Day = ""
    price: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    taken: Day = ""

    @model_validator(mode="after")
    def _ends(self) -> Tin:
        if self.within and self.within <= self.recoat:
            raise ValueError("it can be coated again only from a time on that lies before the end of that")
        if self.hard < self.recoat and self.does not in ("mask", "stain"):
            raise ValueError("it is hard no sooner than it can be coated again")
        return self


class Coating(Model):
    """Coats of a tin, one after another. tin: its id; count: of coats; where: on what; colour: of the letters that it goes in, nothing for all."""

    id: Called = ""
    tin: Called
    count: Annotated[int, Field(ge=1, le=12)] = 1
    where: Where = "face"
    colour: Annotated[str, Field(max_length=40)] = ""


class Rates(Model):
    """What things cost this shop, in its own money. hands, machine: of an hour; wood: of a m³; waste: share of the wood that is bought beside the board; life: metres that a bit cuts; waiting: of a day
    that a job lies in the shop; preparation: minutes beside what is planned; margin: share on top."""

    money: Annotated[str, Field(max_length=8)] = ""
    hands: Annotated[float, Field(ge=0, le=1e5)] = 0.0
    machine: Annotated[float, Field(ge=0, le=1e5)] = 0.0
    wood: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    waste: Annotated[float, Field(ge=0, le=5)] = 0.2
    life: Annotated[float, Field(gt=0, le=1e6)] = 1000.0
    waiting: Annotated[float, Field(ge=0, le=1e5)] = 0.0
    preparation: Annotated[float, Field(ge=0, le=1e5)] = 30.0
    margin: Annotated[float, Field(ge=0, le=10)] = 0.0
    taken: Day = ""


class StepDone(Model):
    """A step of the finish that was done. step: its key; at: when; work: what kind of hands it asks for; planned: minutes by shop rules; minutes: that it took, 0 where nobody looked."""

    step: Annotated[str, Field(min_length=1, max_length=80)]
    at: Annotated[str, Field(max_length=40)]
    work: Annotated[str, Field(max_length=20)] = ""
    planned: Wait = 0.0
    minutes: Wait = 0.0


class OwnTime(Model):
    """What a kind of hands really takes here over what shop rules say. wood: soft, medium or hard, nothing for all; within: the factor is good to, spread: one step lies, times or divided by; count: of the steps it comes from."""

    work: Annotated[str, Field(min_length=1, max_length=20)]
    wood: Annotated[str, Field(max_length=20)] = ""
    factor: Annotated[float, Field(gt=0.05, le=20)]
    within: Annotated[float, Field(ge=1, le=20)] = 1.0
    spread: Annotated[float, Field(ge=1, le=20)] = 1.0
    count: Annotated[int, Field(ge=1)] = 1
    taken: Day = ""


class Finish(Model):
    """How a job is finished. scheme: nothing where it is as Carve says; tins: dated copies of the shop's; coats: in their order; grits: bare wood is sanded with, one after another; least: width
    that a stroke keeps at least when the face is sanded; celsius, damp: of the room, damp in per cent; night: of it while the shop is closed, nothing where it stays as
    warm; tried: whether the coats were tried on scrap of this wood; dry, wet: moisture between which the sign will move, per cent; begins: the day; hours: of the shop; rates: what things cost it;
    own: its own minutes of hands; done: steps that were done of the piece that is finished now, which is the piece-th."""

    scheme: SchemeName = ""
    tins: Annotated[tuple[Tin, ...], Field(max_length=40)] = ()
    coats: Annotated[tuple[Coating, ...], Field(max_length=20)] = ()
    grits: Annotated[tuple[int, ...], Field(max_length=8)] = (120, 180)
    least: Annotated[float, Field(ge=0, le=50)] = 0.8
    celsius: Celsius = 20.0
    damp: Annotated[float, Field(ge=0, le=98)] = 55.0
    night: Celsius | None = None
    tried: bool = False
    dry: Annotated[float, Field(ge=0, le=40)] = 8.0
    wet: Annotated[float, Field(ge=0, le=40)] = 16.0
    begins: Day = ""
    hours: Annotated[str, Field(max_length=400)] = "Mon-Fri 8:00-17:00"
    rates: Rates = Rates()
    own: Annotated[tuple[OwnTime, ...], Field(max_length=80)] = ()
    done: Annotated[tuple[StepDone, ...], Field(max_length=200)] = ()
    piece: Annotated[int, Field(ge=1, le=100_000)] = 1

    @field_validator("tins", mode="before")
    @classmethod
    def _tins(cls, tins: Any) -> Any:
        return with_ids(tins, "tin-")

    @field_validator("coats", mode="before")
    @classmethod
    def _coats(cls, coats: Any) -> Any:
        return with_ids(coats, "coat-")

    @model_validator(mode="after")
    def _known(self) -> Finish:
        ids = [t.id for t in self.tins]
        for coat in self.coats:
            if coat.tin not in ids:
                raise ValueError(f"a coat is of the tin “{coat.tin}”, which is not there")
        for a, b in zip(self.grits, self.grits[1:]):
            if b <= a:
                raise ValueError("grits go from coarse to fine")
        if any(g not in GRITS for g in self.grits):
            raise ValueError(f"grits are some of {', '.join(str(g) for g in GRITS)}")
        if self.wet < self.dry:
            raise ValueError("wood is not wetter when it is dry")
        return self

    def tin(self, id: str) -> Tin:
        """By its id."""
        return next(t for t in self.tins if t.id == id)
