"""Docs that are made from the code are what the code makes now."""

from __future__ import annotations

import importlib.util
from pathlib import Path
from types import ModuleType

import pytest

from uhrwerk.core.elements import ELEMENTS
from uhrwerk.core.joints import JOINTS, PAIRS, RELATIONS
from uhrwerk.core.requirements import REQUIREMENTS
from uhrwerk.core.steps import STEPS

DOCS = Path(__file__).parent.parent.parent / "docs"
PICTURES = DOCS.parent / "src/uhrwerk/web/static/pictures"


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


def test_every_kind_in_a_list_has_its_picture() -> None:
    symbols = maker("symbols").SYMBOLS
    kinds = {"joint": JOINTS, "relation": {*RELATIONS, "corners", "holes"}, "pair": PAIRS, "requirement": REQUIREMENTS}
    assert {sort: set(paths) for sort, paths in symbols.items()} == {sort: set(k) for sort, k in kinds.items()}
    for sort, all_of_it in (kinds | {"element": ELEMENTS, "step": STEPS}).items():
        for kind in all_of_it:
            picture = (PICTURES / f"{sort}-{kind}.svg").read_text(encoding="utf-8")
            assert symbols.get(sort, {}).get(kind, "") in picture, "run: python docs/pictures.py"
