"""Docs that are made from the code are what the code makes now."""

from __future__ import annotations

import importlib.util
from pathlib import Path

import pytest

DOCS = Path(__file__).parent.parent.parent / "docs"


@pytest.mark.parametrize("page", ["architecture", "elements", "limits"])
def test_a_page_made_from_the_code_is_current(page: str) -> None:
    spec = importlib.util.spec_from_file_location(f"{page}_page", DOCS / f"{page}.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    assert (DOCS / f"{page}.md").read_text(encoding="utf-8") == module.text(), f"run: python docs/{page}.py"
