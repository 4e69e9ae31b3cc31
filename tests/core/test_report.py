"""The report and the verdicts for continuous integration: complete, and inert whatever stands in a name."""

from __future__ import annotations

import io
import math
import re
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from lxml import etree
from PIL import Image
from pypdf import PdfReader

from tests.conftest import DEMO, MENDED, ROOT
from tests.mechanisms import four_bar
from uhrwerk import Draft, Evaluator, MassLimit, Pin
from uhrwerk.cli import main
from uhrwerk.core.report import Chart, Figure, Table, as_junit, as_pdf, contents
from uhrwerk.core.report.drawn import chart_svg, figure_svg
from uhrwerk.core.report.plain import plain
from uhrwerk.core.report.scales import extent, ticks
from uhrwerk.core.views import comparison

#: names that a page, a printed page, a spreadsheet or an XML file might take for something else
HOSTILE = ('<script>alert("x")</script>', "</title><b>&amp;&lt;", "=HYPERLINK(1)", "a\u0000b\u001b[31m\uffff\u202e", "{{ 7*7 }}")  # fmt: skip


@pytest.fixture(autouse=True)
def own_data(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("UHRWERK_DATA", str(tmp_path_factory.getbasetemp() / "cli"))


def text_of(data: bytes) -> str:
    return "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(data)).pages)


def hostile(name: str) -> Draft:
    draft = Draft(name)
    draft.part(name, "steel", Pin(diameter="8 mm", length="20 mm"))
    draft.require(MassLimit(name=name, at_most="1 g"))
    draft.set("note", name)
    return draft


def test_a_report_says_every_requirement_part_and_limit(evaluator: Evaluator) -> None:
    e = evaluator.evaluate(_read(DEMO))
    report = contents(e, "revision 7")
    assert [s.title for s in report.sections] == [
        "Mechanism", "Requirements", "Motion", "Curves", "Masses and balance", "Joints, drives and springs", "Parts", "Materials",
        "Assumptions, and what was not checked",
    ]  # fmt: skip
    assert report.summary == "2 of 4 requirements fail."
    data = as_pdf(report)
    words = " ".join(text_of(data).split())
    for text in ("Foil tucker", "revision 7", "0.42 mm deep", "≥ 1.00 mm", "± 0.0220 mm", "≤ 420.0 g", "FAILS"):
        assert text in words, text
    for name in [v.name for v in e.verdicts.values()] + [p.name for p in e.document.parts.values()]:
        assert name in words, name
    for v in e.verdicts.values():
        assert v.basis in words.replace("- ", "-"), v.basis
    figures = [b for s in report.sections for b in s.blocks if isinstance(b, Figure)]
    worst = [f for f in figures if f.marked]
    assert {f.marked for f in worst} == {("plate", "rocker_and_finger")}
    assert as_pdf(report) == data  # nothing in it hangs on when it was written


def _read(path: Path) -> Any:
    from uhrwerk.core.upgrade import read

    return read(path.read_text(encoding="utf-8"))


def test_the_fonts_of_a_pdf_are_embedded(evaluator: Evaluator) -> None:
    reader = PdfReader(io.BytesIO(as_pdf(contents(evaluator.evaluate(_read(DEMO))))))
    fonts = [f.get_object() for page in reader.pages for f in page["/Resources"]["/Font"].values()]
    used = [f for f in fonts if f["/BaseFont"] != "/Helvetica"]
    assert {f["/BaseFont"].partition("+")[2] for f in used} >= {"Commissioner-regular", "Commissioner-semibold"}
    for f in used:
        assert "/FontFile2" in f["/FontDescriptor"].get_object(), f["/BaseFont"]
    for page in reader.pages:  # the one that every writer names beside them is not written with
        plain = [k for k, f in page["/Resources"]["/Font"].items() if f.get_object()["/BaseFont"] == "/Helvetica"]
        drawn = page.get_contents().get_data().decode("latin-1")
        assert not any(re.search(rf"{k} [\d.]+ Tf[^T]*Tj", drawn) for k in plain)


def test_what_changed_since_a_baseline(evaluator: Evaluator) -> None:
    before, after = _read(DEMO), _read(MENDED)
    was, now = evaluator.evaluate(before), evaluator.evaluate(after)
    report = contents(now, "", ("the first draft", comparison(before, after, was, now)))
    section = next(s for s in report.sections if s.title == "Changes since the first draft")
    tables = [b for b in section.blocks if isinstance(b, Table)]
    assert ["Rocker clears post", "failed 0.42 mm deep"] in [r[:2] for r in tables[0].rows]
    assert len(tables) == 2


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_names_are_inert(evaluator: Evaluator, name: str) -> None:
    e = evaluator.evaluate(hostile(name).document)
    clean = plain(e.document.name)
    report = contents(e, name)
    flat = re.sub(r"\s", "", text_of(as_pdf(report)))
    assert re.sub(r"\s", "", clean) in flat
    for block in (b for s in report.sections for b in s.blocks):
        if isinstance(block, Figure | Chart):
            svg = etree.fromstring((figure_svg if isinstance(block, Figure) else chart_svg)(block).encode())  # type: ignore[operator]
            assert {etree.QName(x).localname for x in svg.iter()} <= {"svg", "title", "g", "path", "text"}
    suite = ElementTree.fromstring(as_junit(e))[0]
    assert suite.get("name") == clean
    assert [c.get("name") for c in suite] == ["Motion over the whole cycle", clean]


def test_junit_follows_its_schema_and_counts(evaluator: Evaluator, tmp_path: Path) -> None:
    schema = etree.XMLSchema(etree.parse(ROOT / "tests/formats/junit-10.xsd"))
    path = tmp_path / "verdicts.xml"
    assert main(["check", str(DEMO), "--junit", str(path)]) == 1
    suite = etree.parse(path)
    assert schema.validate(suite), schema.error_log
    one = suite.getroot()[0]
    assert (one.get("tests"), one.get("failures"), one.get("errors")) == ("5", "2", "0")
    failing = {c.get("name"): c[0].get("message") for c in one if len(c) and c[0].tag == "failure"}
    assert set(failing) == {"Nothing overlaps", "Rocker clears post"}
    assert "overlap by 0.4" in failing["Rocker clears post"]
    assert main(["check", str(MENDED), "--junit", str(path)]) == 0
    assert schema.validate(etree.parse(path))


def test_a_mechanism_that_stops_at_a_dead_point_fails(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    """A crank longer than the chain can follow: exit code 1, a failure and not an error."""
    from uhrwerk.core.document import write

    file, path = tmp_path / "stops.json", tmp_path / "verdicts.xml"
    file.write_text(write(four_bar(0.05, 0.06, 0.05, 0.1)), encoding="utf-8")
    assert main(["check", str(file), "--junit", str(path)]) == 1
    suite = ElementTree.parse(path).getroot()[0]
    assert (suite.get("failures"), suite.get("errors")) == ("1", "0")
    assert "dead point" in str(suite[0][0].get("message"))


def test_the_command_writes_a_report(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "report.pdf"
    assert main(["report", str(MENDED), "--to", str(path), "--since", str(DEMO)]) == 0
    words = " ".join(text_of(path.read_bytes()).split())
    assert "All 4 requirements hold." in words
    assert f"Changes since {DEMO.name}" in words
    assert main(["report", str(MENDED), "--to", str(tmp_path / "report.doc")]) == 2
    assert "a report is written as .pdf" in capsys.readouterr().err


def test_pictures_of_a_moment_and_of_a_cycle(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    small = ["--width", "160", "--height", "100"]
    assert main(["picture", str(DEMO), "--to", str(tmp_path / "still.svg"), "--view", "top", *small]) == 0
    svg = etree.parse(tmp_path / "still.svg").getroot()
    assert svg.get("viewBox") == "0 0 160 100"
    assert {g.get("data-part") for g in svg} >= {"plate", "rocker_and_finger", "coupler"}
    assert main(["picture", str(DEMO), "--to", str(tmp_path / "film.png"), "--frames", "3", *small]) == 0
    films = [Image.open(tmp_path / f"film{k:04}.png").convert("L") for k in (1, 2, 3)]
    assert {f.size for f in films} == {(160, 100)}
    assert len({f.tobytes() for f in films}) == 3
    assert all(0.01 < 1 - sum(f.tobytes()) / 255 / 16000 < 0.5 for f in films)
    assert main(["picture", str(DEMO), "--to", str(tmp_path / "still.gif")]) == 2
    assert main(["picture", str(DEMO), "--to", str(tmp_path / "late.svg"), "--at", "9", *small]) == 2
    assert "there is no moment 9 s" in capsys.readouterr().err


@pytest.mark.parametrize(("low", "high"), [(0.0, 1.0), (-3e-4, 5e-5), (1e6, 1.00001e6), (-40.0, 3000.0)])
def test_ticks_are_round_and_within(low: float, high: float) -> None:
    values = ticks(low, high)
    assert 1 <= len(values) <= 5
    assert all(low <= v <= high for v in values)
    if len(values) > 1:
        step = values[1] - values[0]
        assert any(math.isclose(step, k * 10.0 ** round(math.log10(step / k)), rel_tol=1e-6) for k in (1, 2, 5))
    a, b = extent([low, high])
    assert a < low < high < b
