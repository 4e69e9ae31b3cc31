"""MJCF and URDF, read back by MuJoCo and yourdfpy: the same motion, the same masses; what is not in them is said."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Iterable
from pathlib import Path
from xml.etree import ElementTree as Xml

import mujoco
import numpy as np
import pytest
import yourdfpy

from tests.core.test_report import HOSTILE
from tests.mechanisms import crossed_ring, four_bar
from tests.reference.attack.assemblies import assembly
from uhrwerk import At, Bore, Cycle, Draft, FramePlate, Pin
from uhrwerk.core.document import Document
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.exchange import written
from uhrwerk.core.exchange.link_tree import LinkTree, link_tree
from uhrwerk.core.stages.evaluation import Evaluation
from uhrwerk.demo import MODULES, shipped


def read(e: Evaluation) -> tuple[mujoco.MjModel, mujoco.MjData, LinkTree]:
    model = mujoco.MjModel.from_xml_string(written("a.mjcf", e)[0].decode())
    return model, mujoco.MjData(model), link_tree(e)


def off(data: mujoco.MjData, tree: LinkTree, pose: np.ndarray) -> float:
    """How far bodies are from links (L, 7), the larger of m and parts of a quaternion."""
    worst = 0.0
    for b in tree.branches:
        body, ours = data.body(tree.names[b.link]), pose[b.link]
        turned = min(np.abs(body.xquat - ours[3:]).max(), np.abs(body.xquat + ours[3:]).max())
        worst = max(worst, np.abs(body.xpos - ours[:3]).max(), turned)
    return float(worst)


def followed(e: Evaluation, fixed: Iterable[str]) -> float:
    """The largest distance, m, between our motion and the one that MuJoCo's own constraints give, when only `fixed` joints are set to the
    values of the keys: Newton's method on its constraint Jacobian, from frame to frame."""
    model, data, tree = read(e)
    pose = e.moved.motion.pose
    at = [model.joint(n).qposadr[0] for n in fixed]
    held = {model.joint(n).dofadr[0] for n in fixed}
    free = [k for k in range(model.nv) if k not in held]
    keys = model.key_qpos.copy()
    data.qpos[:] = keys[0]
    worst = 0.0
    for f in range(model.nkey):
        data.qpos[at] = keys[f, at]
        for _ in range(30):
            mujoco.mj_fwdPosition(model, data)
            if not data.ne:
                break
            residual = data.efc_pos[: data.ne].copy()
            if np.abs(residual).max() < 1e-10:
                break
            jacobian = data.efc_J.reshape(-1, model.nv)[: data.ne][:, free]
            step = np.zeros(model.nv)
            step[free] = -np.linalg.lstsq(jacobian, residual, rcond=1e-9)[0]
            mujoco.mj_integratePos(model, data.qpos, step, 1.0)
        mujoco.mj_fwdPosition(model, data)
        worst = max(
            worst, max(np.linalg.norm(data.body(tree.names[b.link]).xpos - pose[f, b.link, :3]) for b in tree.branches)
        )
    return float(worst)


@pytest.mark.parametrize("module", MODULES)
def test_the_keys_are_the_motion_and_keep_every_constraint(evaluator: Evaluator, module: str) -> None:
    e = evaluator.evaluate(shipped(module))
    model, data, tree = read(e)
    assert model.nkey == len(e.moved.motion.times)
    for f in range(model.nkey):
        mujoco.mj_resetDataKeyframe(model, data, f)
        mujoco.mj_fwdPosition(model, data)
        assert off(data, tree, e.moved.motion.pose[f]) < 1e-7
        assert not data.ne or np.abs(data.efc_pos[: data.ne]).max() < 1e-7


@pytest.mark.parametrize(
    ("module", "fixed"),
    [
        ("foil_tucker", ["pinion_turns_in_plate.turn"]),
        ("folder", ["cam_turns_in_plate.turn", "crank_turns_in_plate.turn"]),  # the cam's outline is not in the file
        ("gripper_ring", []),
        ("pusher", []),
        ("planetary_sample", []),
    ],
)
def test_a_demo_module_goes_the_same_way(evaluator: Evaluator, module: str, fixed: list[str]) -> None:
    e = evaluator.evaluate(shipped(module))
    driven = [f"{d.joint}.{e.mechanism.joints[d.joint].coordinates[0]}" for d in e.document.drivers.values()]
    names = [mujoco_name for mujoco_name in {*driven, *fixed} if mujoco_name in link_tree(e).values]
    assert followed(e, names) < 1e-4


def test_a_four_bar_and_a_ring_go_the_same_way(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(four_bar(0.03, 0.1, 0.08, 0.09, frames=72))
    assert followed(e, ["crank_in_ground.turn"]) < 1e-7
    e = evaluator.evaluate(crossed_ring(4, frames=24))
    driven = next(iter(e.document.drivers.values())).joint
    assert followed(e, [f"{driven}.{e.mechanism.joints[driven].coordinates[0]}"]) < 1e-7


def spatial(coupler: str, rocker: str) -> Document:
    """A four-bar whose coupler is joined by other kinds, which hold no more than a plane's motion needs."""
    plain = four_bar(0.03, 0.1, 0.08, 0.09, frames=48)
    d = Draft("x", plain)
    for i, kind in (("coupler_on_crank", coupler), ("coupler_on_rocker", rocker)):
        j = plain.joints[i]
        d.set(f"joints.{i}", {"kind": kind, "name": j.name, "a": j.a.model_dump(), "b": j.b.model_dump(), "offset": "6 mm"} if kind in ("revolute", "spherical") else {"kind": kind, "name": j.name, "a": j.a.model_dump(), "b": j.b.model_dump()})  # fmt: skip
    return d.document


def table() -> Document:
    """A cross table on two chains of slides: four prismatic joints in a loop, two of them driven."""
    d = Draft("Table")
    base = d.part("Base", "steel", FramePlate(length="200 mm", width="200 mm"))
    parts = {n: d.part(n, "steel", FramePlate(length="50 mm", width="40 mm", thickness="6 mm"), z=z) for n, z in (("One", "20 mm"), ("Other", "20 mm"), ("Top", "40 mm"))}  # fmt: skip
    along = d.prismatic("One along", base["front"], parts["One"]["front"])
    across = d.prismatic("Top across", parts["One"]["left"], parts["Top"]["left"])
    d.prismatic("Other across", base["left"], parts["Other"]["left"])
    d.prismatic("Top along", parts["Other"]["front"], parts["Top"]["front"])
    d.slide("Along", along, "30 mm/s")
    d.slide("Across", across, "20 mm/s")
    d.set("cycle", Cycle(duration="1 s", frames=24).model_dump(mode="json"))
    return d.document


def shafts() -> Document:
    """Two shafts at 25 degrees, and a universal joint between them."""
    d = Draft("Shafts")
    base = d.part("Base", "steel", FramePlate(bores={"a": Bore(x="50 mm", y="50 mm", diameter="8 mm")}))
    one = d.part("One", "steel", Pin(diameter="8 mm", length="40 mm"), x="50 mm", y="50 mm")
    two = d.part("Two", "steel", Pin(diameter="8 mm", length="40 mm"), x="50 mm", y="50 mm", z="40 mm", turn_y="25 deg")
    post = d.part(
        "Post", "steel", Pin(diameter="8 mm", length="10 mm"), x="50 mm", y="50 mm", z="40 mm", turn_y="25 deg"
    )
    turns = d.revolute("One turns", base["a"], one["axis"])
    d.held("Post stands", base["origin"], post["origin"], x="50 mm", y="50 mm", offset="40 mm", turn_y="25 deg")
    d.universal("Bends", At(placed=one, datum="axis", z="40 mm"), two["axis"])
    d.revolute("Two turns", post["axis"], two["axis"])
    d.turn("Motor", turns, "60 rpm")
    return d.document


@pytest.mark.parametrize(
    ("document", "driven"),
    [
        (lambda: spatial("cylindrical", "spherical"), ["crank_in_ground.turn"]),
        (lambda: spatial("spherical", "cylindrical"), ["crank_in_ground.turn"]),
        (table, ["one_along.slide", "top_across.slide"]),
        (shafts, ["one_turns.turn"]),
    ],
    ids=["cylindrical and spherical", "spherical and cylindrical", "prismatic loop", "universal"],
)
def test_loops_of_other_joints_go_the_same_way(
    evaluator: Evaluator, document: Callable[[], Document], driven: list[str]
) -> None:
    e = evaluator.evaluate(document())
    assert not e.problems, e.problems
    model, data, tree = read(e)
    assert tree.loops
    for f in range(model.nkey):
        mujoco.mj_resetDataKeyframe(model, data, f)
        mujoco.mj_fwdPosition(model, data)
        assert off(data, tree, e.moved.motion.pose[f]) < 1e-7
        assert np.abs(data.efc_pos[: data.ne]).max() < 1e-7
    assert followed(e, driven) < 1e-6


@pytest.mark.parametrize("part", range(6))
@pytest.mark.parametrize("turned", [False, True], ids=["", "from the other end"])
def test_random_assemblies_stand_where_both_files_say(
    evaluator: Evaluator, tmp_path: Path, part: int, turned: bool
) -> None:
    """Joints and relations of all kinds, at odd places; `turned`: another part is the frame, so that children are at the other end of
    their joints. Each file's own reader places the links at every twelfth of the motion."""
    for seed in range(200_000 + 8 * part, 200_008 + 8 * part):
        document = assembly(seed).document
        if turned:
            document = document.model_copy(update={"frame": list(document.placed)[-1]})
        e = evaluator.evaluate(document)
        if e.motion is None:
            continue
        model, data, tree = read(e)
        robot = urdf_of(e, tmp_path / str(seed))
        for f in range(0, model.nkey, max(1, model.nkey // 12)):
            mujoco.mj_resetDataKeyframe(model, data, f)
            mujoco.mj_fwdPosition(model, data)
            assert off(data, tree, e.moved.motion.pose[f]) < 1e-7, seed
            assert not data.ne or np.abs(data.efc_pos[: data.ne]).max() < 1e-7, seed
            if any(b.parent < 0 or (b.joint and b.joint.kind == "spherical") for b in tree.branches):
                continue  # floating and ball joints have no single numbers in the other file
            robot.update_cfg({n: float(v[f]) for n, v in tree.values.items() if n in robot.joint_map})
            for link in robot.robot.links:
                if not link.visuals:
                    continue
                at = robot.get_transform(link.name) @ link.visuals[0].origin  # of the solid, as its part stands
                pose = e.part_poses(e.moved.motion.pose[f])[link.visuals[0].name.split("/")[0]]
                assert at[:3, 3] == pytest.approx(pose[:3], abs=1e-7), seed
                turn = np.array([_turned(pose[3:], axis) for axis in np.eye(3)]).T
                assert at[:3, :3] == pytest.approx(turn, abs=1e-7), seed


def test_what_is_not_in_the_file_is_named(evaluator: Evaluator) -> None:
    root = Xml.fromstring(written("a.mjcf", evaluator.evaluate(shipped("folder")))[0])
    (text,) = root.findall("custom/text")
    assert text.get("data") == "Roller runs on cam: its ratio is not constant; Spring: its force is not in the file"


def urdf_of(e: Evaluation, tmp_path: Path) -> yourdfpy.URDF:
    with zipfile.ZipFile(io.BytesIO(written("a.urdf.zip", e)[0])) as archive:
        archive.extractall(tmp_path)
    return yourdfpy.URDF.load(str(tmp_path / "mechanism.urdf"))


@pytest.mark.parametrize("module", ["foil_cutter", "guard_lid", "foil_tucker", "main_drive"])
def test_urdf_has_the_masses_and_goes_where_its_tree_goes(evaluator: Evaluator, module: str, tmp_path: Path) -> None:
    e = evaluator.evaluate(shipped(module))
    robot, tree = urdf_of(e, tmp_path), link_tree(e)
    masses = sum(link.inertial.mass for link in robot.robot.links if link.inertial)
    assert masses == pytest.approx(
        e.masses["whole"].mass if "whole" in e.masses else sum(e.part_mass.values()), rel=1e-9
    )
    pose = e.moved.motion.pose
    for f in (0, len(pose) // 3, len(pose) - 1):
        robot.update_cfg({n: float(v[f]) for n, v in tree.values.items() if n in robot.joint_map})
        for b in tree.branches:
            at = robot.get_transform(tree.names[b.link])
            end = b.joint.frame_a if b.turned else b.joint.frame_b
            ours = pose[f, b.link]
            origin = ours[:3] + _turned(ours[3:], end[:3])
            assert at[:3, 3] == pytest.approx(origin, abs=1e-8)
            link = robot.link_map[tree.names[b.link]].inertial
            world = at[:3, :3] @ link.inertia @ at[:3, :3].T
            assert np.trace(world) > 0
            centre = at @ link.origin @ [0, 0, 0, 1]
            mass, local, inertia = mass_of(e, tree, b.link)
            assert link.mass == pytest.approx(mass, rel=1e-9)
            assert centre[:3] == pytest.approx(ours[:3] + _turned(ours[3:], local), abs=1e-8)
            turn = np.array([_turned(ours[3:], axis) for axis in np.eye(3)]).T
            assert world == pytest.approx(turn @ inertia @ turn.T, rel=1e-6, abs=1e-13)


def _turned(q: np.ndarray, v: np.ndarray) -> np.ndarray:
    """A vector turned by a unit quaternion (w, x, y, z)."""
    return v + 2 * np.cross(q[1:], np.cross(q[1:], v) + q[0] * v)


def mass_of(e: Evaluation, tree: LinkTree, link: int) -> tuple[float, np.ndarray, np.ndarray]:
    """Mass, centre and inertia of a link, from its parts' masses and the kernel's moments of their bodies, by the parallel axis theorem."""
    masses, centres, inertias = [], [], []
    for one in tree.stands[link]:
        local = np.asarray(e.mechanism.links[link].local[one.id])
        bodies = one.solid.bodies.values()
        volume = sum(b.volume for b in bodies)
        for b in bodies:
            masses.append(e.part_mass[one.id] * b.volume / volume)
            centres.append(local[:3] + _turned(local[3:], b.centroid))
            turn = np.array([_turned(local[3:], axis) for axis in np.eye(3)]).T
            inertias.append(turn @ b.inertia @ turn.T * masses[-1] / b.volume)
    mass, c = sum(masses), np.array(centres)
    centre = (np.array(masses)[:, None] * c).sum(axis=0) / mass
    arms = c - centre
    inertia = sum(i + m * (r @ r * np.eye(3) - np.outer(r, r)) for m, r, i in zip(masses, arms, inertias, strict=True))
    return mass, centre, np.asarray(inertia)


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_names_are_inert_in_both(evaluator: Evaluator, name: str, tmp_path: Path) -> None:
    """Names of mechanism, parts and joints become attributes and file names that stay within their archive."""
    draft = Draft(name)
    plate = draft.part(name, "steel", FramePlate())

    pin = draft.part(f"../../{name}", "steel", Pin(diameter="8 mm", length="20 mm"))
    draft.revolute(name, At(placed=plate, datum="origin"), At(placed=pin, datum="origin"))
    e = evaluator.evaluate(draft.document)
    model = mujoco.MjModel.from_xml_string(written("a.mjcf", e)[0].decode())
    assert model.njnt == 1
    archive = zipfile.ZipFile(io.BytesIO(written("a.urdf.zip", e)[0]))
    for entry in archive.namelist():
        assert entry == Path(entry).name or entry.startswith("meshes/"), entry
        assert ".." not in entry
        assert entry.isascii()
        assert entry.isprintable()
    archive.extractall(tmp_path)
    (description,) = tmp_path.glob("*.urdf")
    assert len(yourdfpy.URDF.load(str(description)).robot.joints) == 1
