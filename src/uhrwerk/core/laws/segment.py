"""Segments of a programme as a designer states them, and the programme that their numbers make."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

import numpy as np
from pydantic import Field

from uhrwerk.core.field import Angle, Id, Length, Model, Numbers, Seconds, Span
from uhrwerk.core.laws.law import LAWS, MotionLaw
from uhrwerk.core.laws.poly345 import Poly345
from uhrwerk.core.laws.programme import Jump, Programme, ProgrammePiece

#: values (m, rad) and spans (as a part of the period) that differ by no more are the same
CLOSES = 1e-9

Shown = Callable[[float], str]


class TurnSegment(Model):
    """To an angle, over so much of the cycle; standing still where it is there already."""

    to: Angle = "0 deg"
    over: Span = "90 deg"
    law: Annotated[MotionLaw, LAWS] = Field(default_factory=Poly345)


class SlideSegment(Model):
    """To a position, over so much of the cycle; standing still where it is there already."""

    to: Length = "0 mm"
    over: Span = "90 deg"
    law: Annotated[MotionLaw, LAWS] = Field(default_factory=Poly345)


Segments = dict[Id, TurnSegment] | dict[Id, SlideSegment]


def turning() -> dict[str, TurnSegment]:
    return {
        "out": TurnSegment(to="30 deg", over="120 deg"), "stay": TurnSegment(to="30 deg", over="60 deg"),
        "back": TurnSegment(over="120 deg"), "rest": TurnSegment(over="60 deg"),
    }  # fmt: skip


def sliding() -> dict[str, SlideSegment]:
    return {
        "out": SlideSegment(to="20 mm", over="120 deg"), "stay": SlideSegment(to="20 mm", over="60 deg"),
        "back": SlideSegment(over="120 deg"), "rest": SlideSegment(over="60 deg"),
    }  # fmt: skip


def seconds(span: float, cycle: float) -> float:
    """A span of the cycle, degrees of it or a time, as s."""
    return float(span) if isinstance(span, Seconds) else span / (2 * np.pi) * cycle


def faults(
    segments: dict[str, Numbers], start: float, cycle: float, continues: bool, display: Shown
) -> list[tuple[str, str]]:
    """Fields that keep segments from being a programme, and why; `shown` words a value."""
    problems = [
        (f"segments.{i}.law.{where}", why) for i, s in segments.items() for where, why in LAWS[s.law.kind].faults(s.law)
    ]
    spans = {i: seconds(s.over, cycle) for i, s in segments.items()}
    last = next(reversed(segments))
    at = start
    for i, s in segments.items():
        if spans[i] < CLOSES * cycle and abs(s.to - at) > CLOSES:
            problems.append((f"segments.{i}.over", "nothing moves in no time: give it a span above zero"))
        at = s.to
    over = sum(spans.values()) - cycle
    if over > CLOSES * cycle:
        excess = f"{over / cycle * 360:.6g}° ({over:.6g} s) more than one cycle has"
        problems.append((f"segments.{last}.over", f"the segments take {excess}: shorten one"))
    if not continues and abs(at - start) > CLOSES:
        problems.append((
            f"segments.{last}.to",
            f"ends at {display(at)} and begins at {display(start)}, and would jump by {display(abs(at - start))} from one cycle to the next",
        ))  # fmt: skip
    return problems


def programme(segments: dict[str, Numbers], start: float, begins: float, cycle: float, continues: bool) -> Programme:
    """The programme over a cycle (s; or rad of what leads it, then 2 pi). What is left of the cycle stands still."""
    pieces: list[ProgrammePiece] = []
    at, now = start, 0.0
    for i, s in segments.items():
        span = seconds(s.over, cycle)
        if span > CLOSES * cycle:
            pieces.append(ProgrammePiece(i, now, now + span, at, s.to, s.law))
            now += span
        at = s.to
    if now < cycle * (1 - CLOSES):
        pieces.append(
            ProgrammePiece("", now, cycle, at, at, pieces[-1].law if pieces else next(iter(segments.values())).law)
        )
    else:
        pieces[-1] = ProgrammePiece(pieces[-1].id, pieces[-1].begin, cycle, *_rest(pieces[-1]))
    return Programme(tuple(pieces), cycle, seconds(begins, cycle), continues)


def _rest(p: ProgrammePiece) -> tuple[float, float, Numbers]:
    return p.start, p.to, p.law


def jump_words(jumps: list[Jump], cycle: float, rate: Shown, acceleration: Shown) -> list[str]:
    """Jumps in words: where, of what, by how much."""
    out = []
    for j in jumps:
        what, words = ("velocity", rate) if j.order == 1 else ("acceleration", acceleration)
        where = f"{j.at / cycle * 360:.6g}°" if abs(j.at) > CLOSES * cycle else "0°"
        out.append(f"{what} jumps from {words(j.before)} to {words(j.after)} at {where} of the cycle")
    return out
