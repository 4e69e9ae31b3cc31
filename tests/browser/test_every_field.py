"""Every number, choice and switch of every element: in the catalogue and on the card, by keyboard and by pointer, and its
label leads to its field.
"""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Locator, Page, Route, expect

from tests.browser.by_hand import document, evaluated, revision
from tests.conftest import Server
from uhrwerk.core.elements import ELEMENTS

pytestmark = [
    pytest.mark.browser,
    pytest.mark.without_picture,
    pytest.mark.timeout(300),
    pytest.mark.xdist_group("fields"),
]


def control(page: Page, prefix: str, path: str) -> Locator:
    return page.locator(f'[id="{prefix}{path}"]')


def leads(page: Page, prefix: str, path: str) -> None:
    """Clicking the label puts the focus into the field; clicked again where a verdict arrived and moved it away meanwhile."""
    for _ in range(3):
        page.locator(f'label[for="{prefix}{path}"]').click()
        try:
            expect(control(page, prefix, path)).to_be_focused(timeout=3000)
        except AssertionError:
            continue
        return
    expect(control(page, prefix, path)).to_be_focused(timeout=1000)


def other(field: dict[str, Any]) -> str:
    """A value that differs from the one that is there and fits the others."""
    text = str(field["text"])
    return f"1 * ({text})" if text else "1 mm"


def reached(data: dict[str, Any], path: str) -> Any:
    """What lies in nested data below a path; of a kind that has fields of its own, that kind."""
    for step in path.split("."):
        data = data[step]
    return data["kind"] if isinstance(data, dict) else data


def catalogue_fields(page: Page, server: Server, kind: str) -> list[dict[str, Any]]:
    entries = server.call("GET", "/api/elements").json()
    return [f for f in next(e for e in entries if e["kind"] == kind)["fields"] if f["kind"] != "heading"]


def element_now(page: Page) -> dict[str, Any]:
    """The element that the page would add."""
    return page.evaluate("() => window.Alpine.$data(document.querySelector('.workspace')).elementData()")


@pytest.fixture
def bench(page: Page, server: Server) -> Page:
    page.add_init_script(
        "HTMLCanvasElement.prototype.getContext = () => null;"
    )  # all but the picture works without WebGL
    key = server.call("POST", "/api/mechanisms", json={"name": "Fields"}).json()["id"]
    page.goto(f"{server.url}/mechanisms/{key}")
    evaluated(page)
    return page


@pytest.mark.parametrize("kind", list(ELEMENTS))
def test_every_field_can_be_set(bench: Page, server: Server, kind: str) -> None:
    page, wanted = bench, {}
    fields = catalogue_fields(page, server, kind)
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator(f'[data-element="{kind}"]').first.click()
    if kind == "imported":  # its solid comes with the file that is opened
        expect(page.locator("#import-file")).to_be_visible()
        return
    for n, f in enumerate(fields):
        path = f["path"]
        field = control(page, "f-", path)
        if f["kind"] == "reference":  # there is no other part yet
            continue
        if f["kind"] == "switch":  # by its label, by the pointer, by the keyboard: three times turned
            page.locator(f'label[for="f-{path}"]').click()
            field.click()
            field.press("Space")
            wanted[path] = not f["text"]
            continue
        leads(page, "f-", path)
        if f["kind"] == "kinds":
            wanted[path] = "cycloidal" if path.endswith(".law") else f["text"]
            field.select_option(wanted[path])
            continue
        if f["kind"] == "choice":
            field.press("ArrowDown")
            wanted[path] = field.input_value()
            assert wanted[path] != f["text"] or len(f["options"]) == 1
            field.select_option(wanted[path])
            continue
        wanted[path] = other(f)
        if n % 2:
            page.keyboard.press("Control+a")
            page.keyboard.type(wanted[path])
        else:
            field.fill(wanted[path])
    told = element_now(page)
    for path, value in wanted.items():
        assert str(reached(told, path)) == str(value), path
    expect(page.locator(".element-form .field-error:visible")).to_have_count(0)
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, 2)
    _on_the_card(page, kind, fields)


def test_another_kind_brings_its_own_fields(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator('[data-element="plate_cam"]').first.click()
    control(page, "f-", "outline").select_option(label="Eccentric")
    expect(control(page, "f-", "outline.eccentricity")).to_be_visible()
    expect(control(page, "f-", "outline.lift.out.to")).to_have_count(0)
    control(page, "f-", "outline.eccentricity").fill("6 mm")
    expect(page.locator(".element-form .field-error:visible")).to_have_count(0)
    page.get_by_role("button", name="Add", exact=True).click()
    evaluated(page, 2)
    (part,) = document(page)["parts"].values()
    assert part["element"]["outline"] == {"kind": "eccentric", "eccentricity": "6 mm"}
    kinds = control(page, "c-", f"parts.{next(iter(document(page)['parts']))}.element.outline")
    kinds.select_option(label="Flat face of a sliding follower")
    evaluated(page, 3)
    (part,) = document(page)["parts"].values()
    assert part["element"]["outline"]["kind"] == "sliding_flat"


def test_an_answer_that_comes_late_is_not_that_of_another_kind(bench: Page) -> None:
    """The preview of the first kind is held back until another kind is chosen."""
    page = bench
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)
        if len(held) > 1:
            route.continue_()

    page.route("**/api/elements/preview", hold)
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator('[data-element="plate_cam"]').first.click()
    page.wait_for_function("() => document.querySelector('.element-form')")
    control(page, "f-", "outline").select_option(label="Eccentric")
    held[0].continue_()
    expect(control(page, "f-", "outline.eccentricity")).to_be_visible()
    expect(page.locator(".element-form .field-error:visible")).to_have_count(0)


def _on_the_card(page: Page, kind: str, fields: list[dict[str, Any]]) -> None:
    """The same fields of the part that was made, set back to their defaults, each as a revision."""
    for n, f in enumerate(fields):
        path = f"parts.{next(iter(document(page)['parts']))}.element.{f['path']}"
        field, before = control(page, "c-", path), revision(page)
        if f["kind"] == "reference":
            continue
        if f["kind"] == "switch":
            page.locator(f'label[for="c-{path}"]').click() if n % 2 else (field.focus(), field.press("Space"))
        elif f["kind"] in ("choice", "kinds"):
            leads(page, "c-", path)
            if f["kind"] == "kinds" and not path.endswith(".law"):
                continue  # its own kind is current already
            field.select_option(f["text"])
        else:
            leads(page, "c-", path)
            if n % 2:
                page.keyboard.press("Control+a")
                page.keyboard.type(str(f["text"])) if f["text"] else page.keyboard.press("Delete")
            else:
                field.fill(str(f["text"]))
            field.press("Enter")
        page.wait_for_function(
            "(t) => document.querySelector('.top .num').textContent === t", arg=f"revision {before + 1}"
        )
    made = next(iter(document(page)["parts"].values()))["element"]
    for f in fields:
        assert str(reached(made, f["path"])) == str(f["text"]), f["path"]


@pytest.mark.parametrize("kind", [k for k, e in ELEMENTS.items() if e.blanks])
def test_every_detail_can_be_added_and_its_fields_set(bench: Page, kind: str) -> None:
    """One more bore, post or pin: its fields lead and are set as those of the element."""
    page = bench
    page.get_by_role("button", name="Add from the catalogue").click()
    page.locator(f'[data-element="{kind}"]').first.click()
    for name, blank in ELEMENTS[kind].blanks.items():
        page.get_by_role("button", name=f"Add to {name}").click()
        for key, text in blank.model_dump().items():
            path = f"{name}.{name[:-1]}_1.{key}"
            leads(page, "f-", path)
            control(page, "f-", path).fill(f"1 * ({text})")
            assert element_now(page)[name][f"{name[:-1]}_1"][key] == f"1 * ({text})"
