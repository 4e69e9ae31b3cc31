"""A part as the rest sees it: how its solid is made, and the datums that it is joined by.

An element states its datums itself. What build steps make is known once it is built: those faces are asked of the kernel pool
of this process, which keeps every solid by the content of its recipe, so that the answer is the same whoever asks.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from itertools import count
from typing import Any, Literal

import numpy as np
from pydantic import ValidationError

from uhrwerk.core import elements
from uhrwerk.core.cache import Cache
from uhrwerk.core.document.document import Document, Part, refusal
from uhrwerk.core.elements.like import Like
from uhrwerk.core.field import Numbers, ValidationFailed, numbers, references
from uhrwerk.core.outlines import Unfit
from uhrwerk.core.solids import BuildFailed, Datum, KernelPool, Recipe, Solid, behind, key
from uhrwerk.core.solids.datum import BASES, axis_direction, face_axes, same_place
from uhrwerk.core.solids.edges import corners, straight_edges
from uhrwerk.core.solids.flat import inside
from uhrwerk.core.solids.solid import Body, Face
from uhrwerk.core.steps import STEPS, Under

_recipes: Cache[tuple[Recipe, str]] = Cache(600)
_faces: Cache[dict[str, Datum]] = Cache(300)
_pool: list[KernelPool] = []
_rough: ContextVar[float | None] = ContextVar("rough", default=None)


@contextmanager
def roughly(deviation: float) -> Iterator[None]:
    """Within this, faces are asked of solids with triangles as coarse as that, m: quicker to make, with the same faces."""
    token = _rough.set(deviation)
    try:
        yield
    finally:
        _rough.reset(token)


def use(pool: KernelPool) -> None:
    """From now on faces are asked of this pool."""
    _pool[:] = [pool]


def kernel_pool() -> KernelPool:
    if not _pool or _pool[0].closed:
        use(KernelPool())
    return _pool[0]


def whole(document: Document, part: str) -> Part:
    """A part with what it takes from the one that it is like: that one's element, its build steps before its own."""
    own = document.parts[part]
    if not isinstance(own.element, Like) or not own.element.part:
        return own
    first = whole(document, own.element.part)
    data = first.model_dump(mode="json")
    for change in own.element.changes.values():
        *steps, last = change.path.split(".")
        holder: Any = data
        for step in steps:
            holder = holder.get(step) if isinstance(holder, dict) else None
        if isinstance(holder, dict) and last in holder and change.path.partition(".")[0] in ("element", "steps"):
            holder[last] = change.formula
        else:
            raise ValidationFailed((f"parts.{part}.element.changes", f"{change.path!r} is no number of {first.name}"))
    taken = [i for i in own.steps if i in first.steps]
    if taken:
        raise ValidationFailed(
            (f"parts.{part}.steps.{taken[0]}", f"this id is that of a step of {first.name}: choose another")
        )
    try:
        return Part.model_validate({**data, "name": own.name, "material": own.material})
    except ValidationError as error:
        raise refusal(error, f"parts.{part}.") from error


def recipe(document: Document, part: str, image: bool = False, named: bool = False) -> tuple[Recipe, str]:
    """How a part's solid is made, and the key of that; `image` is the one behind its own yz plane. Its faces are named where
    it has build steps, or where that is asked for. ValidationFailed where what it is like cannot be had."""
    own, scope = document.parts[part], document.scope()
    like = isinstance(own.element, Like)
    first = whole(document, part)
    n, before = numbers(first.element, scope), numbers(first.steps, scope) if like else {}
    after = numbers(own.steps, scope)
    mirrored = _mirrored(document, part)
    named = named or bool(before) or bool(after) or elements.of(n).datums_from_faces or like
    others = {o: recipe(document, o, named=True) for o in _neighbours(first) | _neighbours(own) if o != part}
    key_ = f"{n!r} {before!r} {after!r} {mirrored} {image} {named} {[k for _, k in others.values()]}"
    return _recipes.get(key_, lambda: _recipe(n, before, mirrored, after, image, named, others))


def _mirrored(document: Document, part: str) -> bool:
    """Whether a part is the image of the one that it is like, all told."""
    element = document.parts[part].element
    if not isinstance(element, Like) or not element.part:
        return False
    return element.mirrored != _mirrored(document, element.part)


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


def datums(document: Document, part: str) -> dict[str, Datum]:
    """The places to join by: the element's own; every face that a build step made or left, by its name, with the ends of round
    ones, straight edges between flat ones and corners, and the middles of patterns of holes; the part's origin and base planes."""
    try:
        first = whole(document, part)
        n = numbers(first.element, document.scope())
        if elements.of(n).faults(n):
            return {}
        named = {} if _mirrored(document, part) else elements.of(n).datums(n)
        if (
            not document.parts[part].element.datums_from_faces
            and not elements.of(n).datums_from_faces
            and not first.steps
            and not document.parts[part].steps
        ):
            return {**named, **_own_frame(named)}
        recipe_, name = recipe(document, part)
        if (rough := _rough.get()) is not None:
            recipe_, name = recipe_ | {"deviation": rough}, f"{name}.{rough:g}"
    except ValidationFailed:
        return {}  # said where it is built for the checks
    try:
        of_faces = _faces.get(name, lambda: _of_solid(recipe_))
    except BuildFailed:
        return named  # said where it is built for the checks
    return {**named, **of_faces, **_patterns(document, part, of_faces), **_own_frame(named)}


def _of_solid(recipe: Recipe) -> dict[str, Datum]:
    """The datums of a part's named faces, ends of round ones, threads, straight edges and corners."""
    solid = kernel_pool().build(recipe)
    own = faces(solid)
    return {**own, **_threads(recipe), **_ends(own), **_edges(solid)}


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
    """The axis in the middle of each circle or grid of holes: `middle` of that step, on its plane."""
    out = {}
    for i, n in numbers({**whole(document, part).steps, **document.parts[part].steps}, document.scope()).items():
        if n.kind != "hole" or n.at.kind not in ("circle", "grid") or f"{i}.hole_1" not in of_faces:
            continue
        if n.plane in BASES:
            across, normal = (np.array(v, dtype=float) for v in BASES[n.plane])
            foot, up = np.zeros(3), np.cross(normal, across)
        elif n.plane in of_faces:
            normal = of_faces[n.plane].z
            (across, up), foot = face_axes(normal), (of_faces[n.plane].origin @ normal) * normal
        else:
            continue
        out[f"{i}.middle"] = Datum("axis", foot + n.at.x * across + n.at.y * up + n.offset * normal, normal, across)
    return out


def _threads(recipe: Recipe) -> dict[str, Datum]:
    """The axis of each thread: that of the round face which it takes."""
    out: dict[str, Datum] = {}
    for body in recipe["bodies"]:
        for k, step in enumerate(body["steps"]):
            if step["do"] == "thread":
                before = recipe | {"bodies": [body | {"steps": body["steps"][:k]}]}
                axis = faces(kernel_pool().build(before)).get(step["face"])
                out |= {} if axis is None else {f"{step['id']}.axis": axis}
    return out


def face_names(document: Document, part: str) -> list[str]:
    """The names of all faces of a part, build steps or none; empty where it cannot be made."""
    try:
        solid = kernel_pool().build(recipe(document, part, named=True)[0])
    except (BuildFailed, ValidationFailed):
        return []
    return sorted(f.name for body in solid.bodies.values() for f in body.faces if f.name)


def referenced_parts(document: Document) -> set[str]:
    """Parts that others take outlines or places from."""
    return {o for part in document.parts.values() for o in _neighbours(part)}


def faces(solid: Solid) -> dict[str, Datum]:
    """The datums of a solid's named faces: planes and the axes of cylinders."""
    datums = [(f.name, _datum(f)) for body in solid.bodies.values() for f in body.faces if f.name]
    return {name: datum for name, datum in datums if datum is not None}


def flat_faces(document: Document, part: str) -> list[tuple[Face, np.ndarray, Body]]:
    """The plane faces of a part as build steps name them, each with its triangles (m, 3, 3) and its body; none where it cannot be
    made."""
    try:
        solid = kernel_pool().build(recipe(document, part, named=True)[0])
    except (BuildFailed, ValidationFailed):
        return []
    return [
        (face, b.vertices[b.triangles[b.face_of == k]], b)
        for b in solid.bodies.values() for k, face in enumerate(b.faces) if face.kind == "plane" and face.name
    ]  # fmt: skip


def under(document: Document, part: str, datum: str) -> Under | None:
    """The face at a datum of a part, as build steps are told of it; None where there is none."""
    at = datums(document, part).get(datum)
    if at is None:
        return None
    try:
        solid = kernel_pool().build(recipe(document, part, named=True)[0])
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
        k = int(np.argmax(areas))
        area, place = float(areas[k]), corners[k].mean(axis=0) @ flat
    x, y = (float(v) for v in place)
    return Under(face.name, own.kind, x, y, area**0.5, face.radius, own.side == "bore", bool(whole), faces)


def _datum(face: Face) -> Datum | None:
    """A face as a datum, its origin where the face has its centre. An axis points along the part's z, or y, or x where it lies
    across those before."""
    z = face.direction
    if face.kind == "plane":
        return Datum("plane", face.centre, z, _across(z))
    if face.kind == "cylinder":
        z = axis_direction(z)
        side: Literal["pin", "bore"] = "pin" if face.outward else "bore"
        return Datum("axis", face.centre, z, _across(z), face.radius, side, face.length, -face.length / 2)
    return None


def _across(z: np.ndarray) -> np.ndarray:
    """x of a datum: along the part's z, moved squarely onto it, or along its x where the datum's z lies along z."""
    x = np.array([1.0, 0, 0]) if abs(z[2]) > 0.999 else np.array([0.0, 0, 1])
    x = x - (x @ z) * z
    return np.asarray(x / np.linalg.norm(x))
