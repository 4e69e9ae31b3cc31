"""Parts from build steps alone: volume and centre of gravity against shapely and closed forms (tests/parts.py)."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tests.parts import PARTS
from uhrwerk.core.document.document import Document, Part
from uhrwerk.core.elements import Blank
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.part import part_datums


@pytest.mark.parametrize("name", PARTS)
def test_volume_and_centre_of_gravity(evaluator: Evaluator, name: str) -> None:
    known = PARTS[name]()
    part = Part(name=name, material="steel", element=Blank(), steps=dict(known.steps))
    solid = evaluator.kernel_pool.build(part_datums.recipe(Document(name="One", parts={"one": part}), "one")[0])
    assert solid.failed is None
    assert solid.volume * 1e9 == pytest.approx(known.volume, rel=3e-6)
    np.testing.assert_allclose(solid.centroid * 1e3, known.centre, atol=2e-4)
    (body,) = solid.bodies.values()
    mesh = trimesh.Trimesh(body.vertices * 1e3, body.triangles, process=False)
    assert mesh.is_watertight
    assert mesh.volume == pytest.approx(known.volume, rel=2e-3)
    names = [f.name for f in body.faces]
    assert all(names)
    assert len(set(names)) == len(names)
