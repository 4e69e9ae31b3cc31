"""Documents of format 1 stand and move as that format's own code had them, to 1e-9.

`tests/formats/` holds what that code wrote and where it put every placed part, at the start, in the cycle and at its end: the
demo's nine files, and 300 random trees of two to four parts whose outlines lie beside their origins, in mm, cm and inches,
some mirrored, some repeated behind a face, held by every kind of joint and by relations. 241 of them have a drive for every
freedom; what nothing drives is held to where it stands at the start alone, within what the solver leaves open there.
"""

from __future__ import annotations

import gzip
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import uhrwerk.demo
from tests.context import CONTEXT
from uhrwerk import At, Draft, ValidationFailed, write
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.motion.cycle import cycle
from uhrwerk.core.outlines import Circle, Rectangle
from uhrwerk.core.steps import Extrude
from uhrwerk.core.upgrade import from_data

FORMATS = Path(__file__).parent.parent / "formats"
BATCH = 30


def kept(name: str) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = json.loads(gzip.decompress((FORMATS / name).read_bytes()))
    return found


def stands_as_before(case: dict[str, Any]) -> int:
    """How many places beside a datum and offsets the upgrade had to state."""
    document = from_data(case["document"], CONTEXT)
    assert document.format == 3
    m = compile(document, CONTEXT)
    assert not m.problems
    motion = cycle(m, solve(m), document.scope().value(document.cycle.duration, "time"), 12)
    assert set(m.document.placed) == set(case["poses"])
    fixed = case.get("fixed", True)
    count, atol = (3, 1e-9) if fixed else (1, 2e-8)
    for placed, poses in case["poses"].items():
        now, then = m.part_pose(placed, motion.pose)[[0, 5, 12]], np.array(poses)
        then *= np.where(np.arange(7) < 3, 1.0, np.sign((now[:, 3:] * then[:, 3:]).sum(axis=1))[:, None])
        np.testing.assert_allclose(now[:count], then[:count], rtol=0, atol=atol, err_msg=f"{document.name}, {placed}")
    before = {i: (j["a"], j["b"], j["offset"]) for i, j in case["document"]["joints"].items()}
    after = {i: (j.a.model_dump(), j.b.model_dump(), j.offset) for i, j in document.joints.items()}
    return sum(before[i] != after[i] for i in before)


def test_every_demo_file_of_format_1_moves_as_before(evaluator: Evaluator) -> None:
    for case in kept("demo_1.json.gz"):
        stands_as_before(case)


@pytest.mark.parametrize("batch", range(300 // BATCH))
def test_300_random_documents_of_format_1_move_as_before(evaluator: Evaluator, batch: int) -> None:
    changed = [stands_as_before(case) for case in kept("random_1.json.gz")[BATCH * batch : BATCH * (batch + 1)]]
    assert sum(n > 0 for n in changed) > BATCH / 2  # most of them joined beside the middle of a face


def test_what_acts_elsewhere_now_is_named(evaluator: Evaluator) -> None:
    """A spring from a stud to a plate: format 1 had it act at the feet of both origins, and format 2 where it is shown."""
    draft = Draft("Spring")
    steps = {"foot": Extrude(name="Foot", outline=Rectangle(length="40 mm", width="20 mm"), length="5 mm"),
             "stud": Extrude(name="Stud", plane="foot.end", outline=Circle(diameter="8 mm", x="12 mm"), length="10 mm")}  # fmt: skip
    one = draft.own_part("Base", "steel", steps)
    other = draft.own_part("Lid", "steel", steps, z="60 mm")
    draft.spring("Pusher", At(placed=one, datum="stud.end"), At(placed=other, datum="foot.start"))
    old = draft.document.model_dump(mode="json") | {"format": 1}
    new = from_data(old)
    assert new.pairs["pusher"] == draft.document.pairs["pusher"]
    assert "Brought up from format 1" in new.note
    assert "Pusher" in new.note
    assert from_data(draft.document.model_dump(mode="json")).note == ""


def test_format_2_means_the_same_by_other_names() -> None:
    """The demo's files, and one document with everything that is called otherwise now."""
    *demo, every = kept("documents_2.json.gz")
    files = sorted((Path(uhrwerk.demo.__file__).parent).glob("*.json"))
    assert [write(from_data(d)).strip() for d in demo] == [f.read_text(encoding="utf-8").strip() for f in files]
    d = from_data(every).model_dump(mode="json")
    assert [p["element"]["kind"] for p in d["parts"].values()] == [
        "countersunk_screw", "internal_retaining_ring", "imported", "blank"
    ]  # fmt: skip
    assert d["parts"]["a"]["measured_mass"] == "12 g"
    assert d["parts"]["d"]["steps"]["more"]["kind"] == "repeat"
    spring, torsion, spiral, force, torque = d["pairs"].values()
    assert [spring[k] for k in ("loading", "wire_diameter", "mean_diameter", "active_coils")] == ["extension", "1.1 mm", "9 mm", "7"]  # fmt: skip
    assert [torsion[k] for k in ("preload", "wire_diameter", "mean_diameter", "active_coils")] == ["61 deg", "1.2 mm", "11 mm", "6"]  # fmt: skip
    assert (spiral["preload"], force["kind"], torque["kind"]) == ("62 deg", "force", "torque")
    assert d["drivers"]["m"]["continues"] is True
    assert d["requirements"]["r"]["kind"] == "spring_strength"


@pytest.mark.parametrize(
    "broken", [{"parts": 3}, {"parts": {"a": 3}}, {"parts": {"a": {"element": 3, "steps": []}}}, {"pairs": []}]
)
def test_broken_data_of_format_2_is_refused_by_its_path(broken: dict[str, Any]) -> None:
    with pytest.raises(ValidationFailed) as refused:
        from_data({"format": 2, "name": "broken"} | broken)
    (collection,) = broken
    assert refused.value.faults[0][0].startswith(collection)
