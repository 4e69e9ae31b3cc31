"""Materials: those that ship with Uhrwerk, and one's own for all mechanisms."""

from __future__ import annotations

from collections.abc import Mapping

from fastapi import APIRouter, Response
from pydantic import BaseModel

from uhrwerk.core.document import Document, ValidationFailed, new_id
from uhrwerk.core.document.material import Material, library
from uhrwerk.core.field import formulas, meant, solve_field
from uhrwerk.core.quantity import FormulaError
from uhrwerk.web.services import TheDesk

router = APIRouter(prefix="/api/materials", tags=["materials"])


class ListedMaterial(BaseModel):
    """A material with its id, its numbers in words, and whether it is one's own."""

    id: str
    own: bool
    material: Material
    shown: dict[str, str]


def shown(materials: Mapping[str, Material], own: bool = False) -> list[ListedMaterial]:
    document, out = Document(name="materials"), []
    for i, m in materials.items():
        words = {path: document.shown(*meant(text, mark, document.scope())) for path, text, mark in formulas(m) if text}
        out.append(ListedMaterial(id=i, own=own, material=m, shown=words))
    return out


@router.get("", summary="Materials that may be taken: one's own first")
def materials(desk: TheDesk) -> list[ListedMaterial]:
    return [*shown(desk.store.materials(), own=True), *shown(library())]


@router.post("", status_code=201, summary="A new material of one's own, for all mechanisms")
def add(desk: TheDesk, material: Material) -> ListedMaterial:
    _checked(material)
    key = new_id(material.name, {**desk.store.materials(), **library()})
    desk.store.keep_material(key, material)
    return shown({key: material}, own=True)[0]


@router.put("/{key}", summary="Changes a material of one's own; mechanisms that took it keep what they took")
def change(desk: TheDesk, key: str, material: Material) -> ListedMaterial:
    _checked(material)
    if key not in desk.store.materials():
        raise ValidationFailed(("id", f"there is no material {key!r} of one's own"))
    desk.store.keep_material(key, material)
    return shown({key: material}, own=True)[0]


@router.delete("/{key}", status_code=204, summary="Forgets a material of one's own")
def remove(desk: TheDesk, key: str) -> Response:
    desk.store.drop_material(key)
    return Response(status_code=204)


def _checked(material: Material) -> None:
    """ValidationFailed, naming the field, where a number is none."""
    faults = []
    for path, text, mark in formulas(material):
        try:
            if text:
                solve_field(text, mark, Document(name="materials").scope())
        except FormulaError as error:
            faults.append((path, str(error)))
    if faults:
        raise ValidationFailed(*faults)
