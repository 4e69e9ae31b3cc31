"""What a page shows of an evaluated document, as plain data: scene, scheme, lanes, cards. No HTML.

Poses travel apart, as one block of float32: frames x placed parts x 7 (metres; quaternion w, x, y, z).
"""

from __future__ import annotations

import struct
from types import SimpleNamespace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from uhrwerk.core import elements
from uhrwerk.core.assembly import NotSolvable, compile, solve, teeth_of
from uhrwerk.core.assembly import pose as poses
from uhrwerk.core.assembly.assembly import start_pose
from uhrwerk.core.document import Document, Refused, Together, apply, dimension_of, formulas, numbers, parse, words
from uhrwerk.core.document.command import SetValue
from uhrwerk.core.document.element import KINDS
from uhrwerk.core.evaluate import Evaluation
from uhrwerk.core.quantity import DIMENSIONS, FormulaError, Scope, display, in_unit, names_in
from uhrwerk.core.quantity.units import dimension_of as kind_of
from uhrwerk.core.solids import Body, Datum, Solid, key, same_place, sharp_edges

Array = NDArray[np.float64]
#: points of a lane's curve at most
LANE_POINTS = 181


def shown_unit(document: Document, dimension: str) -> str:
    return {"length": document.units.length, "mass": document.units.mass}.get(dimension, DIMENSIONS[dimension][1])


def _shown(document: Document, si: float, dimension: str) -> str:
    return display(si, dimension, shown_unit(document, dimension))


# scene


def scene(e: Evaluation) -> list[dict[str, Any]]:
    """Placed parts with their bodies' keys and datums."""
    document, m = e.document, e.mechanism
    assert m is not None
    out = []
    for i, placed in document.placed.items():
        part = document.parts[placed.part]
        solid = e.solids.get(i)
        out.append({
            "id": i, "name": placed.name, "part": placed.part, "element": part.element.kind,
            "material": document.materials[part.material].name, "frame": m.link_of.get(i) == 0, "isFrame": i == document.frame,
            "link": m.link_of.get(i, 0), "solid": e.solid_keys.get(i), "bodies": list(solid.bodies) if solid else [],
            "mass": _shown(document, e.part_mass[i], "mass") if i in e.part_mass else "",
            "hint": _hint(document, i), "loose": i in m.loose,
            "datums": [_datum(document, name, d) for name, d in m.datums[i].items()],
        })  # fmt: skip
    return out


def _hint(document: Document, placed: str) -> str:
    element = document.parts[document.placed[placed].part].element
    if element.kind == "spur_gear":
        return f"{element.teeth} T"
    field = {"link_bar": "distance", "pin": "diameter", "frame_plate": "thickness"}[element.kind]
    try:
        si = document.scope().value(getattr(element, field), "length")
    except FormulaError:
        return ""
    return ("⌀ " if field == "diameter" else "") + _shown(document, si, "length")


def _datum(document: Document, name: str, d: Datum) -> dict[str, Any]:
    size = f" ⌀ {_shown(document, 2 * d.radius, 'length')}" if d.radius else ""
    what = {"bore": "bore", "pin": "pin", "": "axis"}[d.side] if d.kind == "axis" else "face"
    return {
        "id": name, "name": name.replace("_", " "), "kind": d.kind, "words": f"{what}{size}", "origin": d.origin.tolist(),
        "z": d.z.tolist(), "x": d.x.tolist(), "radius": d.radius, "side": d.side, "length": d.length,
    }  # fmt: skip


def pose_block(e: Evaluation) -> bytes:
    """Header (two uint32: frames, parts), then float32 poses; the last frame closes the cycle."""
    m = e.mechanism
    assert m is not None
    at = e.motion.pose if e.motion is not None else (e.pose if e.pose is not None else m.start)[None]
    block = (
        np.stack([m.part_pose(p, at) for p in e.document.placed], axis=1)
        if e.document.placed
        else np.zeros((len(at), 0, 7))
    )
    return struct.pack("<II", *block.shape[:2]) + block.astype("<f4").tobytes()


def mesh_block(body: Body, datums: dict[str, Datum]) -> bytes:
    """Header (four uint32: vertices, triangles, edges, faces); float32 vertices; uint32 triangles; float32 edge ends;
    uint16 face of each triangle (padded to 4 bytes); int16 datum of each face, or -1."""
    edges = sharp_edges(body)
    named = list(datums.values())
    of_face = []
    for f in body.faces:
        kind: Any = {"cylinder": "axis", "plane": "plane"}.get(f.kind, "")
        here = Datum(
            kind,
            f.origin,
            f.direction,
            f.direction,
            f.radius,
            ("pin" if f.outward else "bore") if kind == "axis" else "",
        )  # type: ignore[arg-type]
        of_face.append(next((i for i, d in enumerate(named) if kind and same_place(d, here)), -1))
    face_of = body.face_of.astype("<u2").tobytes()
    return (
        struct.pack("<IIII", len(body.vertices), len(body.triangles), len(edges), len(body.faces))
        + body.vertices.astype("<f4").tobytes()
        + body.triangles.astype("<u4").tobytes()
        + edges.astype("<f4").tobytes()
        + face_of + b"\0" * (-len(face_of) % 4)
        + np.array(of_face, dtype="<i2").tobytes()
    )  # fmt: skip


# scheme


def scheme(e: Evaluation) -> dict[str, Any]:
    """The mechanism as theory sees it: joints as nodes fixed to placed parts, links between them, gears, inputs.

    Everything is projected along the axis that most revolute joints share (symbols: ISO 3952-1).
    """
    document, m = e.document, e.mechanism
    assert m is not None
    at = e.pose if e.pose is not None else m.start
    axes = []
    nodes = []
    driven = {d.joint for d in document.drivers.values()}
    for i, joint in document.joints.items():
        datum = m.datums[joint.b.placed].get(joint.b.datum)
        if datum is None or i not in m.frames:
            continue
        if joint.kind == "revolute":
            axes.append(poses.rotate(m.part_pose(joint.b.placed, at)[3:], datum.z))
        a, _, b, _ = m.frames[i]
        nodes.append({
            "id": i, "name": joint.name, "kind": joint.kind, "placed": joint.b.placed, "local": datum.origin.tolist(),
            "z": datum.z.tolist(), "links": [a, b], "ground": 0 in (a, b), "driven": i in driven,
        })  # fmt: skip
    normal = np.array([0.0, 0, 1])
    if axes:
        same = [sum(abs(float(u @ v)) > 0.999 for v in axes) for u in axes]
        normal = axes[int(np.argmax(same))]
    u = np.cross([0.0, 1, 0], normal)
    u = u / np.linalg.norm(u) if np.linalg.norm(u) > 0.1 else np.array([1.0, 0, 0])
    gears = []
    for i, pair in document.pairs.items():
        for placed in (pair.a, pair.b):
            if "axis" in m.datums[placed] and document.parts[document.placed[placed].part].element.kind == "spur_gear":
                gears.append({"placed": placed, "pair": i, "radius": teeth_of(document, placed).pitch_radius})
    links = [
        {
            "index": k,
            "name": document.placed[link.parts[0]].name,
            "parts": list(link.parts),
            "nodes": [n["id"] for n in nodes if k in n["links"]],
        }
        for k, link in enumerate(m.links)
    ]
    loops = max(
        0,
        len(m.frames)
        + len([r for r in m.rows if r.kind == "mesh"])
        - (len(m.links) - 1 - len({m.link_of[p] for p in m.loose})),
    )
    return {
        "nodes": nodes,
        "links": links,
        "gears": gears,
        "u": u.tolist(),
        "v": np.cross(normal, u).tolist(),
        "loops": loops,
    }


# lanes


def lanes(e: Evaluation) -> list[dict[str, Any]]:
    """Lanes of the timing chart: inputs, outputs that swing, and requirements that depend on the moment."""
    document = e.document
    if e.motion is None or not e.motion.moving:
        return []
    out: list[dict[str, Any]] = []
    pick = np.unique(np.linspace(0, len(e.motion.times) - 1, LANE_POINTS).astype(int))
    times = e.motion.times[pick]
    drivers = {d.joint: i for i, d in document.drivers.items()}
    for j, c in sorted(e.coordinates.items(), key=lambda k: k[0] not in drivers):
        span = float(np.ptp(c.value))
        swings = span < 2 * np.pi * 0.999 if c.turning else True
        if j not in drivers and (not swings or span < 1e-9 or sum(lane["kind"] == "output" for lane in out) >= 2):
            continue
        dimension = "angle" if c.turning else "length"
        speed = "turning speed" if c.turning else "sliding speed"
        unit = shown_unit(document, dimension)
        out.append({
            "kind": "input" if j in drivers else "output", "id": drivers.get(j, j), "joint": j,
            "name": document.drivers[drivers[j]].name if j in drivers else document.joints[j].name,
            "points": [[float(t), in_unit(float(v), dimension, unit)] for t, v in zip(times, c.value[pick], strict=True)],
            "rates": [in_unit(float(v), speed, shown_unit(document, speed)) for v in c.rate[pick]],
            "unit": unit, "rateUnit": shown_unit(document, speed),
        })  # fmt: skip
    inputs = sum(lane["kind"] == "input" for lane in out)
    for i, v in sorted(e.verdicts.items(), key=lambda k: k[1].holds is False):
        if len(v.curve):
            unit = document.units.length
            out.insert(inputs, {
                "kind": "requirement", "id": i, "name": v.name, "holds": v.holds, "time": v.time, "unit": unit,
                "points": [[float(t), in_unit(float(d), "length", unit)] for t, d in v.curve],
                "limit": in_unit(v.limit or 0.0, "length", unit) if v.kind == "clearance" else 0.0,
            })  # fmt: skip
    return out


# cards


def _fields(document: Document, model: BaseModel, path: str, scope: Scope) -> list[dict[str, Any]]:
    """The formula fields, numbers and choices of one item, each with its path, text and value."""
    out: list[dict[str, Any]] = []
    for name, field in type(model).model_fields.items():
        item, at = getattr(model, name), f"{path}.{name}"
        label = name.replace("_", " ").capitalize()
        mark = dimension_of(field)
        if mark is not None:
            try:
                value = _shown(document, scope.value(item, mark.name), mark.name)
            except FormulaError as error:
                value = str(error)
            out.append({"path": at, "label": label, "text": item, "value": value, "kind": "formula"})
        elif isinstance(item, bool):
            out.append({"path": at, "label": label, "text": item, "value": "", "kind": "switch"})
        elif isinstance(item, int):
            out.append({"path": at, "label": label, "text": str(item), "value": "", "kind": "integer"})
        elif isinstance(item, dict) and item and isinstance(next(iter(item.values())), BaseModel):
            for k, inner in item.items():
                out.append(
                    {"path": f"{at}.{k}", "label": k.replace("_", " "), "text": "", "value": "", "kind": "heading"}
                )
                out += _fields(document, inner, f"{at}.{k}", scope)
    return out


def cards(e: Evaluation) -> dict[str, dict[str, Any]]:
    """A card for every item that can be selected, by its path."""
    document = e.document
    scope = document.scope()
    out: dict[str, dict[str, Any]] = {}
    for i, placed in document.placed.items():
        part = document.parts[placed.part]
        n = _sizes(part.element, scope)
        fields = _fields(document, part.element, f"parts.{placed.part}.element", scope)
        about = elements.ELEMENTS[part.element.kind]
        mass = f" · {_shown(document, e.part_mass[i], 'mass')}" if i in e.part_mass else ""
        out[f"placed.{i}"] = {
            "title": placed.name, "name": f"placed.{i}.name",
            "about": f"{about.TITLE.lower()} · {document.materials[part.material].name.lower()}{mass}",
            "fields": fields, "start": _fields(document, placed.start, f"placed.{i}.start", scope),
            "maps": [f"parts.{placed.part}.element.{k}" for k in ("bores", "posts", "pins") if hasattr(part.element, k)],
            "results": _derived(document, about, n),
        }  # fmt: skip
    for i, joint in document.joints.items():
        ends = [f"{document.placed[at.placed].name}, {at.datum.replace('_', ' ')}" for at in (joint.a, joint.b)]
        out[f"joints.{i}"] = {
            "title": joint.name, "name": f"joints.{i}.name", "about": f"{joint.kind} joint", "fields": _fields(document, joint, f"joints.{i}", scope),
            "results": [["From", ends[0]], ["To", ends[1]], *_coordinate_results(e, i)],
        }  # fmt: skip
    for i, pair in document.pairs.items():
        out[f"pairs.{i}"] = {
            "title": pair.name,
            "name": f"pairs.{i}.name",
            "about": "gear pair",
            "fields": [],
            "results": _mesh_results(e, pair),
        }
    for i, driver in document.drivers.items():
        out[f"drivers.{i}"] = {
            "title": driver.name, "name": f"drivers.{i}.name", "about": f"drives {document.joints[driver.joint].name}",
            "fields": _fields(document, driver, f"drivers.{i}", scope), "results": [], "reverse": f"drivers.{i}.speed",
        }  # fmt: skip
    out["cycle"] = {
        "title": "Cycle",
        "about": "one master cycle",
        "fields": _fields(document, document.cycle, "cycle", scope),
        "results": [],
    }
    for i, asked in document.requirements.items():
        v = e.verdicts[i]
        out[f"requirements.{i}"] = {
            "title": asked.name, "name": f"requirements.{i}.name", "about": "requirement", "fields": _fields(document, asked, f"requirements.{i}", scope),
            "results": [["Known by", v.basis]] if v.basis else [],
        }  # fmt: skip
    for name, parameter in document.parameters.items():
        users = [p for p, text, _ in formulas(document) if name in names_in(text)]
        value = _parameter_value(document, scope, name)
        out[f"parameters.{name}"] = {
            "title": name, "about": parameter.note or "parameter", "results": [["Used by", f"{len(users)} fields"]],
            "fields": [{"path": f"parameters.{name}.formula", "label": "Formula", "text": parameter.formula, "value": value, "kind": "formula"}],
        }  # fmt: skip
    return out


def _parameter_value(document: Document, scope: Scope, name: str) -> str:
    q = scope.known[name]
    kind = kind_of(q)
    return _shown(document, float(q.to_base_units().magnitude), kind) if kind in DIMENSIONS else str(q)


def _sizes(element: BaseModel, scope: Scope) -> SimpleNamespace:
    return numbers(element, scope)


def _derived(document: Document, about: Any, n: SimpleNamespace) -> list[list[str]]:
    if about.faults(n):
        return []
    return [
        [label.replace("_", " "), v if dim == "text" else _shown(document, v, dim)]
        for label, v, dim in about.derived(n)
    ]


def _coordinate_results(e: Evaluation, joint: str) -> list[list[str]]:
    c = e.coordinates.get(joint)
    if c is None or np.ptp(c.value) < 1e-12:
        return []
    dimension = "angle" if c.turning else "length"
    low, high = (_shown(e.document, float(v), dimension) for v in (c.value.min(), c.value.max()))
    speed = "turning speed" if c.turning else "sliding speed"
    return [["Moves", f"{low} … {high}"], ["Fastest", _shown(e.document, float(np.abs(c.rate).max()), speed)]]


def _mesh_results(e: Evaluation, pair: Any) -> list[list[str]]:
    document, m = e.document, e.mechanism
    assert m is not None
    if any(document.parts[document.placed[p].part].element.kind != "spur_gear" for p in (pair.a, pair.b)):
        return []
    a, b = (teeth_of(document, p) for p in (pair.a, pair.b))
    if a.faults or b.faults:
        return []
    nominal = elements.centre_distance(a, b)
    rows = [["Ratio", f"−{a.teeth} : {b.teeth}"], ["Centre distance for mesh", _shown(document, nominal, "length")]]
    if e.pose is not None and pair.a in m.link_of and pair.b in m.link_of:
        pa, pb = (m.part_pose(p, e.pose) for p in (pair.a, pair.b))
        z = poses.rotate(pa[3:], np.array([0.0, 0, 1]))
        gap = pb[:3] - pa[:3]
        real = float(np.linalg.norm(gap - (gap @ z) * z))
        rows.append(["Centre distance now", _shown(document, real, "length")])
        rows.append(
            ["Backlash, normal", display(elements.normal_backlash(a, b, real), "length", document.units.length, 4)]
        )
        rows.append(["Contact ratio", f"{elements.contact_ratio(a, b, real):.3f}"])
    return rows


def verdict(document: Document, v: Any) -> dict[str, Any]:
    """A verdict as its tile shows it."""
    data = v.data()
    dim = v.dimension or "number"
    unit = shown_unit(document, dim)

    def text(si: float | None) -> str:
        if si is None:
            return ""
        return f"{si:.0f} loose" if dim == "number" else _shown(document, si, dim)

    value = text(v.value)
    if (
        v.kind in ("clearance", "no_interference")
        and v.holds is False
        and (v.value is not None)
        and (v.value < 0 or v.kind == "no_interference")
    ):
        value = f"{text(abs(v.value))} deep"
    top = max(abs(v.value or 0.0), abs(v.limit or 0.0)) * 1.25 or 1.0
    return data | {
        "valueText": value, "limitText": f"{'≥' if v.sense == '>=' else '≤'} {text(v.limit)}" if v.sense else "", "shownUnit": unit,
        "fill": 0.0 if v.value is None else max(0.0, min(1.0, abs(v.value) / top)), "mark": 0.0 if v.limit is None else min(1.0, abs(v.limit) / top),
        "errorText": display(v.error, "length", document.units.length, 4) if v.dimension == "length" else "",
        "bodies": list(v.parts), "parts": [p.split("/")[0] for p in v.parts],
    }  # fmt: skip


def view(e: Evaluation) -> dict[str, Any]:
    """Everything the workspace needs of one revision, but poses and meshes."""
    document = e.document
    duration = e.motion.duration if e.motion is not None else 0.0
    verdicts = sorted(
        (verdict(document, v) for v in e.verdicts.values()), key=lambda v: {False: 0, None: 1, True: 2}[v["holds"]]
    )
    mob = e.mobility
    masses = [
        {"id": i, "name": {"whole": "The whole", "moving": "What moves"}.get(i) or document.groups[i].name, "mass": _shown(document, x.mass, "mass"),
         "centre": [display(float(c), "length", document.units.length) for c in x.centre]}
        for i, x in e.masses.items()
    ]  # fmt: skip
    return {
        "name": document.name, "note": document.note, "units": document.units.model_dump(), "frame": document.frame,
        "duration": duration, "frames": len(e.motion.times) - 1 if e.motion is not None else 0, "moving": bool(e.motion and e.motion.moving),
        "residual": e.motion.residual if e.motion else None, "seconds": e.seconds,
        "problems": [{"path": p.path, "words": p.words} for p in e.problems], "conflict": e.conflict,
        "mobility": None if mob is None else {
            "count": mob.count, "redundant": mob.redundant, "undriven": mob.undriven, "loose": mob.loose, "freedoms": [f.words for f in mob.freedoms],
        },
        "verdicts": verdicts, "placed": scene(e), "scheme": scheme(e), "lanes": lanes(e), "cards": cards(e), "masses": masses,
        "joints": [{"id": i, "name": j.name, "kind": j.kind, "a": j.a.placed, "b": j.b.placed} for i, j in document.joints.items()],
        "pairs": [{"id": i, "name": p.name, "a": p.a, "b": p.b, "ratio": _ratio(document, p)} for i, p in document.pairs.items()],
        "drivers": [{"id": i, "name": d.name, "joint": d.joint, "speed": d.speed} for i, d in document.drivers.items()],
        "requirements": [{"id": i, "name": r.name} for i, r in document.requirements.items()],
        "parameters": [{"name": k, "formula": p.formula} for k, p in document.parameters.items()],
        "materials": [{"id": i, "name": m.name} for i, m in document.materials.items()],
        "groups": [{"id": i, "name": g.name} for i, g in document.groups.items()],
    }  # fmt: skip


def _ratio(document: Document, pair: Any) -> str:
    teeth = [getattr(document.parts[document.placed[p].part].element, "teeth", 0) for p in (pair.a, pair.b)]
    return f"−{teeth[0]} : {teeth[1]}"


# joining


def candidates(document: Document, a: dict[str, str], b: dict[str, str]) -> list[dict[str, Any]]:
    """What may join two datums, in plain words with the freedom that remains; each with the command that makes it."""
    if a["placed"] == b["placed"]:
        raise Refused(("b.placed", "both datums are on one part: choose a datum of another part"))
    m = compile(document)
    found = []
    for side, at in (("a", a), ("b", b)):
        if at["placed"] not in document.placed:
            raise Refused((f"{side}.placed", f"there is no placed part {at['placed']!r}"))
        if at["datum"] not in m.datums[at["placed"]]:
            raise Refused((f"{side}.datum", f"there is no datum {at['datum']!r}"))
        found.append(m.datums[at["placed"]][at["datum"]])
    name_a, name_b = (document.placed[x["placed"]].name for x in (a, b))
    da, db = found
    out = []

    def joint(kind: str, name: str, told: str, free: str, **more: Any) -> None:
        out.append({
            "kind": kind, "words": told, "free": free,
            "command": {"kind": "add_joint", "joint": {"kind": kind, "name": name, "a": a, "b": b, **more}},
        })  # fmt: skip

    if da.kind == "axis" and db.kind == "axis":
        joint("revolute", f"{name_b} turns in {name_a}", "Turns about the axis", "1 freedom: turning")
        joint("rigid", f"{name_b} held fast in {name_a}", "Held fast on the axis", "no freedom")
        joint("prismatic", f"{name_b} slides on {name_a}", "Slides along the axis", "1 freedom: sliding")
    elif da.kind == "plane" and db.kind == "plane":
        joint("rigid", f"{name_b} fixed on {name_a}", "Faces flush, held fast", "no freedom", flip=True)
        joint(
            "prismatic", f"{name_b} slides off {name_a}", "Slides square to the faces", "1 freedom: sliding", flip=True
        )
    else:
        joint("rigid", f"{name_b} fixed on {name_a}", "Axis square to the face, held fast", "no freedom")
    kinds = [document.parts[document.placed[x["placed"]].part].element.kind for x in (a, b)]
    if kinds == ["spur_gear", "spur_gear"]:
        pair = {"kind": "gear", "name": f"{name_a} drives {name_b}", "a": a["placed"], "b": b["placed"]}
        out.insert(
            0,
            {
                "kind": "gear",
                "words": "Teeth in mesh",
                "free": "ratio from the teeth",
                "command": {"kind": "add_pair", "pair": pair},
            },
        )
    return out


def joined(document: Document, command: Any) -> Any:
    """The command of a joint or pair together with where its parts then are, so that nothing jumps later.

    Refused, naming the joints, where they cannot hold together.
    """
    after = apply(document, command)
    m = compile(after)
    try:
        pose = solve(m, drives=False)
    except NotSolvable as error:
        raise Refused(("command", str(error))) from error
    sets: list[Any] = []
    for i in after.placed:
        at = m.part_pose(i, pose)
        if np.abs(poses.between(_start(after, i), at)).max() > 1e-7:
            turn = _turns(at[3:])
            values = [f"{in_unit(float(v), 'length', after.units.length):.6f} {after.units.length}" for v in at[:3]]
            angles = [f"{np.degrees(v):.6f} deg" for v in turn]
            start: Any = dict(zip(("x", "y", "z", "turn_x", "turn_y", "turn_z"), values + angles, strict=True))
            sets.append(SetValue(path=f"placed.{i}.start", value=start))
    return Together(commands=[command, *sets], words=words(command, document))


def _start(document: Document, placed: str) -> Array:
    return start_pose(numbers(document.placed[placed].start, document.scope()))


def _turns(q: Array) -> Array:
    """Turns about x, then y, then z (fixed axes) of a unit quaternion, rad."""
    m = poses.matrix(q)
    if abs(m[2, 0]) > 1 - 1e-12:
        return np.array([0.0, -np.arcsin(np.clip(m[2, 0], -1, 1)), np.arctan2(-m[0, 1], m[1, 1])])
    return np.array([np.arctan2(m[2, 1], m[2, 2]), -np.arcsin(m[2, 0]), np.arctan2(m[1, 0], m[0, 0])])


# catalogue


def catalogue() -> list[dict[str, Any]]:
    """Elements with their fields and default values."""
    out = []
    for kind, model in KINDS.items():
        module = elements.ELEMENTS[kind]
        fresh = model()
        document = Document(name="catalogue")
        maps = {name: blank for name, blank in _BLANKS.items() if name in model.model_fields}
        out.append({
            "kind": kind, "title": module.TITLE, "about": module.ABOUT,
            "fields": [f | {"path": f["path"].removeprefix("element.")} for f in _fields(document, fresh, "element", document.scope())], "maps": maps,
        })  # fmt: skip
    return out


#: a new bore, post or pin of an element, to be edited
_BLANKS = {
    "bores": {"x": "20 mm", "y": "20 mm", "diameter": "6 mm"},
    "posts": {"x": "20 mm", "y": "20 mm", "diameter": "6 mm", "height": "12 mm"},
    "pins": {"x": "6 mm", "y": "0 mm", "diameter": "3 mm", "height": "8 mm"},
}


def preview(document: Document, data: Any, build: Any) -> tuple[Solid, dict[str, Any]]:
    """An element that is not yet in the document: its solid, derived values and datums. Refused with the field's path."""
    command = parse(
        {"kind": "add_part", "part": {"name": "preview", "material": next(iter(document.materials)), "element": data}}
    )
    after = apply(
        Document(name="preview", parameters=document.parameters, materials=document.materials, units=document.units),
        command,
    )
    scope = after.scope()
    n = numbers(command.part.element, scope)
    module = elements.of(n)
    wrong = module.faults(n)
    if wrong:
        raise Refused(*((f"element.{where}", f"{where.replace('_', ' ')} {why}") for where, why in wrong))
    recipe = module.solid(n)
    solid = build(recipe)
    datums = module.datums(n)
    values = [
        f | {"path": f["path"].removeprefix("element.")} for f in _fields(after, command.part.element, "element", scope)
    ]
    return solid, {
        "solid": key(recipe), "bodies": list(solid.bodies), "derived": _derived(after, module, n), "fields": values,
        "datums": [_datum(after, name, d) for name, d in datums.items()], "volume": f"{solid.volume * 1e9:.1f} mm³",
    }  # fmt: skip


def datums_of(document: Document, part: str) -> dict[str, Datum]:
    n = numbers(document.parts[part].element, document.scope())
    module = elements.of(n)
    return {} if module.faults(n) else module.datums(n)


__all__ = [
    "candidates", "catalogue", "datums_of", "joined", "mesh_block", "pose_block", "preview", "scene", "scheme", "view",
]  # fmt: skip
