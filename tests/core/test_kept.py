"""What is kept is never believed blindly, and never speaks with old names; what was not decided is no answer."""

from __future__ import annotations

import json
import pickle
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from tests.context import CONTEXT
from tests.mechanisms import four_bar
from tests.witness import coupler_and_post
from uhrwerk import Clearance, Draft, FramePlate, LinkBar, NoInterference, Pin, write
from uhrwerk.cli import main
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.motion import coordinates, cycle
from uhrwerk.core.proximity import sweep
from uhrwerk.core.proximity.sweep_pool import SweepPool
from uhrwerk.core.solids import KernelPool, Solid, circle, extrude, recipe
from uhrwerk.core.solids.disk_cache import DiskCache, packed, unpacked

DISC = recipe({"a": [extrude(circle(0, 0, 0.02), 0, 0.01)]})


def kept_file(folder: Path) -> Path:
    (file,) = folder.glob("*.solid")
    return file


@pytest.fixture(scope="module")
def forge() -> Iterator[KernelPool]:
    """One pool for all tests, so that its worker is started once."""
    made = KernelPool(None, workers=1, limit=60)
    yield made
    made.close()


@pytest.fixture
def shop(forge: KernelPool, tmp_path: Path) -> KernelPool:
    """A pool with a folder of its own that remembers nothing but the disc."""
    forge.folder = DiskCache(tmp_path)
    forge._solids.clear()
    forge.build(DISC)
    return forge


def again(shop: KernelPool) -> tuple[Solid, bool]:
    """The solid by a pool that remembers nothing, and whether it was made anew."""
    shop._solids.clear()
    before = shop.built
    return shop.build(DISC), shop.built > before


def test_a_kept_solid_is_the_one_that_was_made(shop: KernelPool) -> None:
    made = shop.build(DISC).bodies["a"]
    found, anew = again(shop)
    assert not anew
    body = found.bodies["a"]
    assert (body.volume, body.deviation, body.order) == (made.volume, made.deviation, made.order)
    for name in ("vertices", "triangles", "face_of", "centroid", "inertia"):
        np.testing.assert_array_equal(getattr(body, name), getattr(made, name))
    assert [(f.kind, f.radius, f.length, f.outward) for f in body.faces] == [
        (f.kind, f.radius, f.length, f.outward) for f in made.faces
    ]


@pytest.mark.parametrize("bit", [3, 400, 2001, 9000, 20_003])
def test_one_bit_turned_is_made_again(shop: KernelPool, tmp_path: Path, bit: int) -> None:
    file = kept_file(tmp_path)
    data = bytearray(file.read_bytes())
    data[(bit // 8) % len(data)] ^= 1 << bit % 8
    file.write_bytes(data)
    found, anew = again(shop)
    assert anew
    assert found.volume == pytest.approx(np.pi * 0.02**2 * 0.01, rel=1e-9)
    assert again(shop)[1] is False  # it is kept rightly now


@pytest.mark.parametrize("length", [0, 10, 32, 500, -1])
def test_a_truncated_file_is_made_again(shop: KernelPool, tmp_path: Path, length: int) -> None:
    file = kept_file(tmp_path)
    file.write_bytes(file.read_bytes()[:length])
    assert again(shop)[1]


def test_another_solid_under_its_name_is_made_again(shop: KernelPool, tmp_path: Path) -> None:
    other = shop.build(recipe({"a": [extrude(circle(0, 0, 0.03), 0, 0.01)]}))
    file = next(
        f for f in tmp_path.glob("*.solid") if unpacked(f.read_bytes(), f.stem).bodies["a"].faces[0].radius != 0.03
    )  # type: ignore[union-attr]
    file.write_bytes(packed(other, "another key"))
    found, anew = again(shop)
    assert anew
    assert found.volume == pytest.approx(np.pi * 0.02**2 * 0.01, rel=1e-9)


class Bomb:
    struck = False

    def __reduce__(self) -> tuple:
        return (strike, ())


def strike() -> None:
    Bomb.struck = True


def test_nothing_in_a_kept_file_is_executed(shop: KernelPool, tmp_path: Path) -> None:
    import hashlib
    import io

    file = kept_file(tmp_path)
    bad = io.BytesIO()
    np.savez(bad, told=np.array([Bomb()], dtype=object))
    signed = (
        hashlib.sha256(file.stem.encode() + b"\0" + bad.getvalue()).digest() + bad.getvalue()
    )  # even rightly signed
    for data in (pickle.dumps(Bomb()), signed):
        file.write_bytes(data)
        assert again(shop)[1]
    assert not Bomb.struck


def test_the_folder_stays_below_its_size(tmp_path: Path, shop: KernelPool) -> None:
    solid = shop.build(DISC)
    size = len(packed(solid, "k"))
    folder = DiskCache(tmp_path / "small", largest=10 * size)
    for k in range(200):
        folder.save(f"k{k}", solid)
    assert sum(f.stat().st_size for f in (tmp_path / "small").iterdir()) <= 70 * size


# names


def test_a_renamed_joint_is_told_by_its_new_name(evaluator: Evaluator) -> None:
    d = Draft("Clash")
    plate = d.part("Plate", "steel", FramePlate(bores={}))
    bar = d.part("Bar", "steel", LinkBar())
    d.rigid("First", plate["top"], bar["bottom"], flip=True)
    d.flush("Second", plate["top"], bar["bottom"], offset="5 mm", side="same")
    d.rigid("Third", plate["top"], bar["bottom"], flip=True, offset="1 mm")
    pin = d.part("Pin", "steel", Pin())
    d.revolute("Low", plate["top"], pin["bottom"], flip=True)
    d.revolute("High", plate["top"], pin["bottom"], flip=True, offset="3 mm")
    before = evaluator.moved(d.document)
    assert "'Low', 'High'" in before.problems[-1].words
    d.set("joints.high.name", "Upper bearing")
    after = evaluator.moved(d.document)
    assert "'Low', 'Upper bearing'" in after.problems[-1].words


def test_a_renamed_driver_is_told_by_its_new_name_at_a_dead_point(evaluator: Evaluator) -> None:
    d = Draft("x", four_bar(0.09, 0.09, 0.03, 0.08, start="60 deg", speed="-60 rpm"))
    assert "Motor at" in evaluator.moved(d.document).problems[-1].words
    d.set("drivers.motor.name", "Hand wheel")
    d.set("placed.coupler.name", "Rod")
    words = evaluator.moved(d.document).problems[-1].words
    assert "Hand wheel at" in words
    assert "Rod and Rocker are in line" in words or "Rocker and Rod are in line" in words


# undecided


def test_what_a_search_did_not_decide_is_no_answer(evaluator: Evaluator, monkeypatch: pytest.MonkeyPatch) -> None:
    """A search that is cut off before its end, with only "nothing overlaps" asked."""
    random = np.random.default_rng(1)
    case = next(c for c in (coupler_and_post(random) for _ in range(400)) if 1e-4 < c.smallest() < 1e-3)
    document = case.document
    document = document.model_copy(update={"requirements": {"apart": document.requirements["apart"]}})
    real = sweep.nearest
    monkeypatch.setattr(sweep, "nearest", lambda *a, **k: real(*a, **(k | {"most": 1})))
    fresh = Evaluator(limit=60)
    fresh.kernel_pool = evaluator.kernel_pool
    verdict = fresh.evaluate(document).verdicts["apart"]
    assert verdict.holds is None
    assert "was not decided" in verdict.words
    monkeypatch.undo()
    assert evaluator.evaluate(document).verdicts["apart"].holds is True


def test_an_exact_fit_decides_nothing_of_the_other_faces(evaluator: Evaluator, monkeypatch: pytest.MonkeyPatch) -> None:
    """A pin of its bore's own size is an intended contact; where the search of all else was cut off, that is no answer."""
    d = Draft("Pressed")
    bar = d.part("Bar", "steel", LinkBar(width="16 mm", bore_1="8 mm"))
    pin = d.part(
        "Pin", "steel", Pin(diameter="8 mm", length="12 mm", head_diameter="12 mm", head_height="2 mm"), z="-3 mm"
    )
    d.rigid("Pin in bar", bar["hole_1"], pin["axis"], offset="-3 mm")
    d.require(NoInterference(name="Apart"))
    assert evaluator.evaluate(d.document).verdicts["apart"].holds is True
    real = sweep.nearest
    monkeypatch.setattr(sweep, "nearest", lambda *a, **k: replace(real(*a, **k), decided=False))
    fresh = Evaluator(limit=60)
    fresh.kernel_pool = evaluator.kernel_pool
    assert fresh.evaluate(d.document).verdicts["apart"].holds is None


def test_a_failure_in_a_worker_is_raised_where_it_is_waited_for() -> None:
    class Broken:
        a = b = None

        def finding(self) -> None:
            raise ZeroDivisionError("broken")

    sweep_pool = SweepPool(1)
    try:
        with pytest.raises(ZeroDivisionError):
            sweep_pool.findings([Broken()], lambda _: None)  # type: ignore[list-item]
    finally:
        sweep_pool.close()


def test_a_fast_cutter_against_a_slow_arm_is_decided(evaluator: Evaluator) -> None:
    """600 turns of one while the other makes a tenth of one: an overlap that no frame shows."""
    d = Draft("Cutter")
    ground = d.part("Ground", "steel", LinkBar(distance="74 mm"), z="-20 mm")
    cutter = d.part("Cutter", "steel", LinkBar(distance="40 mm", width="8 mm"))
    arm = d.part("Arm", "steel", LinkBar(distance="40 mm", width="8 mm"), x="74 mm", turn_z="140 deg")
    fast = d.revolute("Cutter turns", ground["hole_1"], cutter["hole_1"], offset="20 mm")
    slow = d.revolute("Arm turns", ground["hole_2"], arm["hole_1"], offset="20 mm")
    d.turn("Fast", fast, "600 rev/s")
    d.turn("Slow", slow, "36 deg/s", "140 deg")
    d.require(NoInterference(name="Apart"))
    assert evaluator.evaluate(d.document).verdicts["apart"].holds is False


def test_a_body_inside_another_is_an_overlap(evaluator: Evaluator) -> None:
    """Surfaces that do not meet do not mean that bodies do not: a pin wholly within a plate."""
    d = Draft("Inside")
    d.part("Plate", "steel", FramePlate(thickness="20 mm"))
    pin = d.part("Pin", "steel", Pin(diameter="4 mm", length="6 mm"), x="80 mm", y="50 mm", z="-13 mm")
    d.require(NoInterference(name="Apart"))
    d.require(Clearance(name="Gap", a=pin.body(), b=_of("plate")))
    result = evaluator.evaluate(d.document)
    assert result.verdicts["apart"].holds is False
    assert result.verdicts["gap"].holds is False


def _of(placed: str) -> object:
    from uhrwerk.core.document.requirement import Of

    return Of(placed=placed)


def test_copies_of_one_part_are_measured_apart(evaluator: Evaluator) -> None:
    """Two uses of one solid share its triangles, never their poses."""
    d = Draft("Copies")
    d.part("Bar", "steel", LinkBar(distance="40 mm", width="10 mm"))
    d.place("bar", "Other bar", x="0 mm", y="13 mm", turn_z="10 deg")
    d.require(Clearance(name="Gap", a=_of("bar"), b=_of("other_bar"), at_least="1 mm"))
    verdict = evaluator.evaluate(d.document).verdicts["gap"]
    assert verdict.value == pytest.approx(0.003, abs=1e-6)


# coordinates on the command line


def cylinder() -> Draft:
    d = Draft("Cylinder")
    plate = d.part("Plate", "steel", FramePlate(bores={}))
    pin = d.part("Pin", "steel", Pin(), x="80 mm", y="50 mm")
    d.cylindrical("Turns and slides", plate["top"], pin["bottom"], flip=True)
    d.turn("Motor", "turns_and_slides", "60 rpm")
    d.slide("Feed", "turns_and_slides", "10 mm/s")
    return d


def test_every_coordinate_of_a_cylindrical_joint_has_its_own_name(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "m.json"
    file.write_text(write(cylinder().document), encoding="utf-8")
    assert main(["motion", str(file), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)["joints"]
    assert set(told) == {"turns_and_slides", "turns_and_slides.slide"}
    assert told["turns_and_slides"]["unit"] == "rad"
    assert told["turns_and_slides.slide"]["unit"] == "m"
    assert told["turns_and_slides"]["value"][-1] == pytest.approx(2 * np.pi)
    assert told["turns_and_slides.slide"]["value"][-1] == pytest.approx(0.01)


def test_motion_builds_no_solid(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    def never(*_: object, **__: object) -> None:
        raise AssertionError("a solid was built")

    monkeypatch.setattr(KernelPool, "build", never)
    monkeypatch.setattr(KernelPool, "call", never)
    file = tmp_path / "m.json"
    file.write_text(write(four_bar(0.03, 0.09, 0.06, 0.08)), encoding="utf-8")
    assert main(["motion", str(file), "--of", "crank_in_ground"]) == 0
    assert "crank_in_ground (rad)" in capsys.readouterr().out


# one sign rule


@pytest.mark.parametrize("flip", [False, True])
@pytest.mark.parametrize("kind", ["revolute", "prismatic", "cylindrical", "screw", "planar"])
def test_coordinates_count_along_and_about_the_axis_of_a(evaluator: Evaluator, kind: str, flip: bool) -> None:
    """Positive travel moves b along a's axis, a positive angle turns it about that by the right hand, flipped or not; with
    an offset, from there; limits count the same."""
    d = Draft("Sign")
    plate = d.part("Plate", "steel", FramePlate(bores={}))
    pin = d.part("Pin", "steel", Pin(), x="80 mm", y="50 mm", turn_x="180 deg" if flip else "0 deg")
    how: dict[str, str] = {}
    if kind in ("revolute", "cylindrical", "screw"):
        how |= {"turn_from": "-10 deg", "turn_to": "100 deg"}
    if kind in ("prismatic", "cylindrical"):
        how |= {"slide_from": "-1 mm", "slide_to": "30 mm"}
    if kind == "screw":
        how["lead"] = "4 mm"
    joint = getattr(d, kind)("Joint", plate["top"], pin["axis"], offset="5 mm", flip=flip, **how)
    if kind in ("revolute", "cylindrical", "screw"):
        d.turn("Motor", joint, "90 deg/s")
    if kind in ("prismatic", "cylindrical"):
        d.slide("Feed", joint, "20 mm/s")
    m = compile(d.document, CONTEXT)
    motion = cycle(m, solve(m), 1.0, 24)
    found = {c.name: c for c in coordinates(m, motion).values()}
    at = m.part_pose("pin", motion.pose)
    spin = motion.velocity[0, m.link_of["pin"]]
    if "turn" in found and kind not in ("planar", "prismatic"):
        assert found["turn"].value[-1] == pytest.approx(np.pi / 2)
        assert spin[5] == pytest.approx(np.pi / 2)
    travel = {"prismatic": 0.02, "cylindrical": 0.02, "screw": 0.001}.get(kind, 0.0)
    assert at[-1, 2] - at[0, 2] == pytest.approx(travel, abs=1e-9)
    if kind != "planar":
        assert at[0, 2] == pytest.approx(0.005, abs=1e-9)
    if "slide" in found:
        assert found["slide"].value[-1] == pytest.approx(travel, abs=1e-9)
    if kind in ("revolute", "prismatic", "cylindrical"):
        assert evaluator.moved(d.document).problems == []


def test_the_same_pair_elsewhere_in_the_mechanism_is_not_swept_again(
    evaluator: Evaluator, tucker: object, monkeypatch: pytest.MonkeyPatch
) -> None:
    """After another length of the coupler only pairs of links that move otherwise are looked at."""
    evaluator.evaluate(tucker)  # type: ignore[arg-type]
    asked: list[tuple[str, str]] = []
    real = sweep.SweepTask.finding

    def seen(self: sweep.SweepTask) -> sweep.PairResult:
        asked.append((self.a.body.name, self.b.body.name))
        return real(self)

    monkeypatch.setattr(sweep.SweepTask, "finding", seen)
    d = Draft("x", tucker)  # type: ignore[arg-type]
    d.set("parts.coupler.element.distance", "88.3 mm")
    evaluator.evaluate(d.document)
    assert 0 < len(asked) < 9
    assert ("gear", "gear") not in asked
