"""A base whose origin lies beside it, with whatever a case mounts on it at places and along directions of its own choice; units, mirrors and
where the base itself stands are chosen at random."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.spatial.transform import Rotation

from tests.context import CONTEXT
from tests.reference.attack.witness import Witness, shown
from uhrwerk import At, Draft
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.document import Document
from uhrwerk.core.document.document import Cycle
from uhrwerk.core.outlines import Rectangle
from uhrwerk.core.steps import AtPoints, Extrude, Hole, Spot


@dataclass
class Case:
    """A mechanism, the kinds in it, and what the witness says of its evaluation: all that is wrong, in words."""

    document: Document
    kinds: Counter[str]
    look: Callable[[Witness], list[str]]
    solids: bool = True


class NotTried(Exception):
    """Raised where a case turns out to be none: beside what its formulas are of."""


class Rig:
    """Collects one case. Lengths are given in metres, angles in radians, and written in a unit chosen at random."""

    def __init__(self, name: str, seed: int, moved_base: bool = True) -> None:
        self.r = np.random.default_rng(seed)
        self.d = Draft(f"{name} {seed}", units={"length": str(self.r.choice(["mm", "in", "cm"]))})
        self.kinds: Counter[str] = Counter()
        self._beside: dict[str, tuple[float, float]] = {}
        self._drawn: dict[tuple[str, bool], dict[str, dict[str, Any]]] = {}
        if moved_base and self.r.random() < 0.5:
            ground = self.box("Ground", (0.05, 0.03, 0.01))
            self.base = self.box("Base", (0.2, 0.1, 0.02), x="40 mm", turn_y="20 deg")
            at = [At(placed=p, datum=f"block.side_{self.r.integers(1, 5)}") for p in (ground, self.base)]
            self.d.rigid(
                "Base stands", *at, turn=f"{self.r.uniform(-180, 180):.1f} deg", flip=bool(self.r.random() < 0.5)
            )
        else:
            self.base = self.box("Base", (0.2, 0.1, 0.02))

    def length(self, value: float) -> str:
        return f"{float(value) / 25.4e-3!r} in" if self.r.random() < 0.3 else f"{float(value) * 1e3!r} mm"

    def angle(self, value: float) -> str:
        return f"{float(value)!r} rad" if self.r.random() < 0.3 else f"{float(np.degrees(value))!r} deg"

    def box(self, name: str, size: tuple[float, float, float], material: str = "steel", **start: str) -> Any:
        """A box of one's own, drawn in any of the base planes, its origin anywhere."""
        x, y, up = (float(v) for v in self.r.uniform(-0.03, 0.03, 3))
        lift = self.length(up)
        outline = Rectangle(length=self.length(size[0]), width=self.length(size[1]), x=self.length(x), y=self.length(y))
        block = Extrude(name="Block", plane=str(self.r.choice(["xy", "xz", "yz"])), offset=lift, outline=outline, length=self.length(size[2]))  # fmt: skip
        part = self.d.own_part(name, material, {"block": block}, **start)
        self._beside[str(part)] = (x, y)
        if len(self.d.document.placed) > 1:
            self.mirror(part)
        return part

    def drill(self, part: str, place: tuple[float, float], diameter: float) -> None:
        """A hole through a box, square to its end, so far from the end's middle along its length and its width. Where spots of a step count from
        is looked up: by holes that are tried."""

        def lies(x: float, y: float) -> np.ndarray | None:
            spots = {"a": Spot(x=self.length(x), y=self.length(y))}
            before = self.d.document
            step = Hole(name="Hole", plane="block.end", diameter="1 mm", at=AtPoints(spots=spots))
            self.d.step(part, step, id="hole")
            found = shown(self.d.document, {part: compile(self.d.document, CONTEXT).datums[part]})[part]  # type: ignore[dict-item]
            self.d.document = before
            return next(
                (np.array(v["origin"]) for n, v in found.items() if n.startswith("hole") and v["kind"] == "axis"), None
            )

        faces = self.drawn(part)
        middle = np.array(faces["block.end"]["origin"])
        sides = [np.array(faces[f"block.{x}"]["origin"]) for x in ("side_2", "side_4", "side_1", "side_3")]
        ways = [(b - a) / np.linalg.norm(b - a) for a, b in (sides[:2], sides[2:])]
        near = 1e-4
        x, y = self._beside[str(part)]
        tried = [(s * a, t * b) for a, b in ((x, y), (y, x)) for s in (1, -1) for t in (1, -1)]
        start = next(xy for xy in tried if lies(*xy) is not None)
        first, *others = (lies(start[0] + dx, start[1] + dy) for dx, dy in ((0.0, 0.0), (near, 0.0), (0.0, near)))
        turn = np.array([[(o - first) @ w / near for o in others] for w in ways])
        spot = start + np.linalg.solve(turn, np.array(place) - [(first - middle) @ w for w in ways])
        spots = {"a": Spot(x=self.length(spot[0]), y=self.length(spot[1]))}
        self.d.step(
            part,
            Hole(name="Hole", plane="block.end", diameter=self.length(diameter), at=AtPoints(spots=spots)),
            id="hole",
        )
        self._drawn.clear()

    def mirror(self, part: str, share: float = 0.25) -> None:
        if self.r.random() < share:
            self.d.set(f"placed.{part}.mirrored", True)
            self.kinds["mirrored"] += 1

    def drawn(self, part: str) -> dict[str, dict[str, Any]]:
        """The datums of a part, as the page draws them."""
        key = (str(part), self.d.document.placed[part].mirrored)
        if key not in self._drawn:
            self._drawn[key] = shown(self.d.document, {part: compile(self.d.document, CONTEXT).datums[part]})[part]  # type: ignore[dict-item]
        return self._drawn[key]

    def stand(self, part: str, point: np.ndarray, x: np.ndarray, z: np.ndarray) -> None:
        """Puts a part before it is joined: its origin at a point of the base, its x and z along directions of the base."""
        m = compile(self.d.document, CONTEXT)
        base = m.part_pose(self.base, solve(m))
        turn = Rotation.from_quat(base[3:], scalar_first=True)
        angles = (turn * Rotation.from_matrix(np.stack([x, np.cross(z, x), z], axis=1))).as_euler("xyz")
        at = base[:3] + turn.apply(point)
        for name, value in zip(("x", "y", "z"), at, strict=True):
            self.d.set(f"placed.{part}.start.{name}", self.length(value))
        for name, value in zip(("turn_x", "turn_y", "turn_z"), angles, strict=True):
            self.d.set(f"placed.{part}.start.{name}", self.angle(value))

    def axes(self) -> tuple[np.ndarray, np.ndarray]:
        """Of the base, in its own coordinates: the middle of its upper face (3,), and three directions (3, 3) in rows: along its length,
        its width and out of its upper face, right-handed."""
        faces = self.drawn(self.base)
        up = np.array(faces["block.end"]["z"])
        along = np.array(faces["block.side_2"]["z"])
        return np.array(faces["block.end"]["origin"]), np.stack([along, np.cross(up, along), up])

    def at(self, point: np.ndarray, way: np.ndarray, part: str = "") -> At:
        """A place on a part (the base) by its own coordinates, whose z points along `way`, as that of one of its datums does."""
        part = part or self.base
        some = list(self.drawn(part).items())
        for k in self.r.permutation(len(some)):
            name, datum = some[int(k)]
            z = np.array(datum["z"])
            if z @ way > 1 - 1e-9:
                x = np.array(datum["x"])
                own = np.stack([x, np.cross(z, x), z]) @ (point - np.array(datum["origin"]))
                return At(placed=str(part), datum=name, **{k: self.length(v) for k, v in zip("xyz", own, strict=True)})
        raise ValueError("nothing points there")

    def turn(self, a: At, b: At, there: np.ndarray, here: np.ndarray) -> float:
        """By which angle b's x stands against a's about their common z, rad, where `here`, a direction of b's part, lies along `there`, one
        of a's."""

        def lies(at: At, way: np.ndarray) -> float:
            datum = self.drawn(at.placed)[at.datum]
            x, z = np.array(datum["x"]), np.array(datum["z"])
            return float(np.arctan2(np.cross(x, way) @ z, x @ way))

        return lies(a, there) - lies(b, here)

    def cycle(self, duration: str = "1 s", frames: int = 120, weight: str = "not_counted") -> None:
        self.d.set("cycle", Cycle(duration=duration, frames=frames, weight=weight).model_dump(mode="json"))  # type: ignore[arg-type]

    def require(self, requirement: Any) -> str:
        self.kinds[f"requirement {requirement.kind}"] += 1
        return self.d.require(requirement)

    def case(self, look: Callable[[Witness], list[str]], solids: bool = True) -> Case:
        return Case(self.d.document, self.kinds, look, solids)
