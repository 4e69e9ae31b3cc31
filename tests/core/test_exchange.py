"""Files of solids and motion, read by others: STEP by the kernel's own reader, STL, 3MF and glTF by trimesh, lib3mf and pygltflib."""

from __future__ import annotations

import ctypes
import io
import json
import struct
from pathlib import Path

import lib3mf
import numpy as np
import pytest
import trimesh
from lxml import etree

from tests.core.test_build_steps import drafted
from tests.parts import bracket
from uhrwerk import Carrier, Document, Draft, Evaluation, Evaluator, Pin, ValidationFailed
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.exchange import written
from uhrwerk.core.exchange.placing import standing
from uhrwerk.demo.foil_tucker import foil_tucker


@pytest.fixture(scope="module")
def evaluated(evaluator: Evaluator) -> Evaluation:
    draft, _, _ = drafted()
    draft.own_part("Bracket <&>", "aluminium", bracket().steps, x="-60 mm", y="30 mm", turn_z="30 deg")
    return evaluator.evaluate(draft.document)


def test_step_out_and_in_again(evaluated: Evaluation, tmp_path: Path) -> None:
    """Same volumes, areas, faces, names, places and colours, by the kernel's reader in a process of its own."""
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps
    from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
    from OCP.STEPCAFControl import STEPCAFControl_Reader
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDataStd import TDataStd_Name
    from OCP.TDF import TDF_Label
    from OCP.TDocStd import TDocStd_Document
    from OCP.TopAbs import TopAbs_FACE
    from OCP.TopoDS import TopoDS
    from OCP.XCAFApp import XCAFApp_Application
    from OCP.XCAFDoc import (
        XCAFDoc_Area,
        XCAFDoc_Centroid,
        XCAFDoc_ColorGen,
        XCAFDoc_ColorSurf,
        XCAFDoc_DocumentTool,
        XCAFDoc_ShapeTool,
        XCAFDoc_Volume,
    )

    from uhrwerk.core.solids.partial_solid import each

    (tmp_path / "a.step").write_bytes(written("a.step", evaluated)[0])
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    reader.SetPropsMode(True)
    assert reader.ReadFile(str(tmp_path / "a.step"))
    reader.Transfer(document)
    from OCP.collections import Sequence_TDF_Label

    top = Sequence_TDF_Label()
    XCAFDoc_DocumentTool.ShapeTool_s(document.Main()).GetFreeShapes(top)
    uses = Sequence_TDF_Label()
    XCAFDoc_ShapeTool.GetComponents_s(top.Value(1), uses)
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())

    def name_of(label: TDF_Label) -> str:
        found = TDataStd_Name()
        assert label.FindAttribute(TDataStd_Name.GetID_s(), found)
        return found.Get().ToExtString()

    stands = {one.name: one for one in standing(evaluated)}
    assert name_of(top.Value(1)) == evaluated.document.name
    assert uses.Length() == len(stands)
    for k in range(1, uses.Length() + 1):
        one = stands[name_of(uses.Value(k))]
        shape = XCAFDoc_ShapeTool.GetShape_s(uses.Value(k))
        volume, area = GProp_GProps(), GProp_GProps()
        BRepGProp.VolumeProperties_s(shape, volume)
        BRepGProp.SurfaceProperties_s(shape, area)
        (body,) = one.solid.bodies.values()
        assert volume.Mass() == pytest.approx(body.volume * 1e9, rel=1e-9)
        c = volume.CentreOfMass()
        np.testing.assert_allclose([c.X(), c.Y(), c.Z()], poses.place(one.pose, body.centroid) * 1e3, atol=1e-6)
        corners = body.vertices[body.triangles] * 1e3
        rough = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
        assert area.Mass() == pytest.approx(rough, rel=2e-3)
        assert len(each(shape, TopAbs_FACE, TopoDS.Face)) == len(body.faces)
        design = TDF_Label()
        assert XCAFDoc_ShapeTool.GetReferredShape_s(uses.Value(k), design)
        stated = XCAFDoc_Volume(), XCAFDoc_Area(), XCAFDoc_Centroid()
        for kind, one_of in zip((XCAFDoc_Volume, XCAFDoc_Area, XCAFDoc_Centroid), stated, strict=True):
            assert design.FindAttribute(kind.GetID_s(), one_of), kind
        assert stated[0].Get() == pytest.approx(body.volume * 1e9, rel=1e-9)
        assert stated[1].Get() == pytest.approx(area.Mass(), rel=1e-9)
        centre = stated[2].Get()
        np.testing.assert_allclose([centre.X(), centre.Y(), centre.Z()], body.centroid * 1e3, atol=1e-6)
        colour = Quantity_Color()
        assert any(
            colours.GetColor(XCAFDoc_ShapeTool.GetShape_s(design), kind, colour)
            for kind in (XCAFDoc_ColorGen, XCAFDoc_ColorSurf)
        )
        told = Quantity_Color(*one.colour, Quantity_TOC_sRGB)
        assert colour.Distance(told) < 0.01


def test_stl_holds_the_triangles(evaluated: Evaluation, tmp_path: Path) -> None:
    path = tmp_path / "a.stl"
    path.write_bytes(written(path.name, evaluated)[0])
    mesh = trimesh.load_mesh(path)
    mesh.merge_vertices()
    total = sum(b.volume for one in standing(evaluated) for b in one.solid.bodies.values()) * 1e9
    assert mesh.is_watertight
    assert mesh.volume == pytest.approx(total, rel=2e-3)


def test_3mf_of_a_part_with_several_bodies_has_one_object(evaluator: Evaluator) -> None:
    """A carrier with three pins: read by lib3mf, one item is built, of four meshes."""
    draft = Draft("Carrier")
    draft.part("Carrier", "steel", Carrier(pins=3))
    draft.part("Pin", "steel", Pin(), x="90 mm")
    result = evaluator.evaluate(draft.document)
    model = lib3mf.get_wrapper().CreateModel()
    data = written("a.3mf", result)[0]
    model.QueryReader("3mf").ReadFromBuffer((ctypes.c_uint8 * len(data)).from_buffer_copy(data))
    items = model.GetBuildItems()
    names = []
    while items.MoveNext():
        names.append(items.GetCurrent().GetObjectResource().GetName())
    assert names == ["Carrier", "Pin"]
    back = trimesh.load_scene(io.BytesIO(data), file_type="3mf")
    assert sum(m.volume for m in back.dump()) == pytest.approx(
        sum(s.volume for s in result.solids.values()) * 1e9, rel=1e-3
    )


def test_3mf_is_accepted_by_lib3mf(evaluated: Evaluation) -> None:
    """The consortium's own reader: no warning, millimetres, each part by its name with its triangles."""
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    data = written("a.3mf", evaluated)[0]
    reader.ReadFromBuffer((ctypes.c_uint8 * len(data)).from_buffer_copy(data))
    assert reader.GetWarningCount() == 0
    assert model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    found, each = {}, model.GetMeshObjects()
    while each.MoveNext():
        mesh = each.GetCurrentMeshObject()
        corners = np.array([v.Coordinates for v in mesh.GetVertices()])
        faces = np.array([t.Indices for t in mesh.GetTriangleIndices()])
        assert mesh.IsManifoldAndOriented()
        found[mesh.GetName()] = trimesh.Trimesh(corners, faces, process=False)
    stands = {one.name: one for one in standing(evaluated)}
    assert set(found) == set(stands)
    for name, mesh in found.items():
        assert mesh.volume == pytest.approx(stands[name].solid.volume * 1e9, rel=2e-3)


def test_gltf_holds_parts_and_motion(evaluated: Evaluation, tmp_path: Path) -> None:
    data = written("a.glb", evaluated)[0]
    scene = trimesh.load(trimesh.util.wrap_as_stream(data), file_type="glb")
    assert isinstance(scene, trimesh.Scene)
    total = sum(b.volume for one in standing(evaluated) for b in one.solid.bodies.values())
    assert sum(g.volume for g in scene.geometry.values()) == pytest.approx(total, rel=2e-3)
    for one in standing(evaluated):  # the file's y points up
        matrix, _ = scene.graph.get(one.name)
        np.testing.assert_allclose(matrix[:3, 3], one.pose[[0, 2, 1]] * [1, 1, -1], atol=1e-7)
    length, kind = struct.unpack_from("<II", data, 12)
    told = json.loads(data[20 : 20 + length])
    (animation,) = told["animations"]
    bar = next(k for k, n in enumerate(told["nodes"]) if n["name"] == "Bar")
    channel = next(c for c in animation["channels"] if c["target"] == {"node": bar, "path": "rotation"})
    sampler = animation["samplers"][channel["sampler"]]
    accessor = told["accessors"][sampler["output"]]
    view = told["bufferViews"][accessor["bufferView"]]
    block = data[20 + length + 8 :]
    turn = np.frombuffer(block, "<f4", accessor["count"] * 4, view["byteOffset"]).reshape(-1, 4)
    motion = evaluated.motion
    assert motion is not None
    wanted = evaluated.mechanism.part_pose("bar", motion.pose)[:, [4, 5, 6, 3]]  # type: ignore[union-attr]
    np.testing.assert_allclose(turn, wanted, atol=1e-6)
    assert kind == 0x4E4F534A


def test_the_demo_goes_out_in_every_format(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(foil_tucker())
    for suffix in (".step", ".stl", ".3mf", ".glb", ".csv", ".json", ".mjcf", ".urdf.zip", ".scheme.svg"):
        assert len(written(f"tucker{suffix}", e)[0]) > 300
    scheme = etree.fromstring(written("tucker.scheme.svg", e)[0])
    assert [g.get("data-part") for g in scheme.findall("{*}g")] == ["links", "joints", "feet", "gears"]


def test_an_empty_mechanism_is_refused(evaluator: Evaluator) -> None:
    with pytest.raises(ValidationFailed, match="there is no part to write"):
        written("a.step", evaluator.evaluate(Document(name="Empty")))
