"""Build steps that add nothing but a place to draw on, to mirror behind and to join by: planes, axes and points. Only worker
processes import this module."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from uhrwerk.core.solids.datum import BASES, any_across, axis_direction, face_axes
from uhrwerk.core.solids.partial_solid import PartialSolid, StepFailed, frame_of
from uhrwerk.core.solids.recipe import Step
from uhrwerk.core.solids.wires import Frame

#: faces whose normals differ by less are parallel
ALIKE = 1e-9


def marked(partial: PartialSolid, step: Step) -> PartialSolid:
    """The part with one more place, named after the step and what it is."""
    frame = _HOW[step["how"]](partial, step)
    return replace(partial, marks={**partial.marks, f"{step['id']}.{step['is']}": frame})


def _flat(partial: PartialSolid, name: str) -> Frame:
    return frame_of(partial, {"base": name} if name in BASES else {"face": name})


def _on(origin: np.ndarray, n: np.ndarray) -> Frame:
    """A plane of the part through a place: its origin is the part's own, moved squarely onto it."""
    x, y = face_axes(n)
    return Frame(n * float(origin @ n), x, y, n)


def _beside(partial: PartialSolid, step: Step) -> Frame:
    """At a distance from a plane, turned about one of its axes first."""
    frame = frame_of(partial, step["plane"])
    if not step["turn"]:
        return frame
    c, s = np.cos(step["turn"]), np.sin(step["turn"])
    if step["about"] == "x":
        return Frame(frame.origin, frame.x, c * frame.y + s * frame.n, c * frame.n - s * frame.y)
    return Frame(frame.origin, c * frame.x - s * frame.n, frame.y, c * frame.n + s * frame.x)


def _between(partial: PartialSolid, step: Step) -> Frame:
    """Halfway between two faces that look away from or at one another; of two that do not, the plane that halves their angle."""
    a, b = (_flat(partial, name) for name in step["faces"])
    if np.linalg.norm(np.cross(a.n, b.n)) < ALIKE:
        return _on((a.origin + b.origin) / 2, a.n)
    n = a.n - b.n
    _, point = _line(a, b)
    return _on(point, n / np.linalg.norm(n))


def _line(a: Frame, b: Frame) -> tuple[np.ndarray, np.ndarray]:
    """Where two planes cross: the direction, and the place nearest the part's origin, mm."""
    along = np.cross(a.n, b.n)
    if np.linalg.norm(along) < ALIKE:
        raise StepFailed("both faces are parallel: they do not cross")
    along = axis_direction(along / np.linalg.norm(along))
    point = np.linalg.solve(np.stack([a.n, b.n, along]), [a.origin @ a.n, b.origin @ b.n, 0.0])
    return along, np.asarray(point)


def _crossing(partial: PartialSolid, step: Step) -> Frame:
    """The line in which two planes cross, as an axis."""
    along, point = _line(*(_flat(partial, name) for name in step["faces"]))
    x = any_across(along)
    return Frame(point, x, np.cross(along, x), along)


def _place(partial: PartialSolid, step: Step) -> Frame:
    """A place on a plane; as an axis, square to it."""
    frame = frame_of(partial, step["plane"])
    return Frame(frame.at(step["x"], step["y"]), frame.x, frame.y, frame.n)


_HOW: dict[str, Any] = {"beside": _beside, "between": _between, "crossing": _crossing, "place": _place}
