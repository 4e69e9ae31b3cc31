"""Requests made from the API's own description, with values that fit it and values that do not (schemathesis, with a fixed seed): no
answer of 500, none without words, none that takes long, and the server is never restarted.

`UHRWERK_TEST_EXAMPLES=70 UHRWERK_TEST_SLOWEST=5` makes so many that fit and so many that do not of each call: ten thousand in all.
"""

from __future__ import annotations

import os
import zlib
from collections import Counter
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis.errors import Unsatisfiable
from schemathesis import GenerationMode

from tests.conftest import BEARER, Server
from tests.nursery import Nursery

EXAMPLES = int(os.environ.get("UHRWERK_TEST_EXAMPLES", "3"))
#: s that an answer may take: on an idle machine, and beside other tests
SLOWEST = float(os.environ.get("UHRWERK_TEST_SLOWEST", "60"))
#: what is there, so that not every request is for something that is not
KNOWN = {
    "mechanism": ["pusher", "foil_tucker"], "revision": [1, 1, 1, 2, -1], "other": [1, 2], "requirement": ["nothing_overlaps", "return_is_quick"],
    "placed": ["plate", "crank_disc"], "name": ["x.json", "x.step", "x.zip"], "element": ["spur_gear", "shaft"],
}  # fmt: skip


@schemathesis.hook
def map_path_parameters(context: Any, path_parameters: dict[str, Any] | None) -> dict[str, Any] | None:
    """Most paths name what is there; what is deleted is never the mechanisms that the others need."""
    if not path_parameters or (context.operation.method, context.operation.path) == (
        "delete",
        "/api/mechanisms/{mechanism}",
    ):
        return path_parameters
    out = dict(path_parameters)
    for name, value in path_parameters.items():
        chance = zlib.crc32(repr(value).encode())
        if name in KNOWN and chance % 5:
            out[name] = KNOWN[name][chance // 5 % len(KNOWN[name])]
    return out


@pytest.fixture
def server(tmp_path: Path, nursery: Nursery, solids: Path) -> Iterator[Server]:
    (tmp_path / "data").mkdir()
    (tmp_path / "data" / "solids").symlink_to(solids)
    made = Server(tmp_path / "data", demo=True, nursery=nursery)
    for mechanism in ("pusher", "foil_tucker"):  # so that nobody waits for the first evaluation
        made.view(mechanism, 1)
    yield made
    made.stop()


def wrong(case: schemathesis.Case, answer: Any) -> str:
    """What is wrong with an answer; nothing where nothing is."""
    if answer.status_code >= 500 and answer.status_code != 503:
        return f"{answer.status_code}: {answer.text[:300]}"
    if answer.elapsed > SLOWEST:
        return f"{answer.elapsed:.1f} s"
    if "default-src 'none'" not in str(answer.headers["content-security-policy"]):
        return "without the headers"
    if answer.status_code >= 400 and case.operation.path.startswith("/api/") and not answer.json().get("error"):
        return f"without words: {answer.text[:300]}"
    return ""


#: so many parts share the calls between them
PARTS = 4


@pytest.mark.timeout(7200)
@pytest.mark.parametrize("part", range(PARTS))
def test_no_request_breaks_the_server(server: Server, part: int) -> None:
    api = schemathesis.openapi.from_url(f"{server.url}/openapi.json", headers=BEARER)
    faults, statuses = [], Counter[int]()
    for operation in list(api.get_all_operations())[part::PARTS]:
        for mode in GenerationMode:

            @settings(
                max_examples=EXAMPLES, derandomize=True, deadline=None, database=None, phases=[Phase.generate],
                suppress_health_check=list(HealthCheck),
            )  # fmt: skip
            @given(case=operation.ok().as_strategy(generation_mode=mode))
            def asked(case: schemathesis.Case) -> None:
                answer = case.call(headers=BEARER, timeout=120)
                statuses[answer.status_code] += 1
                if fault := wrong(case, answer):
                    faults.append(f"{case.method} {case.formatted_path}: {fault}")

            with suppress(Unsatisfiable):  # a call of which everything is allowed
                asked()
    print(sum(statuses.values()), "requests, answers:", dict(sorted(statuses.items())))
    assert faults == []
    assert server.call("GET", "/").status_code == 200  # the same process: it was never started again
