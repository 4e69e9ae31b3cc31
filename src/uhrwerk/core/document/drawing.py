"""Drawings that a mechanism keeps: of what, in which projection, and what a designer changed of the sheet that is drawn by itself."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any, Literal

from pydantic import Field

from uhrwerk.core.field import Id, Length, Model, Name, PlacedId, Ref, SeveralLines
from uhrwerk.core.joints.at import DatumName

#: views that bear sizes: along z, along y, and along x
ViewName = Literal["front", "above", "beside"]
#: what a size says: a distance along the paper's width, or its height; of circles or arcs
SizeKind = Literal["across", "upright", "diameter", "radius"]
#: arithmetic mean deviation Ra, µm (the preferred values of ISO 1302, from memory)
Roughness = Literal["0.1", "0.2", "0.4", "0.8", "1.6", "3.2", "6.3", "12.5", "25"]
#: whether material is taken away to get the texture: any way of making it, by removal, or not by removal
Removal = Literal["any", "required", "prohibited"]
Ordinal = Annotated[int, Field(ge=1, le=1000)]


class SizeSetting(Model):
    """How a size stands that its view shows by itself. It is told by its place among those of its kind there, from the smallest on, and
    by what it measured then: where the two speak of different sizes, it is not applied, and the sheet says so."""

    view: ViewName
    kind: SizeKind
    place: Ordinal
    among: Ordinal
    value: Length
    hidden: bool = False
    right: Length = Field(default="0 mm", title="Moved to the right, on paper")
    up: Length = Field(default="0 mm", title="Moved up, on paper")
    after: Name | Literal[""] = Field(default="", title="Text after the value")


class OwnSize(Model):
    """A size between two datums of the part, along the width or the height of a view."""

    view: ViewName
    kind: Literal["across", "upright"]
    a: DatumName
    b: DatumName
    right: Length = Field(default="0 mm", title="Moved to the right, on paper")
    up: Length = Field(default="0 mm", title="Moved up, on paper")
    after: Name | Literal[""] = Field(default="", title="Text after the value")


class FaceTexture(Model):
    """The texture of a face, as a sign on a leader, in a view that shows the face as an edge or as a circle."""

    view: ViewName
    face: DatumName
    roughness: Roughness = Field(title="Ra at most, µm")
    removal: Removal = Field(default="any", title="Material removal")
    right: Length = Field(default="0 mm", title="Moved to the right, on paper")
    up: Length = Field(default="0 mm", title="Moved up, on paper")


class Drawing(Model):
    """Of a placed part, or of the parts of a group at the start of the cycle, which may be taken apart along their joints."""

    name: Name
    part: PlacedId | None = None
    group: Annotated[Id, Ref("groups", "group", ("whole",))] = "whole"
    exploded: bool = False
    projection: Literal["first", "third"] = "first"
    section: bool = Field(default=True, title="Section through the largest hole")
    hole_table: bool = Field(default=False, title="Holes of the front view in a table")
    note: Annotated[str, SeveralLines()] = ""
    texture: Roughness | Literal[""] = Field(default="", title="Ra at most of all other faces, µm")
    sizes: dict[Id, SizeSetting] = Field(default_factory=dict, max_length=200)
    own_sizes: dict[Id, OwnSize] = Field(default_factory=dict, max_length=100)
    face_textures: dict[Id, FaceTexture] = Field(default_factory=dict, max_length=100)

    def faults(self, document: Any) -> Iterable[tuple[str, str]]:
        """Fields that do not fit the document, and why."""
        if self.part is None and self.own_sizes:
            yield "own_sizes", "sizes between datums are those of a part: state it"
        if self.part is None and self.face_textures:
            yield "face_textures", "faces with a texture are those of a part: state it"
        for i, size in self.own_sizes.items():
            if size.a == size.b:
                yield f"own_sizes.{i}.b", "a size needs two different datums"
