"""Frame plate: a rounded rectangle with bores, and posts that stand on its top face at z = 0."""

from __future__ import annotations

import itertools
from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.bore import Bore, Post
from uhrwerk.core.elements.drawn import DrawnDimension, along_x, along_y, along_z, spots
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.field import Id, Model, Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, face, plane, recipe, rectangle


class FramePlate(Element):
    """A rectangular plate with its lower left corner at the origin and its top face at z = 0."""

    title: ClassVar[str] = "Frame plate"
    about: ClassVar[str] = "A plate with bearing bores and guide posts: the usual frame."
    group: ClassVar[str] = "Frames"
    hint: ClassVar[str] = "thickness"
    blanks: ClassVar[dict[str, Model]] = {"bores": Bore(x="20 mm", y="20 mm"), "posts": Post(x="20 mm", y="20 mm")}

    kind: Literal["frame_plate"] = "frame_plate"
    length: Size = "160 mm"
    width: Size = "100 mm"
    thickness: Size = "8 mm"
    corner: SizeOrNone = "8 mm"
    bores: dict[Id, Bore] = Field(default_factory=dict, max_length=200)
    posts: dict[Id, Post] = Field(default_factory=dict, max_length=200)

    @staticmethod
    def faults(n: Numbers[FramePlate]) -> list[tuple[str, str]]:
        problems = []
        if 2 * n.corner >= min(n.length, n.width):
            problems.append(("corner", "is too large for the plate"))
        bores = list(n.bores.items())
        for at, (name, b) in enumerate(bores):
            r = b.diameter / 2
            if not (r < b.x < n.length - r and r < b.y < n.width - r):
                problems.append((f"bores.{name}.x", "puts the bore across the edge of the plate"))
            for other, c in bores[:at]:
                if ((b.x - c.x) ** 2 + (b.y - c.y) ** 2) ** 0.5 <= r + c.diameter / 2:
                    problems.append((f"bores.{name}.x", f"runs the bore into bore {other!r}"))
        problems += [
            (f"posts.{i}", "this name is taken: choose another") for i in n.posts if i == "plate" or i in n.bores
        ]
        return problems

    @staticmethod
    def solid(n: Numbers[FramePlate]) -> Recipe:
        holes = [circle(b.x, b.y, b.diameter / 2) for b in n.bores.values()]
        bodies = {"plate": [extrude(rectangle(0, 0, n.length, n.width, n.corner), -n.thickness, 0, holes)]}
        for name, p in n.posts.items():
            bodies[name] = [extrude(circle(p.x, p.y, p.diameter / 2), 0, p.height)]
        return recipe(bodies)

    @staticmethod
    def datums(n: Numbers[FramePlate]) -> dict[str, Datum]:
        middle = n.length / 2, n.width / 2
        named = {"top": plane(*middle, 0), "bottom": plane(*middle, -n.thickness, up=False)}
        x, y, z = n.length, n.width, -n.thickness / 2
        named |= {"left": face((0, y / 2, z), (-1, 0, 0)), "right": face((x, y / 2, z), (1, 0, 0))}
        named |= {"front": face((x / 2, 0, z), (0, -1, 0)), "back": face((x / 2, y, z), (0, 1, 0))}
        named |= {i: axis(b.x, b.y, 0, b.diameter / 2, "bore", -n.thickness) for i, b in n.bores.items()}
        return named | {i: axis(p.x, p.y, 0, p.diameter / 2, "pin", p.height) for i, p in n.posts.items()}

    @staticmethod
    def dimensions(n: Numbers[FramePlate]) -> list[DrawnDimension]:
        out = [along_x("length", 0, n.length), along_y("width", 0, n.width), along_z("thickness", -n.thickness, 0)]
        out += [along_x("corner", 0, n.corner)] if n.corner else []
        for name, b in n.bores.items():
            out += spots("bores", name, b.x, b.y, b.diameter)
        for name, p in n.posts.items():
            out += [*spots("posts", name, p.x, p.y, p.diameter), along_z(f"posts.{name}.height", 0, p.height, p.x)]
        return out

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not g.face:
            return []
        asks = {
            "length": g.ask("length", "40 mm"),
            "width": g.ask("width", "30 mm"),
            "thickness": g.ask("thickness", "5 mm"),
        }
        block = cls(corner="2 mm", length=asks["length"], width=asks["width"], thickness=asks["thickness"])
        plate = GrownPart("Plate", block, {"kind": "rigid", "flip": True}, by="bottom")
        return [Growth("A plate on it", (plate,), asks=asks)]

    @staticmethod
    def derived(n: Numbers[FramePlate]) -> list[Derived]:
        bores = list(n.bores.items())
        return [
            (f"{i} to {j}", ((b.x - c.x) ** 2 + (b.y - c.y) ** 2) ** 0.5, "length")
            for (i, b), (j, c) in itertools.pairwise(bores)
        ]
