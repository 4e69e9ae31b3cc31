"""A part as the rest sees it: how its solid is made, and the datums that it is joined by.

An element states its datums itself. What build steps make is known once it is built: those faces are asked of the kernel pool
of the context, which keeps every solid by the content of its recipe, so that the answer is the same whoever asks.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from itertools import count
from typing import Any, Literal, cast

import numpy as np

from uhrwerk.core import elements
from uhrwerk.core.cache import Cache
from uhrwerk.core.context import Context
from uhrwerk.core.document.document import Document, Part
from uhrwerk.core.elements.like import Like
from uhrwerk.core.field import Numbers, ValidationFailed, numbers, references
from uhrwerk.core.outlines import Unfit
from uhrwerk.core.part.design import is_mirrored, whole
from uhrwerk.core.solids import BuildFailed, Datum, Recipe, Solid, behind, key
from uhrwerk.core.solids.datum import BASES, any_across, axis_direction, face_axes, same_place
from uhrwerk.core.solids.edges import corners, straight_edges
from uhrwerk.core.solids.flat import inside
from uhrwerk.core.solids.solid import Body, Face
from uhrwerk.core.steps import STEPS, Under

#: places along a line across a face that are looked at
ALONG = 241

_recipes: Cache[tuple[Recipe, str]] = Cache(600)


def recipe(document: Document, part: str, image: bool = False, named: bool = False) -> tuple[Recipe, str]:
    """How a part's solid is made, and the key of that; `image` is the one behind its own yz plane. Its faces are named where
    it has build steps, or where that is required. ValidationFailed where what it is like cannot be had."""
    own, scope = document.parts[part], document.scope()
    like = isinstance(own.element, Like)
    first = whole(document, part)
    n, before = numbers(first.element, scope), numbers(first.steps, scope) if like else {}
    after = numbers(own.steps, scope)
    mirrored = is_mirrored(document, part)
    named = named or bool(before) or bool(after) or elements.of(n).datums_from_faces or like
    others = {o: recipe(document, o, named=True) for o in _neighbours(first) | _neighbours(own) if o != part}
    key_ = f"{n!r} {before!r} {after!r} {mirrored} {image} {named} {[k for _, k in others.values()]}"
    return _recipes.get(key_, lambda: _recipe(n, before, mirrored, after, image, named, others))


def _neighbours(part: Part) -> set[str]:
    """Other parts that build steps take outlines or places from."""
    return {r.id for r in references(part.steps) if r.ref.collection == "parts" and r.id}


def _recipe(
    n: Numbers,
    before: dict[str, Numbers],
    mirrored: bool,
    after: dict[str, Numbers],
    image: bool,
    named: bool,
    others: dict[str, tuple[Recipe, str]],
) -> tuple[Recipe, str]:
    result = elements.of(n).solid(n)
    if named:
        own = [step for body in result["bodies"] for step in body["steps"]]
        first = [{**step, "id": "element" if k == 1 else f"element_{k}"} for k, step in enumerate(own, 1)]
        built = [*first, *(_with(_step(i, step), others) for i, step in before.items())]
        built += [{"do": "mirror", "id": "mirrored"}] if mirrored else []
        built += [_with(_step(i, step), others) for i, step in after.items()]
        result = result | {"bodies": [{"name": result["bodies"][0]["name"], "steps": built, "order": 1}]}
    result = behind(result) if image else result
    return result, key(result)


def _with(step: Any, others: dict[str, tuple[Recipe, str]]) -> Any:
    """A step with the build steps of the parts that it takes something from."""
    if isinstance(step, dict):
        if step.get("of_part"):
            (body,) = others[step["of_part"]][0]["bodies"]
            step = {**step, "steps": body["steps"]}
        return {k: _with(v, others) if k != "steps" else v for k, v in step.items() if k != "of_part"}
    return [_with(v, others) for v in step] if isinstance(step, list) else step


def _step(i: str, n: Numbers) -> dict[str, object]:
    """A build step as a recipe has it. One whose numbers do not fit is handed on with the reason: it fails when its turn
    comes, and the part stays as it was before it."""
    if n.off:
        return {"do": "nothing", "id": i, "off": True}
    try:
        return {**STEPS[n.kind].recipe(n), "id": i}
    except Unfit as error:
        return {"do": "nothing", "id": i, "why": str(error)}


def datums(document: Document, part: str, context: Context) -> dict[str, Datum]:
    """The places to join by: the element's own; every face that a build step made or left, by its name, with the ends of round
    ones, straight edges between flat ones and corners, and the middles of patterns of holes; the part's origin and base planes."""
    try:
        first = whole(document, part)
        n = numbers(first.element, document.scope())
        if elements.of(n).faults(n):
            return {}
        named = {} if is_mirrored(document, part) else elements.of(n).datums(n)
        if (
            not document.parts[part].element.datums_from_faces
            and not elements.of(n).datums_from_faces
            and not first.steps
            and not document.parts[part].steps
        ):
            return {**named, **_own_frame(named)}
        recipe_, name = recipe(document, part)
        if (coarse := context.deviation) is not None:
            recipe_, name = recipe_ | {"deviation": coarse}, f"{name}.{coarse:g}"
    except ValidationFailed:
        return {}  # said where it is built for the checks
    try:
        of_faces = context.datums.get(name, lambda: _of_solid(recipe_, context))
    except BuildFailed:
        return named  # said where it is built for the checks
    return {**named, **of_faces, **_patterns(document, part, of_faces), **_own_frame(named)}


def _of_solid(recipe: Recipe, context: Context) -> dict[str, Datum]:
    """The datums of a part's named faces, ends of round ones, threads, straight edges and corners."""
    solid = context.kernel_pool.build(recipe)
    own = faces(solid)
    return {**own, **_threads(recipe, context), **_ends(own), **_edges(solid), **_marks(solid)}


def _marks(solid: Solid) -> dict[str, Datum]:
    """The planes, axes and points that build steps stated."""
    return {
        name: Datum(cast(Literal["plane", "axis", "point"], name.rpartition(".")[2]), m.origin, m.z, m.x)
        for name, m in solid.marks.items()
    }


def _edges(solid: Solid) -> dict[str, Datum]:
    """The middle of every straight edge between flat faces, z along it, and the corners where three meet, along the part's own
    axes. They are named by those faces, `a+b` and `a+b+c`; where there are several, by a number too, along the edge's line."""
    out: dict[str, Datum] = {}
    for body in solid.bodies.values():
        for edge in straight_edges(body):
            z = edge.direction
            name = _between(body, edge.faces, out)
            out[name] = Datum("axis", edge.middle, z, _across(z), length=edge.length, low=-edge.length / 2)
        for corner in corners(body):
            out[_between(body, corner.faces, out)] = Datum("point", corner.place, np.eye(3)[2], np.eye(3)[0])
    return out


def _between(body: Body, meeting: tuple[int, ...], taken: Mapping[str, Datum]) -> str:
    """The name, not yet taken, of what lies between faces of a body."""
    first = "+".join(sorted(body.faces[k].name for k in meeting))
    names = (first if k == 1 else f"{first}:{k}" for k in count(1))
    return next(name for name in names if name not in taken)


def _own_frame(named: Mapping[str, Datum]) -> dict[str, Datum]:
    """The part's origin and base planes, where no element's own datum has such a name."""
    x, z = np.eye(3)[0], np.eye(3)[2]
    out = {"origin": Datum("frame", np.zeros(3), z, x)}
    for plane, (across, normal) in BASES.items():
        out[f"{plane}_plane"] = Datum(
            "plane", np.zeros(3), np.array(normal, dtype=float), np.array(across, dtype=float)
        )
    return {name: datum for name, datum in out.items() if name not in named}


def _ends(of_faces: Mapping[str, Datum]) -> dict[str, Datum]:
    """Both ends of every round face, on its axis: `_low` and `_high` along that."""
    out = {}
    for name, d in of_faces.items():
        if d.kind == "axis" and d.length:
            step, _, role = name.partition(".")
            role, dot, number = role.partition(".")
            for end, at in zip(("low", "high"), d.ends, strict=True):
                out[f"{step}.{role}_{end}{dot}{number}"] = d.moved(np.array([0.0, 0.0, at]))
    return out


def _patterns(document: Document, part: str, of_faces: Mapping[str, Datum]) -> dict[str, Datum]:
    """The axis in the middle of each circle or grid of holes, on its plane: `middle` of that step; and the way that a pin has in a
    slot: `slot`. Those of the steps of what a mirrored part is like lie behind its yz plane."""
    own, scope = document.parts[part].steps, document.scope()
    taken = whole(document, part).steps if isinstance(document.parts[part].element, Like) else {}
    mirror = np.array([-1.0 if is_mirrored(document, part) else 1.0, 1.0, 1.0])
    out = {}
    for steps, way in ((taken, mirror), (own, np.ones(3))):
        for i, n in numbers(dict(steps), scope).items():
            drawn = _pattern(n, of_faces, way)
            if drawn is not None and any(name.startswith(f"{i}.") for name in of_faces):
                name, d = drawn
                out[f"{i}.{name}"] = replace(d, origin=d.origin * way, z=d.z * way, x=d.x * way)
    return out


def _pattern(n: Numbers, of_faces: Mapping[str, Datum], way: np.ndarray) -> tuple[str, Datum] | None:
    """What the numbers of a step say of a pattern of holes or a slot, before it is mirrored by `way`; by its name."""
    holes = n.kind == "hole" and n.at.kind in ("circle", "grid")
    slot = n.kind in ("extrude", "cut") and n.outline.kind in ("slot", "arc_slot")
    there = {k: replace(d, origin=d.origin * way, z=d.z * way, x=d.x * way) for k, d in of_faces.items()}
    plane = plane_axes(there, n.plane) if holes or slot else None
    if plane is None:
        return None
    foot, across, normal = plane
    foot, up = foot + n.offset * normal, np.cross(normal, across)
    if holes:
        return "middle", Datum("axis", foot + n.at.x * across + n.at.y * up, normal, across)
    o = n.outline
    if o.kind == "slot":
        along = np.cos(o.turn) * across + np.sin(o.turn) * up
        return "slot", Datum("slot", foot + o.x * across + o.y * up, normal, along, length=o.length)
    along = np.cos(o.middle) * across + np.sin(o.middle) * up
    return "slot", Datum("arc_slot", foot, normal, along, o.radius, "", o.span * o.radius)


def plane_axes(named: Mapping[str, Datum], plane: str) -> tuple[np.ndarray, np.ndarray, np.ndarray] | None:
    """Origin (3,) m, x (3,) and normal (3,) of a plane that build steps are drawn on, as the kernel has them; None where it is not
    there."""
    if plane in BASES:
        x, z = (np.array(v, dtype=float) for v in BASES[plane])
        return np.zeros(3), x, z
    at = named.get(plane)
    if at is None:
        return None
    if plane.endswith(".plane"):  # one that a step stated has axes of its own
        return at.origin, at.x, at.z
    return (at.origin @ at.z) * at.z, face_axes(at.z)[0], at.z


def _threads(recipe: Recipe, context: Context) -> dict[str, Datum]:
    """The axis of each thread: that of the round face which it takes."""
    out: dict[str, Datum] = {}
    for body in recipe["bodies"]:
        for k, step in enumerate(body["steps"]):
            if step["do"] == "thread":
                before = recipe | {"bodies": [body | {"steps": body["steps"][:k]}]}
                axis = faces(context.kernel_pool.build(before)).get(step["face"])
                out |= {} if axis is None else {f"{step['id']}.axis": axis}
    return out


def face_names(document: Document, part: str, context: Context) -> list[str]:
    """The names of all faces of a part, build steps or none; empty where it cannot be made."""
    try:
        solid = context.kernel_pool.build(recipe(document, part, named=True)[0])
    except (BuildFailed, ValidationFailed):
        return []
    return sorted(f.name for body in solid.bodies.values() for f in body.faces if f.name)


def referenced_parts(document: Document) -> set[str]:
    """Parts that others take outlines or places from."""
    return {o for part in document.parts.values() for o in _neighbours(part)}


def faces(solid: Solid) -> dict[str, Datum]:
    """The datums of a solid's named faces: planes and the axes of cylinders."""
    datums = [
        (f.name, _datum(f, _all_round(body, k)))
        for body in solid.bodies.values()
        for k, f in enumerate(body.faces)
        if f.name
    ]
    return {name: datum for name, datum in datums if datum is not None}


def _all_round(body: Body, k: int) -> bool:
    """Whether a round face goes all the way round its axis, but for what is cut into it."""
    face = body.faces[k]
    if face.kind != "cylinder":
        return True
    corners = body.vertices[body.triangles[body.face_of == k]].reshape(-1, 3) - face.origin
    x, y = any_across(face.direction), np.cross(face.direction, any_across(face.direction))
    angle = np.sort(np.arctan2(corners @ y, corners @ x))
    if not len(angle):
        return True
    widest = max(float(np.diff(angle).max(initial=0.0)), float(angle[0] + 2 * np.pi - angle[-1]))
    return widest < np.pi / 2  # a round face is drawn by more than four corners


def flat_faces(document: Document, part: str, context: Context) -> list[tuple[Face, np.ndarray, Body]]:
    """The plane faces of a part as build steps name them, each with its triangles (m, 3, 3) and its body; none where it cannot be
    made."""
    try:
        solid = context.kernel_pool.build(recipe(document, part, named=True)[0])
    except (BuildFailed, ValidationFailed):
        return []
    return [
        (face, b.vertices[b.triangles[b.face_of == k]], b)
        for b in solid.bodies.values() for k, face in enumerate(b.faces) if face.kind == "plane" and face.name
    ]  # fmt: skip


def under(document: Document, part: str, datum: str, context: Context) -> Under | None:
    """The face at a datum of a part, as build steps are told of it; None where there is none."""
    at = datums(document, part, context).get(datum)
    if at is None:
        return None
    try:
        solid = context.kernel_pool.build(recipe(document, part, named=True)[0])
    except (BuildFailed, ValidationFailed):
        return None
    for body in solid.bodies.values():
        for k, face in enumerate(body.faces):
            own = _datum(face)
            if own is not None and (face.name == datum or same_place(own, at)):
                return _under(face, own, body.vertices[body.triangles[body.face_of == k]], len(body.faces))
    return None


def _under(face: Face, own: Datum, corners: np.ndarray, faces: int) -> Under:
    """A face with its triangles (m, 3, 3), as build steps are told of it. Where its middle is a hole, a place beside that."""
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    flat = np.stack(face_axes(face.direction), axis=1)
    area, place = float(areas.sum()), face.origin @ flat
    whole = face.kind != "cylinder" or area > 0.99 * 2 * np.pi * face.radius * face.length
    if own.kind == "plane" and not inside(corners @ flat, place[None]).any():
        area, place = _beside_hole(corners @ flat, place, areas)
    x, y = (float(v) for v in place)
    return Under(face.name, own.kind, x, y, area**0.5, face.radius, own.side == "bore", bool(whole), faces)


def _beside_hole(corners: np.ndarray, middle: np.ndarray, areas: np.ndarray) -> tuple[float, np.ndarray]:
    """A place (2,) on a face whose middle is none, by its triangles (m, 3, 2): straight along x or y from the middle, half-way
    over the widest land there; and the area of a square so wide. Where there is none, the middle of the largest triangle."""
    reach = float(np.abs(corners - middle).max())
    for way in ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0)):
        at = middle + np.linspace(0, reach, ALONG)[:, None] * np.array(way)
        on = inside(corners, at).any(axis=1).astype(int)
        edges = np.diff(np.concatenate([[0], on, [0]]))
        lands = list(zip(np.flatnonzero(edges > 0), np.flatnonzero(edges < 0), strict=True))
        if lands:
            low, high = max(lands, key=lambda land: land[1] - land[0])
            wide = float(np.linalg.norm(at[high - 1] - at[low]))
            if wide > 0:
                return wide**2, (at[low] + at[high - 1]) / 2
    k = int(np.argmax(areas))
    return float(areas[k]), corners[k].mean(axis=0)


def _datum(face: Face, all_round: bool = True) -> Datum | None:
    """A face as a datum, its origin where the face has its centre. An axis points along the part's z, or y, or x where it lies
    across those before."""
    z = face.direction
    if face.kind == "plane":
        return Datum("plane", face.centre, z, _across(z))
    if face.kind == "cylinder":
        z = axis_direction(z)
        side: Literal["pin", "bore"] = "pin" if face.outward else "bore"
        return Datum("axis", face.centre, z, _across(z), face.radius, side, face.length, -face.length / 2, all_round)
    return None


def _across(z: np.ndarray) -> np.ndarray:
    """x of a datum: along the part's z, moved squarely onto it, or along its x where the datum's z lies along z."""
    x = np.array([1.0, 0, 0]) if abs(z[2]) > 0.999 else np.array([0.0, 0, 1])
    x = x - (x @ z) * z
    return np.asarray(x / np.linalg.norm(x))
