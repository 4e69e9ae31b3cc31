"""The view: everything the workspace shows of one revision, but poses and meshes."""

from __future__ import annotations

from typing import Any

from uhrwerk.core.checks import Evaluation
from uhrwerk.core.document import Document
from uhrwerk.core.joints import ANGLES, JOINTS
from uhrwerk.core.picture.cards import cards
from uhrwerk.core.picture.lanes import lanes
from uhrwerk.core.picture.scene import scene
from uhrwerk.core.picture.scheme import scheme
from uhrwerk.core.quantity import display
from uhrwerk.core.values import ratio


def verdict(document: Document, v: Any) -> dict[str, Any]:
    """A verdict as its tile shows it."""
    data = v.data()
    dim = v.dimension or "number"
    unit = document.unit_of(dim)

    def text(si: float | None) -> str:
        if si is None:
            return ""
        return document.shown(si, dim)

    value = text(v.value)
    if (
        v.kind in ("clearance", "no_interference")
        and v.holds is False
        and (v.value is not None)
        and (v.value < 0 or v.kind == "no_interference")
    ):
        value = f"{text(abs(v.value))} deep"
    top = max(abs(v.value or 0.0), abs(v.limit or 0.0)) * 1.25 or 1.0
    if v.kind == "determinate" and v.value is not None:
        return data | {
            "valueText": "none" if v.value == 0 else f"{v.value:.0f} free", "limitText": "", "shownUnit": "", "mark": 0.0,
            "fill": float(v.value == 0), "errorText": "", "bodies": [],
        }  # fmt: skip
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
        {"id": i, "name": {"whole": "The whole", "moving": "What moves"}.get(i) or document.groups[i].name, "mass": document.shown(x.mass, "mass"),
         "centre": [display(float(c), "length", document.units.length) for c in x.centre]}
        for i, x in e.masses.items()
    ]  # fmt: skip
    return {
        "name": document.name, "note": document.note, "units": document.units.model_dump(), "frame": document.frame,
        "duration": duration, "reached": 1.0 if e.motion is None or not duration else duration / document.scope().value(document.cycle.duration, "time"), "frames": len(e.motion.times) - 1 if e.motion is not None else 0, "moving": bool(e.motion and e.motion.moving),
        "residual": e.motion.residual if e.motion else None, "seconds": e.seconds,
        "problems": [{"path": p.path, "words": p.words} for p in e.problems], "conflict": e.conflict,
        "mobility": None if mob is None else {
            "count": mob.count, "redundant": mob.redundant, "undriven": mob.undriven, "loose": mob.loose, "freedoms": [f.words for f in mob.freedoms],
        },
        "verdicts": verdicts, "placed": scene(e), "scheme": scheme(e), "lanes": lanes(e), "cards": cards(e), "masses": masses,
        "joints": [{"id": i, "name": j.name, "kind": j.kind, "a": j.a.placed, "b": j.b.placed} for i, j in document.joints.items()],
        "relations": [{"id": i, "name": j.name, "kind": j.kind, "a": j.a.placed, "b": j.b.placed} for i, j in document.relations.items()],
        "pairs": [{"id": i, "name": p.name, "kind": p.kind, "ratio": ratio(document, p)} for i, p in document.pairs.items()],
        "repeats": [{"id": i, "name": r.name, "kind": r.kind} for i, r in e.stated.repeats.items()],
        "driveable": [{"id": i, "name": h.name, "turning": any(c in ANGLES for c in h.coordinates), "sliding": any(c not in ANGLES for c in h.coordinates)}
                      for i, h in e.mechanism.held.items() if h.kind in JOINTS and JOINTS[h.kind].driveable()] if e.mechanism else [],
        "remarks": [{"path": p.path, "words": p.words} for p in e.mechanism.remarks] if e.mechanism else [],
        "drivers": [{"id": i, "name": d.name, "joint": d.joint, "kind": d.kind} for i, d in document.drivers.items()],
        "requirements": [{"id": i, "name": r.name} for i, r in document.requirements.items()],
        "parameters": [{"name": k, "formula": p.formula} for k, p in document.parameters.items()],
        "materials": [{"id": i, "name": m.name} for i, m in document.materials.items()],
        "groups": [{"id": i, "name": g.name, "placed": g.placed} for i, g in document.groups.items()],
    }  # fmt: skip
