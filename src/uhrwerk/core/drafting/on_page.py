"""A drawing that the document keeps, as the page shows it: the sheet, its sizes, and places that sizes can be taken from."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from uhrwerk.core.document import Document
from uhrwerk.core.document.drawing import Drawing, ViewName
from uhrwerk.core.drafting import svg
from uhrwerk.core.drafting.document_sheet import Issue, document_sheet, faces, measured_sizes, spots, stated_drawing
from uhrwerk.core.drafting.sheet import Dimension, Sheet, Sign
from uhrwerk.core.field import ValidationFailed
from uhrwerk.core.stages.evaluation import Evaluation


class SizeOfSheet(BaseModel):
    """A size, or a sign of a face's texture: `value` as a formula, as a setting of it has to state it; `place` among as many of its kind in its view."""

    key: str
    words: str
    view: str
    kind: str
    place: int
    among: int
    value: str
    hidden: bool
    among_own: Literal["", "own_sizes", "face_textures"]
    own_key: str


class UnclearSize(BaseModel):
    """A setting or a size of its own that fits no size of the sheet, or two; or a texture whose face the view does not show; `part`
    names which it is."""

    part: Literal["sizes", "own_sizes", "face_textures"]
    key: str
    words: str


class SpotOfSheet(BaseModel):
    """A datum at (x, y), mm on the sheet from its lower left corner; `known` along which directions it has one place."""

    view: str
    datum: str
    label: str
    x: float
    y: float
    known: Literal["both", "across", "upright"]


class FaceOfSheet(BaseModel):
    """A face that a view shows as an edge or a circle, which a sign can be of."""

    view: str
    datum: str
    label: str


class DrawingSheet(BaseModel):
    """`svg` is the sheet, `width` by `height` mm."""

    id: str
    stated: Drawing
    svg: str
    width: float
    height: float
    scale: float
    sizes: list[SizeOfSheet]
    unclear: list[UnclearSize]
    spots: list[SpotOfSheet]
    faces: list[FaceOfSheet]


class DrawingChoices(BaseModel):
    """What is drawn, and what can be, by id and name."""

    drawings: list[tuple[str, str]]
    parts: list[tuple[str, str]]
    groups: list[tuple[str, str]]


def drawing_choices(d: Document) -> DrawingChoices:
    return DrawingChoices(
        drawings=[(i, one.name) for i, one in d.drawings.items()],
        parts=[(i, p.name) for i, p in d.placed.items()],
        groups=[(i, g.name) for i, g in d.groups.items()],
    )


def sizes_before(e: Evaluation, stated: Drawing) -> dict[str, float]:
    """What the sizes of a drawing measured at another revision, mm, by their keys; none where it could not be drawn there."""
    try:
        return measured_sizes(document_sheet(e, stated))
    except ValidationFailed:
        return {}


def sheet_of(e: Evaluation, drawing: str, issue: Issue) -> Sheet:
    """ValidationFailed where there is no such drawing, or it cannot be drawn."""
    return document_sheet(e, stated_drawing(e, drawing), issue)


def drawing_sheet(e: Evaluation, drawing: str, issue: Issue) -> DrawingSheet:
    """ValidationFailed where there is no such drawing, or it cannot be drawn."""
    stated = stated_drawing(e, drawing)
    sheet = document_sheet(e, stated, issue)
    faces_by_view = faces(e, stated)
    return DrawingSheet(
        id=drawing,
        stated=stated,
        svg=svg.as_svg(sheet).decode(),
        width=sheet.size[0],
        height=sheet.size[1],
        scale=sheet.scale,
        sizes=[
            *(_size(d, d in sheet.hidden) for d in (*sheet.dimensions, *sheet.hidden) if d.id),
            *(_texture(stated, s, faces_by_view) for s in sheet.signs),
        ],
        unclear=[_unclear(stated, key) for key in sheet.unclear],
        spots=[
            SpotOfSheet(view=view, datum=s.datum, label=s.label, x=x + k * s.at[0], y=y + k * s.at[1], known=s.known)
            for view, own in spots(e, stated).items()
            for s in own
            for k, x, y in [sheet.views[view]]
        ],
        faces=[
            FaceOfSheet(view=view, datum=name, label=label)
            for view, own in faces_by_view.items()
            for name, label in own
        ],
    )


def _size(d: Dimension, hidden: bool) -> SizeOfSheet:
    assert d.id is not None
    return SizeOfSheet(
        key=d.id.key,
        words=f"{d.id.view}: {d.text}",
        view=d.id.view,
        kind=d.id.kind,
        place=d.id.place,
        among=d.id.among,
        value=f"{d.value:.9g} mm",
        hidden=hidden,
        among_own="own_sizes" if d.id.own else "",
        own_key=d.id.own,
    )


def _texture(stated: Drawing, sign: Sign, faces_by_view: dict[ViewName, list[tuple[str, str]]]) -> SizeOfSheet:
    key = sign.key.removeprefix("texture_")
    texture = stated.face_textures[key]
    label = dict(faces_by_view[texture.view]).get(texture.face, texture.face)
    return SizeOfSheet(
        key=sign.key,
        words=f"{sign.words}, {label}",
        view=texture.view,
        kind="texture",
        place=0,
        among=0,
        value="",
        hidden=False,
        among_own="face_textures",
        own_key=key,
    )


def _unclear(stated: Drawing, key: str) -> UnclearSize:
    if key in stated.sizes:
        size = stated.sizes[key]
        change = "hidden" if size.hidden else "moved or with a text"
        words = (
            f"{size.view}: {size.value} {size.kind}, {change}, is not there as it was: it is shown as drawn by itself"
        )
        return UnclearSize(part="sizes", key=key, words=words)
    if key.startswith("texture_"):
        key = key.removeprefix("texture_")
        texture = stated.face_textures[key]
        words = f"{texture.view}: Ra {texture.roughness} of {texture.face}: the view shows no edge or circle of it"
        return UnclearSize(part="face_textures", key=key, words=words)
    key = key.removeprefix("own_")
    own = stated.own_sizes[key]
    words = f"{own.view}: from {own.a} to {own.b}: one of them is gone or lies otherwise, so it is not drawn"
    return UnclearSize(part="own_sizes", key=key, words=words)
