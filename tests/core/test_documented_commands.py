"""Every command and every line of Python that the README and the docs show runs as it stands there."""

from __future__ import annotations

import re
import shlex
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.conftest import ROOT
from uhrwerk.cli import main

DEMO = ROOT / "src/uhrwerk/demo"
PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]
FENCE = re.compile(r"^```(\w*)\n(.*?)^```", re.MULTILINE | re.DOTALL)
#: what stands for FILE, where the command is about something that the foil tucker has not
FILES = {"cutter": "folder.json"}
#: exit codes of commands on the demo as it is shipped: some requirements fail
CODES = {"check": 1}
#: commands that go on until they are stopped; tests of the server start them
SERVERS = {"serve", "demo"}


def blocks(language: str) -> Iterator[str]:
    for page in PAGES:
        yield from (body for kind, body in FENCE.findall(page.read_text(encoding="utf-8")) if kind == language)


def commands() -> list[str]:
    lines = [line.partition(" #")[0].strip() for body in blocks("") for line in body.splitlines()]
    shown = [line.removeprefix("./dev ") for line in lines]
    return sorted({line for line in shown if line.startswith("uhrwerk ")})


@pytest.mark.parametrize("line", commands())
def test_a_command_of_the_docs(line: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("UHRWERK_DATA", str(tmp_path / "data"))
    _, command, *rest = shlex.split(line)
    if command in SERVERS:
        return
    file = DEMO / FILES.get(command, "foil-tucker.json")
    arguments = [str(file) if a == "FILE" else str(ROOT / a) if a.startswith("src/") else a for a in rest]
    monkeypatch.chdir(tmp_path)
    assert main([command, *arguments]) == CODES.get(command, 0)
    if "--to" in rest:
        assert (tmp_path / rest[rest.index("--to") + 1]).stat().st_size > 0


@pytest.mark.parametrize("body", sorted(set(blocks("python"))))
def test_python_of_the_docs(body: str, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.chdir(ROOT)
    exec(compile(body, "docs", "exec"), {})
    assert "overlap" in capsys.readouterr().out


def test_the_guide_lists_every_command(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit):
        main(["--help"])
    known = re.findall(r"^    (\w+)(?: |$)", capsys.readouterr().out, re.MULTILINE)
    guide = (ROOT / "docs/guide.md").read_text(encoding="utf-8")
    listed = re.search(r"`uhrwerk ((?:\w+ \| )+\w+)`", guide)
    assert listed is not None
    assert sorted(listed[1].split(" | ")) == sorted(known)


def test_every_dev_command_of_the_docs_is_one() -> None:
    script = (ROOT / "dev").read_text(encoding="utf-8")
    known = set(re.findall(r"^    (\w+)\) install", script, re.MULTILINE))
    named = {m for page in PAGES for m in re.findall(r"\./dev (\w+)", page.read_text(encoding="utf-8"))}
    assert named
    assert named <= known


def test_every_link_of_the_docs_leads_somewhere() -> None:
    for page in [*PAGES, *sorted((ROOT / "docs/decisions").glob("*.md"))]:
        for target in re.findall(r"\]\(([^)#]+)(?:#[^)]*)?\)", page.read_text(encoding="utf-8")):
            if "://" not in target:
                assert (page.parent / target).exists(), f"{page.name}: {target}"
