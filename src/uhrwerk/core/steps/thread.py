"""Threads on round faces: a true helical solid, or plain with its sizes kept."""

from __future__ import annotations

from functools import cache
from math import pi
from pathlib import Path
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Numbers, OneOf, Size, SizeOrNone
from uhrwerk.core.outlines import Unfit
from uhrwerk.core.steps import screw_sizes
from uhrwerk.core.steps.step import BuildStep, Face, StepOption, Under

#: half of the angle between flanks, rad: ISO 68-1 and ISO 2901
FLANK = {"metric": pi / 6, "trapezoidal": pi / 12}


@cache
def trapezoidal() -> dict[str, dict[str, float]]:
    """By size: diameter, pitch and clearance at the crests, m."""
    return screw_sizes.rows(Path(__file__).parent / "thread_sizes.csv")


class Thread(BuildStep):
    """A thread on a pin's side or in a bore, right-handed if nothing else is said. `gap` draws its flanks and crests back by so
    much, as printed threads need."""

    title: ClassVar[str] = "Thread"
    about: ClassVar[str] = "cuts a thread on a pin or in a bore"

    kind: Literal["thread"] = "thread"
    face: Face = ""
    profile: Literal["metric", "trapezoidal"] = "metric"
    size: Annotated[str, OneOf(("", *screw_sizes.table(), *trapezoidal()))] = Field(default="M8", title="Size by table")
    diameter: Size = "8 mm"
    pitch: Size = "1.25 mm"
    length: SizeOrNone = Field(default="0 mm", title="Length, 0 for all of it")
    start: Literal["at its start", "at its end"] = "at its start"
    gap: SizeOrNone = "0 mm"
    hand: Literal["right", "left"] = "right"
    drawn: Literal["helical", "plain"] = "helical"

    def idle(self) -> set[str]:
        by_table = {"diameter", "pitch", "profile"} if self.size else set()
        return by_table | ({"start"} if self.length.split()[0] in ("0", "0.0") else set())

    @staticmethod
    def derived(n: Numbers[Thread]) -> list[tuple[str, float, str]]:
        t = sizes(n)
        return [
            ("Pitch", t["pitch"], "length"), ("Pitch diameter", t["middle"], "length"),
            ("Root of a pin's", t["root"], "length"), ("Bore before threading", t["inner"], "length"),
        ]  # fmt: skip

    @classmethod
    def offers(cls, face: Under) -> list[StepOption]:
        if face.kind != "axis" or not face.whole:
            return []
        sized = {
            s: row["tap"] if face.bore else row["head"]  # a cap screw's head is as high as its thread is wide
            for s, row in screw_sizes.table().items()
        }
        best = min(sized, key=lambda s: abs(sized[s] - 2 * face.radius))
        if abs(sized[best] - 2 * face.radius) > 0.15e-3:
            return []
        return [
            StepOption(
                f"A thread {best}",
                cls.model_validate({"name": "Thread", "face": face.name, "size": best}),
                ("size", "length", "gap"),
            )
        ]

    @staticmethod
    def recipe(n: Numbers[Thread]) -> dict[str, Any]:
        if not n.face:
            raise Unfit("choose its face")
        t = sizes(n)
        if t["root"] <= 0 or t["pitch"] > t["d"] / 2:
            raise Unfit("its pitch is too large for its diameter")
        return {
            "do": "thread", "face": n.face, **t, "flank": FLANK[profile_of(n)], "gap": n.gap, "length": n.length,
            "at_end": n.start == "at its end", "left": n.hand == "left", "plain": n.drawn == "plain",
        }  # fmt: skip


def profile_of(n: Numbers[Thread]) -> str:
    return ("trapezoidal" if n.size.startswith("Tr") else "metric") if n.size else str(n.profile)


def sizes(n: Numbers[Thread]) -> dict[str, float]:
    """Diameters of a thread, m: `d`, of the flanks' `middle`, of a pin's `root`, of a nut's `inner` and `outer`; its `pitch`. Basic
    profile ISO 68-1 (metric), ASME B1.1 (unified, the same shape), ISO 2901 (trapezoidal), from memory."""
    if n.size.startswith("Tr"):
        row = trapezoidal()[n.size]
        d, pitch, clear = row["d"], row["pitch"], row["clear"]
    elif n.size:
        row = screw_sizes.table()[n.size]
        d, pitch, clear = row["head"], row["pitch"], 0.0
    else:
        d, pitch, clear = n.diameter, n.pitch, 0.25e-3 if n.pitch < 6e-3 else 0.5e-3
    if profile_of(n) == "trapezoidal":
        return {"d": d, "pitch": pitch, "middle": d - pitch / 2, "root": d - pitch - 2 * clear, "inner": d - pitch, "outer": d + 2 * clear}  # fmt: skip
    high = 3**0.5 / 2 * pitch
    return {
        "d": d,
        "pitch": pitch,
        "middle": d - 0.75 * high,
        "root": d - 1.25 * high,
        "inner": d - 1.25 * high,
        "outer": d,
    }
