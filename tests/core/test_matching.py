"""Corners, edges and holes that are picked bring what lies beside them: several relations in one command."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.context import CONTEXT
from uhrwerk import At, Bore, Determinate, Draft, FramePlate, outlines, steps
from uhrwerk.core.document import Document, parse
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.join import JoinOption, candidates, placed_command
from uhrwerk.core.evaluation.evaluator import Evaluator
from uhrwerk.core.part import part_datums


def own(d: Draft, name: str, sizes: tuple[str, str, str], **at: str) -> None:
    box = steps.Extrude(name="Box", outline=outlines.Rectangle(length=sizes[0], width=sizes[1]), length=sizes[2])
    d.own_part(name, "steel", {"box": box}, **at)


def offered(document: Document, a: At, b: At, kind: str) -> JoinOption | None:
    return next((o for o in candidates(document, a, b, CONTEXT) if o.kind == kind), None)


def joined(evaluator: Evaluator, document: Document, option: JoinOption) -> tuple[Document, np.ndarray, np.ndarray]:
    """The document, and where its second part is: a place (3,) and a turn (3, 3)."""
    after = accept(document, placed_command(document, parse(option.command), CONTEXT))
    e = evaluator.evaluate(after)
    assert not e.problems, e.problems
    assert all(v.holds for v in e.verdicts.values()), [v.words for v in e.verdicts.values()]
    second = list(after.placed)[1]
    pose = e.mechanism.part_pose(second, e.moved.pose)
    return after, pose[:3], Rotation.from_quat(pose[3:], scalar_first=True).as_matrix()


def blocks() -> Document:
    d = Draft("Blocks")
    own(d, "Base", ("60 mm", "40 mm", "10 mm"))
    d.require(Determinate(name="Nothing is loose"))
    own(d, "Top", ("30 mm", "20 mm", "8 mm"), x="90 mm", y="10 mm", z="20 mm", turn_z="12 deg", turn_x="5 deg")
    return d.document


def lying(document: Document, part: str, kind: str, at: tuple[float, ...]) -> str:
    """The datum of a part, an edge or a corner, that is nearest to a place on it, mm."""
    known = part_datums.datums(document, part, CONTEXT)
    names = [i for i, d in known.items() if d.kind == kind and "+" in i]
    return min(names, key=lambda i: float(np.linalg.norm(known[i].origin * 1e3 - at)))


def test_two_corners_bring_three_faces(evaluator: Evaluator) -> None:
    document = blocks()
    a = At(placed="base", datum=lying(document, "base", "point", (30, 20, 10)))
    b = At(placed="top", datum=lying(document, "top", "point", (15, 10, 0)))
    option = offered(document, a, b, "corners")
    assert option is not None
    after, place, turn = joined(evaluator, document, option)
    assert [r.kind for r in after.relations.values()] == ["flush"] * 3
    np.testing.assert_allclose(turn, np.eye(3), atol=1e-9)
    np.testing.assert_allclose(place * 1e3, [15, 10, 10], atol=1e-6)


def test_two_edges_bring_the_faces_at_one_end_too(evaluator: Evaluator) -> None:
    document = blocks()
    a = At(placed="base", datum=lying(document, "base", "axis", (30, 0, 10)))
    b = At(placed="top", datum=lying(document, "top", "axis", (15, 0, 0)))
    option = offered(document, a, b, "corners")
    assert option is not None
    _, place, turn = joined(evaluator, document, option)
    np.testing.assert_allclose(turn, np.eye(3), atol=1e-9)
    assert place[[0, 2]] * 1e3 == pytest.approx([15, 10], abs=1e-6)
    assert abs(abs(place[1] * 1e3) - 10) < 1e-6 or abs(abs(place[1] * 1e3) - 30) < 1e-6


def plates(second: dict[str, tuple[float, float]], turn: str = "25 deg") -> Document:
    d = Draft("Plates")
    first = {"a": (20.0, 20.0), "b": (80.0, 20.0), "c": (80.0, 50.0), "d": (20.0, 50.0)}
    for name, spots, at in (("Lower", first, {}), ("Upper", second, {"x": "130 mm", "z": "30 mm", "turn_z": turn})):
        bores = {n: Bore(x=f"{x} mm", y=f"{y} mm", diameter="5 mm") for n, (x, y) in spots.items()}
        d.part(name, "steel", FramePlate(length="120 mm", width="80 mm", thickness="8 mm", bores=bores), **at)
    return d.document


@pytest.mark.parametrize("turn", ["25 deg", "165 deg", "-80 deg"])
def test_two_equal_patterns_of_holes_match(evaluator: Evaluator, turn: str) -> None:
    """Four holes of 60 x 30 mm, elsewhere on the other plate: all four lie on one another, whichever was picked."""
    moved = {"p": (30.0, 25.0), "q": (90.0, 25.0), "r": (90.0, 55.0), "s": (30.0, 55.0)}
    document = plates(moved, turn)
    option = offered(document, At(placed="lower", datum="a"), At(placed="upper", datum="r"), "holes")
    assert option is not None
    assert option.words == "All 4 holes on one another"
    _, place, rotation = joined(evaluator, document, option)
    there = [place * 1e3 + rotation @ [x, y, 0] for x, y in moved.values()]
    lower = [(20.0, 20.0), (80.0, 20.0), (80.0, 50.0), (20.0, 50.0)]
    for x, y in lower:
        assert min(np.hypot(p[0] - x, p[1] - y) for p in there) < 1e-6


def test_patterns_that_differ_are_not_offered() -> None:
    other = {"p": (30.0, 25.0), "q": (91.0, 25.0), "r": (91.0, 55.0), "s": (30.0, 55.0)}
    ends = At(placed="lower", datum="a"), At(placed="upper", datum="p")
    assert offered(plates(other), *ends, "holes") is None


def test_one_hole_alone_brings_nothing() -> None:
    ends = At(placed="lower", datum="a"), At(placed="upper", datum="p")
    assert offered(plates({"p": (30.0, 25.0)}), *ends, "holes") is None
