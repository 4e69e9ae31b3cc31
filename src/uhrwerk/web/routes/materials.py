"""Materials: those that ship with Uhrwerk, and one's own for all mechanisms."""

from __future__ import annotations

from collections.abc import Mapping

from fastapi import APIRouter, Response
from pydantic import BaseModel

from uhrwerk.core.document import Document, ValidationFailed, new_id
from uhrwerk.core.document.material import Material, library
from uhrwerk.core.field import evaluated, formulas, solve_field
from uhrwerk.core.quantity import FormulaError
from uhrwerk.web.services import ServicesOfCall

router = APIRouter(prefix="/api/materials", tags=["materials"])


class ListedMaterial(BaseModel):
    """A material with its id, its numbers in words, and whether it is one's own."""

    id: str
    own: bool
    material: Material
    shown: dict[str, str]


def listed(materials: Mapping[str, Material], own: bool = False) -> list[ListedMaterial]:
    document, out = Document(name="materials"), []
    for i, m in materials.items():
        words = {
            path: document.display(*evaluated(text, mark, document.scope())) for path, text, mark in formulas(m) if text
        }
        out.append(ListedMaterial(id=i, own=own, material=m, shown=words))
    return out


@router.get("", summary="All materials, your own first")
def materials(services: ServicesOfCall) -> list[ListedMaterial]:
    return [*listed(services.store.materials(), own=True), *listed(library())]


@router.post("", status_code=201, summary="Adds a material of your own, for all mechanisms")
def add(services: ServicesOfCall, material: Material) -> ListedMaterial:
    _checked(material)
    key = new_id(material.name, {**services.store.materials(), **library()})
    services.store.keep_material(key, material)
    return listed({key: material}, own=True)[0]


@router.put("/{key}", summary="Changes a material of your own; mechanisms keep their copies")
def change(services: ServicesOfCall, key: str, material: Material) -> ListedMaterial:
    _checked(material)
    if key not in services.store.materials():
        raise ValidationFailed(("id", f"there is no material {key!r} of your own"))
    services.store.keep_material(key, material)
    return listed({key: material}, own=True)[0]


@router.delete("/{key}", status_code=204, summary="Deletes a material of your own")
def remove(services: ServicesOfCall, key: str) -> Response:
    services.store.drop_material(key)
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
