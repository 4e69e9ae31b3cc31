"""Held as it stands: nothing moves when it is joined, both parts go as one from then on, and the numbers say where."""

from __future__ import annotations

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.context import CONTEXT
from uhrwerk import Block, Bore, Draft, FramePlate, LinkBar
from uhrwerk.core.assembly import compile, solve
from uhrwerk.core.document import apply, parse
from uhrwerk.core.edit.join import candidates, joined, tried
from uhrwerk.core.equations import pose as poses
from uhrwerk.core.joints import At

TURN = st.floats(-179, 179)


@settings(max_examples=15, deadline=None)
@given(TURN, TURN, TURN, st.sampled_from(["top", "left", "middle_xz", "axis"]))
def test_nothing_moves_and_both_go_as_one(x: float, y: float, z: float, datum: str) -> None:
    draft = Draft("Held")
    plate = draft.part("Plate", "steel", FramePlate())
    turns = {f"turn_{a}": f"{v!r} deg" for a, v in zip("xyz", (x, y, z), strict=True)}
    block = draft.part("Block", "steel", Block(), x="33.3 mm", y="-12.7 mm", z="41 mm", **turns)
    at = At(**plate["right"].model_dump()), At(**block[datum].model_dump())
    option = next(c for c in candidates(draft.document, *at, CONTEXT) if c.kind == "held")
    command = parse(option.command)
    preview = tried(draft.document, command, CONTEXT)
    assert preview.moved == {}
    assert preview.freedoms == []
    before = compile(draft.document, CONTEXT)
    document = apply(draft.document, joined(draft.document, command, CONTEXT))
    m = compile(document, CONTEXT)
    assert m.link_of["block"] == m.link_of["plate"]
    away = poses.between(before.starts["block"], m.part_pose("block", solve(m)))
    assert np.abs(away).max() < 1e-9
    # the distance along the first datum's axis is a number of its own
    path = f"joints.{next(iter(document.joints))}.offset"
    offset = document.scope().value(document.joints[next(iter(document.joints))].offset, "length")
    further = apply(document, parse({"kind": "set_value", "path": path, "value": f"{offset * 1e3 + 5!r} mm"}))
    m = compile(further, CONTEXT)
    moved = m.part_pose("block", solve(m))[:3] - before.starts["block"][:3]
    np.testing.assert_allclose(moved, [5e-3, 0, 0], atol=1e-8)  # the plate's right face looks along x


def test_it_is_offered_for_any_two_datums() -> None:
    draft = Draft("Held")
    one, other = draft.part("One", "steel", Block()), draft.part("Other", "steel", Block(), x="80 mm")
    for a in ("top", "axis", "origin"):
        for b in ("left", "axis", "origin"):
            kinds = [c.kind for c in candidates(draft.document, one[a], other[b], CONTEXT)]
            assert kinds.count("held") == 1
            assert kinds[0] != "held" or len(kinds) == 1


def test_a_held_part_moves_with_what_is_driven() -> None:
    """Held on an arm at its pose: it keeps its place on the arm, not in the room."""
    draft = Draft("Held")
    plate = draft.part("Plate", "steel", FramePlate(bores={"pivot": Bore(x="80 mm", y="50 mm")}))
    arm = draft.part("Arm", "steel", LinkBar())
    draft.revolute("Turns", plate["pivot"], arm["hole_1"])
    block = draft.part(
        "Block", "steel", Block(length="10 mm", width="10 mm", height="5 mm"), x="140 mm", y="20 mm", z="15 mm"
    )
    option = next(c for c in candidates(draft.document, arm["hole_2"], block["axis"], CONTEXT) if c.kind == "held")
    document = apply(draft.document, joined(draft.document, parse(option.command), CONTEXT))
    m = compile(document, CONTEXT)
    pose = solve(m)
    assert m.link_of["block"] == m.link_of["arm"]
    np.testing.assert_allclose(m.part_pose("block", pose)[:3], [0.14, 0.02, 0.015], atol=1e-7)
    turned = poses.compose(pose[m.link_of["arm"]], np.asarray(m.links[m.link_of["arm"]].local["block"]))
    np.testing.assert_allclose(turned, m.part_pose("block", pose), atol=1e-12)
