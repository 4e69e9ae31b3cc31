"""Documents that ask for too much: refused by name in bounded time, while others are served."""

from __future__ import annotations

import io
import json
import time
import zipfile
from collections.abc import Callable
from typing import Any

import pytest

from tests.context import CONTEXT
from uhrwerk import Draft, FramePlate, ValidationFailed
from uhrwerk.core.document import parse, validate, write
from uhrwerk.core.exchange import imported_document
from uhrwerk.core.outlines import EdgeOfFace, Sum
from uhrwerk.core.part import part_datums
from uhrwerk.core.steps import Extrude

pytestmark = pytest.mark.timeout(300)


def plate() -> dict[str, Any]:
    d = Draft("Plate")
    d.part("Plate", "steel", FramePlate())
    return json.loads(write(d.document))


def chain(count: int) -> dict[str, Any]:
    """Parts that are each like the one before."""
    data = plate()
    for k in range(1, count):
        element = {"kind": "like", "part": "plate" if k == 1 else f"p{k - 1}"}
        data["parts"][f"p{k}"] = {"name": f"P{k}", "material": "steel", "element": element}
    return data


def fan(count: int) -> dict[str, Any]:
    """Parts that each take an outline from both parts before them: two to the power of their number ways back to the first."""
    data = plate()
    names = ["plate"]
    for k in range(1, count):
        one, other = names[-1], names[max(0, len(names) - 2)]
        outline = Sum(
            of={
                "a": EdgeOfFace(part=one, face="element.end"),
                "b": EdgeOfFace(part=other, face="element.end", gap="1 mm"),
            }
        )
        step = Extrude(name="Block", outline=outline).model_dump(mode="json")
        data["parts"][f"p{k}"] = {
            "name": f"P{k}",
            "material": "steel",
            "element": {"kind": "blank"},
            "steps": {"block": step},
        }
        names.append(f"p{k}")
    return data


def ring(*counts: int) -> dict[str, Any]:
    """One part repeated, and all of its copies again."""
    d = Draft("Ring")
    d.part("Plate", "steel", FramePlate())
    d.part("Block", "steel", FramePlate(), x="80 mm")
    data = json.loads(write(d.document))
    names = ["block"]
    for turn, count in enumerate(counts):
        data["repeats"][f"r{turn}"] = {"kind": "copy", "name": f"R{turn}", "placed": names[:200], "count": str(count)}
        names = names + [f"{n}__{k}" for n in names[:200] for k in range(2, count + 1)]
    return data


def zipped(document: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mechanism.json", document)
    return out.getvalue()


def keys(count: int) -> bytes:
    return json.dumps(plate() | {f"k{i}": 0 for i in range(count)}).encode()


#: what is sent, under which name, what is said of it, in how many seconds at most
HOSTILE: dict[str, tuple[Callable[[], bytes], str, str, float]] = {
    "an archive that unfolds to 90 MB of JSON": (lambda: zipped(b"[" + b" " * 90_000_000 + b"]"), "x.zip", "unfolds to more than 8 MB", 40),
    "60 MB of JSON": (lambda: b"[" + b"0," * 30_000_000 + b"0]", "x.json", "larger than 8 MB", 40),
    "250,000 unknown keys": (lambda: keys(250_000), "x.json", "more than 100000 values", 40),
    "90,000 unknown keys": (lambda: keys(90_000), "x.json", "no such field", 60),
    "lists in lists": (lambda: b'{"format": 2, "name": ' + b"[" * 900 + b"]" * 900 + b"}", "x.json", "deep", 40),
    "a chain of 499 like parts": (lambda: json.dumps(chain(499)).encode(), "x.json", "40 parts in a row", 40),
    "thirty parts that take from two": (lambda: json.dumps(fan(30)).encode(), "x.json", "2000 build steps", 40),
    "400,000 copies by nested repeats": (lambda: json.dumps(ring(200, 200, 11)).encode(), "x.json", "2000 can be held", 40),
}  # fmt: skip


@pytest.mark.parametrize("case", HOSTILE)
def test_a_document_that_asks_for_too_much_is_refused_by_name(case: str) -> None:
    make, name, words, seconds = HOSTILE[case]
    data, begun = make(), time.monotonic()
    with pytest.raises(ValidationFailed) as refused:
        imported_document(name, data, CONTEXT)
    assert time.monotonic() - begun < seconds
    assert words in str(refused.value)


def test_what_is_just_within_the_limits_is_read() -> None:
    data = chain(38)
    assert len(imported_document("x.json", json.dumps(data).encode(), CONTEXT).parts) == 38
    document = validate(data)
    begun = time.thread_time()
    assert part_datums.recipe(document, "p37")[1]
    assert time.thread_time() - begun < 5
    assert len(validate(fan(12)).parts) == 12


def test_a_circle_of_parts_is_told_with_its_parts_alone() -> None:
    data = fan(6)
    step = data["parts"]["p1"]["steps"]["block"]
    step["outline"]["of"]["a"]["part"] = "p3"
    with pytest.raises(ValidationFailed, match=r"made from one another in a circle: P1, (P2, )?P3$"):
        validate(data)


def test_a_command_holds_no_more_than_a_large_group() -> None:
    with pytest.raises(ValidationFailed, match="more than 30000 values"):
        parse({"kind": "set_value", "path": "name", "value": [0] * 30_001})
