"""Docs that are made from the code are what the code makes now."""

from __future__ import annotations

import importlib.util
from pathlib import Path

DOCS = Path(__file__).parent.parent.parent / "docs"


def test_the_elements_page_is_current() -> None:
    spec = importlib.util.spec_from_file_location("elements_page", DOCS / "elements.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    assert (DOCS / "elements.md").read_text(encoding="utf-8") == module.text(), "run: python docs/elements.py"
