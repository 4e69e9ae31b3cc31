"""A drawing that the document keeps, as a sheet: its own settings applied, its own sizes measured, what changed marked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal, cast, get_args

import numpy as np

from uhrwerk.core.document.drawing import Drawing, FaceTexture, OwnSize, ViewName
from uhrwerk.core.drafting.export import assembly_drawing, drawing_of
from uhrwerk.core.drafting.part_sheet import directions_of
from uhrwerk.core.drafting.settings import OwnDistance, Setting, SheetSettings
from uhrwerk.core.drafting.sheet import Sheet, SizeId
from uhrwerk.core.drafting.surface_texture import TextureAt
from uhrwerk.core.equations.pose import Array
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.part import datum_labels
from uhrwerk.core.solids import Datum
from uhrwerk.core.stages.evaluation import Evaluation

MM = 1e3
#: that bear sizes
VIEWS: tuple[ViewName, ...] = get_args(ViewName)
#: how far a direction may be off an axis of a view
SQUARE = 1e-9


@dataclass(frozen=True)
class Issue:
    """What a title block says of a revision; `before`: the sizes of an earlier one, mm, by their keys, and its name."""

    revision: str = ""
    date: str = ""
    before: Mapping[str, float] | None = None
    since: str = ""


@dataclass(frozen=True)
class Spot:
    """A datum in a view: (2,) m there, and along which axes of the view its place is known."""

    datum: str
    label: str
    at: tuple[float, float]
    known: Literal["both", "across", "upright"]


def document_sheet(e: Evaluation, stated: Drawing, issue: Issue | None = None) -> Sheet:
    """The sheet of a drawing. ValidationFailed where it cannot be drawn; a size of its own whose datum is gone is left out and stands
    among the sheet's `unclear` keys."""
    issue = issue or Issue()
    first = stated.projection == "first"
    if stated.part is None:
        about = (e, stated.group, first, issue.revision, issue.date)
        return assembly_drawing(*about, exploded=stated.exploded, note=stated.note)
    own, lost = list[OwnDistance](), list[str]()
    for key, size in stated.own_sizes.items():
        distance = _distance(e, stated, key, size)
        own += [distance] if distance else []
        lost += [] if distance else [f"own_{key}"]
    textures = list[TextureAt]()
    for key, texture in stated.face_textures.items():
        at = _texture(e, stated, key, texture)
        textures += [at] if at else []
        lost += [] if at else [f"texture_{key}"]
    settings = SheetSettings(
        section=stated.section,
        holes=stated.hole_table,
        note=stated.note,
        sizes={key: _setting(e, key, stated) for key in stated.sizes},
        own=tuple(own),
        texture=stated.texture,
        textures=tuple(textures),
        before=issue.before,
        since=issue.since,
    )
    sheet = drawing_of(e, stated.part, first, issue.revision, issue.date, settings)
    return replace(sheet, unclear=[*sheet.unclear, *lost])


def stated_drawing(e: Evaluation, drawing: str) -> Drawing:
    if drawing not in e.document.drawings:
        known = ", ".join(list(e.document.drawings)[:20]) or "none yet"
        raise ValidationFailed(("drawing", f"there is no drawing {drawing!r}; known are {known}"))
    return e.document.drawings[drawing]


def measured_sizes(sheet: Sheet) -> dict[str, float]:
    """What each size of a sheet measures, mm, by its key; those that are hidden too."""
    return {d.id.key: d.value for d in (*sheet.dimensions, *sheet.hidden) if d.id}


def spots(e: Evaluation, stated: Drawing) -> dict[str, list[Spot]]:
    """Datums of a drawing's part that a size can be taken from, by view, each place once."""
    if stated.part is None:
        return {}
    datums = e.mechanism.datums.get(stated.part, {})
    labels = datum_labels.labels(e.document, e.document.placed[stated.part].part, datums)
    out: dict[str, list[Spot]] = {}
    for view, axes in _axes(stated).items():
        taken: dict[tuple[str, float, float], Spot] = {}
        for name, label in labels.items():
            known = _known(datums[name], axes)
            if known is not None:
                x, y = (float(v) for v in axes @ datums[name].origin)
                place = known, round(x, 8) if known != "upright" else 0.0, round(y, 8) if known != "across" else 0.0
                taken.setdefault(place, Spot(name, label, (x, y), known))
        out[view] = list(taken.values())
    return out


def faces(e: Evaluation, stated: Drawing) -> dict[ViewName, list[tuple[str, str]]]:
    """Faces of a drawing's part that a view shows as an edge or a circle, with their labels, by view."""
    if stated.part is None:
        return {}
    datums = e.mechanism.datums.get(stated.part, {})
    labels = datum_labels.labels(e.document, e.document.placed[stated.part].part, datums)
    return {
        view: [
            (name, label) for name, label in labels.items() if not name.endswith("_plane") and _edge(datums[name], axes)
        ]
        for view, axes in _axes(stated).items()
    }


def _edge(datum: Datum, axes: Array) -> Literal["line across", "line upright", "circle"] | None:
    """As what a view shows a face: a straight edge that has one place across or upright, or a circle."""
    known = _known(datum, axes)
    if datum.kind == "plane" and known in ("across", "upright"):
        return "line across" if known == "across" else "line upright"
    return "circle" if datum.kind == "axis" and datum.radius > 0 and known == "both" else None


def _texture(e: Evaluation, stated: Drawing, key: str, texture: FaceTexture) -> TextureAt | None:
    """None where the face is gone, or the view shows it neither as an edge nor as a circle."""
    assert stated.part is not None
    datum, axes = e.mechanism.datums.get(stated.part, {}).get(texture.face), _axes(stated)[texture.view]
    edge = _edge(datum, axes) if datum else None
    if datum is None or edge is None:
        return None
    near, outward = (cast(tuple[float, float], tuple((axes @ v).tolist())) for v in (datum.origin, datum.z))
    if edge == "circle":
        outward = (0.0, 0.0)
    scope = e.document.scope()
    right, up = (scope.value(t, "length") * MM for t in (texture.right, texture.up))
    axis: Literal[0, 1] | None = {"line across": 0, "line upright": 1}.get(edge)  # type: ignore[assignment]
    which = f"texture_{key}"
    return TextureAt(
        which, texture.view, near, outward, axis, datum.radius, texture.roughness, texture.removal, right, up
    )


def _axes(stated: Drawing) -> dict[ViewName, Array]:
    """The right and the upward direction (2, 3) of each view that bears sizes."""
    directions = directions_of(stated.projection == "first")
    return {v: np.array([right, np.cross(toward, right)]) for v in VIEWS for right, toward in [directions[v]]}


def _known(datum: Datum, axes: Array) -> Literal["both", "across", "upright"] | None:
    """Along which axes of a view a datum has one place: an axis across them, a face that is seen on its edge, a point."""
    along = np.abs(axes @ datum.z)
    if datum.kind in ("point", "frame"):
        return "both"
    right, up = (along > 1 - SQUARE if datum.kind == "plane" else along < SQUARE).tolist()
    if right and up:
        return "both"
    return "across" if right else "upright" if up else None


def _distance(e: Evaluation, stated: Drawing, key: str, size: OwnSize) -> OwnDistance | None:
    """None where one of its datums is gone, or has no one place along the size."""
    assert stated.part is not None
    datums, axes = e.mechanism.datums.get(stated.part, {}), _axes(stated)[size.view]
    if any(n not in datums or _known(datums[n], axes) not in ("both", size.kind) for n in (size.a, size.b)):
        return None
    a, b = (cast(tuple[float, float], tuple((axes @ datums[n].origin).tolist())) for n in (size.a, size.b))
    scope = e.document.scope()
    right, up = (scope.value(t, "length") * MM for t in (size.right, size.up))
    which = SizeId(size.view, size.kind, own=key)
    return OwnDistance(which, a, b, right, up, size.after)


def _setting(e: Evaluation, key: str, stated: Drawing) -> Setting:
    size, scope = stated.sizes[key], e.document.scope()
    value, right, up = (scope.value(t, "length") * MM for t in (size.value, size.right, size.up))
    which = SizeId(size.view, size.kind, size.place, size.among)
    return Setting(which, value, size.hidden, right, up, size.after)
