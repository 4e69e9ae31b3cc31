"""The public Python API: short names for large things, a result as a notebook shows it, no worker left behind."""

from __future__ import annotations

import io
import subprocess
import sys
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest

import uhrwerk
from tests.conftest import DEMO
from uhrwerk import Bore, Draft, FramePlate, Result
from uhrwerk.progress import Progress


@pytest.fixture(scope="module")
def result() -> Result:
    return uhrwerk.check(uhrwerk.load(DEMO))


def test_what_is_large_has_a_short_name(result: Result) -> None:
    assert repr(result) == "<Result of 'Foil tucker': 2 of 4 requirements hold>"
    assert repr(result.stated).startswith("<Document 'Foil tucker': ")
    for part in (result, result.stated, result.compiled, result.movement, result.built, result.swept):
        assert len(repr(part)) < 300


def test_a_notebook_shows_scheme_and_verdicts(result: Result) -> None:
    html = result._repr_html_()
    assert html.count("<tr>") == 5
    assert "<td>fails</td><td>Rocker clears post</td>" in html
    svg = ET.fromstring(result._repr_svg_())
    assert len(svg.findall(".//{*}circle")) >= 4
    assert len(svg.findall(".//{*}path")) >= 3


def test_names_are_inert_in_a_notebook() -> None:
    draft = Draft("<script>alert(1)</script>")
    draft.part("<img src=x>", "steel", FramePlate(bores={"b": Bore(x="10 mm", y="10 mm")}))
    html = uhrwerk.check(draft.document)._repr_html_()
    assert "<script" not in html
    assert "<img" not in html


def test_what_was_checked_can_be_exported_afterwards(result: Result, tmp_path: Path) -> None:
    """The evaluator of `check` has ended by then; the kernel is started again."""
    for name in ("all.step", "parts.csv", "all.zip"):
        uhrwerk.export(result, tmp_path / name)
        assert (tmp_path / name).stat().st_size > 100


def test_no_worker_is_left_behind() -> None:
    code = f"""
import subprocess, os, uhrwerk
uhrwerk.check(uhrwerk.load({str(DEMO)!r}))
left = subprocess.run(["ps", "-o", "pid=,args=", "--ppid", str(os.getpid())], capture_output=True, text=True).stdout
print(len([l for l in left.splitlines() if "nurse" in l]))
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=120, check=True)
    assert int(done.stdout) <= 1  # the nursery itself, which holds no worker and ends with this process


class Terminal(io.StringIO):
    def isatty(self) -> bool:
        return True


def test_progress_is_said_after_a_second_and_cleared(monkeypatch: pytest.MonkeyPatch) -> None:
    now = [0.0]
    monkeypatch.setattr("uhrwerk.progress.time.monotonic", lambda: now[0])
    for to, shown in ((Terminal(), "\r\x1b[K 50% solids: 3 of 6\r\x1b[K"), (io.StringIO(), " 50% solids\n")):
        now[0] = 0.0
        with Progress(to) as progress:
            progress("motion", 0.1)
            now[0] = 1.2
            progress("solids: 3 of 6", 0.5)
            progress("solids: 4 of 6", 0.6)
        assert to.getvalue() == shown
