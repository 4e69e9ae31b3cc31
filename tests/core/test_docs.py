"""Docs that are made from the code are what the code makes now."""

from __future__ import annotations

import importlib.util
from pathlib import Path
from types import ModuleType

import pytest

DOCS = Path(__file__).parent.parent.parent / "docs"


def maker(page: str) -> ModuleType:
    """The module that makes a page."""
    spec = importlib.util.spec_from_file_location(f"{page}_page", DOCS / f"{page.replace('-', '_')}.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


@pytest.mark.parametrize("page", ["architecture", "elements", "file-format", "limits"])
def test_a_page_made_from_the_code_is_current(page: str) -> None:
    assert (DOCS / f"{page}.md").read_text(encoding="utf-8") == maker(page).text(), f"run: python docs/{page}.py"


@pytest.mark.parametrize("page", ["answers", "page_state"])
def test_types_of_the_scripts_are_current(page: str) -> None:
    made = maker(page)
    assert made.TARGET.read_text(encoding="utf-8") == made.text(), f"run: python docs/{page}.py"
