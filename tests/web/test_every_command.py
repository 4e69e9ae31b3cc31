"""Every command with every path and every kind of JSON value is taken or refused with a reason; none fails otherwise."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.context import CONTEXT
from tests.web.test_hold import client, shelve  # noqa: F401  the fixture, and what puts a document on the shelf
from uhrwerk import Bore, Draft, FramePlate, LinkBar, Pin
from uhrwerk.core.document import Document, ValidationFailed, parse, schema
from uhrwerk.core.document.command import _adapter
from uhrwerk.core.edit.checked_apply import accept
from uhrwerk.core.edit.join import joined
from uhrwerk.demo.gripper_ring import gripper_ring
from uhrwerk.demo.guard_lid import guard_lid

VALUES: list[Any] = [
    None,
    True,
    0,
    -3,
    1.5,
    1e308,
    "",
    "3 mm",
    "x",
    "²",
    [],
    ["a"],
    {},
    {"kind": "pin"},
    {"a": {"b": 1}},
]


def paths(data: Any, at: str = "") -> list[str]:
    """Every path of a document, and one step beyond each."""
    out = []
    if isinstance(data, dict):
        items: Any = data.items()
    elif isinstance(data, list):
        items = enumerate(data)
    else:
        return [f"{at}.more"]
    for key, item in items:
        here = f"{at}.{key}" if at else str(key)
        out += [here, *paths(item, here)]
    return [*out, f"{at}.nothing" if at else "nothing", f"{at}.²" if at else "²"]


def tried(document: Document, command: Any) -> bool:
    """Whether a command is taken; any failure but a refusal with a path and a reason is an error of the test."""
    try:
        parsed = parse(command)
        if command.get("kind") in ("add_joint", "add_relation", "add_pair"):
            parsed = joined(document, parsed, CONTEXT)
        accept(document, parsed)
    except ValidationFailed as error:
        assert error.faults
        assert all(isinstance(path, str) and reason for path, reason in error.faults)
        return False
    return True


@pytest.mark.parametrize("make", [guard_lid, gripper_ring])
def test_every_path_with_every_value(make: Any) -> None:
    document = make()
    every = paths(document.model_dump(mode="json"))
    assert len(every) > 300
    taken = sum(tried(document, {"kind": "set_value", "path": p, "value": v}) for p in every for v in VALUES)
    removed = sum(
        tried(document, {"kind": "remove", "path": p}) for p in [*every, "", ".", "parts", "frame", "parts..element"]
    )
    assert taken > 50
    assert removed > 20


def test_every_field_of_every_command_with_every_value() -> None:
    """From the schema of commands: each field left out, and set to each kind of value."""
    document = guard_lid()
    told = _adapter.json_schema()
    count = 0
    for one in told["$defs"].values():
        kind = one.get("properties", {}).get("kind", {}).get("const")
        if kind not in told["discriminator"]["mapping"]:
            continue
        fields = [f for f in one["properties"] if f != "kind"]
        plain: dict[str, Any] = {"kind": kind} | dict.fromkeys(fields, "x")
        for field in fields:
            for value in VALUES:
                tried(document, plain | {field: value})
                tried(document, {"kind": kind, field: value})
                count += 2
    assert count > 500


def test_every_item_of_the_schema_as_a_new_one() -> None:
    """Each variant of part, joint, relation, pair, repeat, driver and requirement with its fields set to each kind of value."""
    draft = Draft("Small")
    plate, arm = (
        draft.part("Plate", "steel", FramePlate(bores={"bore": Bore(x="40 mm", y="40 mm")})),
        draft.part("Arm", "steel", LinkBar()),
    )
    pin = draft.part("Pin", "steel", Pin())
    turns = draft.revolute("Arm turns", plate["bore"], arm["hole_1"])
    document = draft.document
    base = {"name": "New", "a": plate["top"].model_dump(), "b": pin["axis"].model_dump(), "joint": turns}
    defs = schema()["$defs"]
    seen = 0
    for one in defs.values():
        kind = one.get("properties", {}).get("kind", {}).get("const")
        if kind is None:
            continue
        for what in ("joint", "relation", "pair", "repeat", "driver", "requirement"):
            for field in one["properties"]:
                for value in VALUES[:: 3 if what != "joint" else 1]:
                    item = {k: v for k, v in base.items() if k in one["properties"]} | {"kind": kind, field: value}
                    tried(document, {"kind": f"add_{what}", what: item})
                    seen += 1
        for field in one["properties"]:
            for value in VALUES:
                tried(
                    document,
                    {
                        "kind": "add_part",
                        "part": {"name": "P", "material": "steel", "element": {"kind": kind, field: value}},
                    },
                )
                seen += 1
    assert seen > 2000


def test_over_http_too(client: TestClient) -> None:  # noqa: F811
    document = guard_lid()
    key, revision = shelve(client, document)
    wanted = [
        *({"kind": "remove", "path": p} for p in ("parts", "frame", "joints.x.a", "", "²", "groups.²", "units", "cycle.frames", "name")),
        *({"kind": "set_value", "path": p, "value": v} for p in ("frame", "groups.²", "requirements", "units.length", "parts") for v in VALUES if v != 1e308),
    ]  # fmt: skip
    for command in wanted:
        answer = client.post(f"/api/mechanisms/{key}/commands", json={"revision": revision, "command": command})
        assert answer.status_code in (200, 409, 422), (command, answer.text)
        if answer.status_code == 200:
            revision = answer.json()["revision"]
