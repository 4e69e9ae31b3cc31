"""Headless Chromium from Debian, driving the real page; foreign requests and errors on the page fail the test."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from typing import Any
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, TimeoutError, expect, sync_playwright

from tests.conftest import KEY

SWITCHES = [
    "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--no-sandbox", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--no-first-run", "--disable-quic", "--disable-gpu-rasterization", "--disable-gpu-compositing",
    "--disable-gpu-watchdog",  # it ends a software renderer that a busy machine lets wait
]  # fmt: skip

#: what the driver of the browser switches off already, named again since the last list counts; and the window's own
#: address field, a page of its own in each window, which nobody sees
WITHOUT = [
    "AvoidUnnecessaryBeforeUnloadCheckSync", "DestroyProfileOnBrowserClose", "HttpsUpgrades", "HttpsFirstBalancedModeAutoEnable",
    "LensOverlay", "MediaRouter", "PaintHolding", "ThirdPartyStoragePartitioning", "OptimizationHints",
    "NetworkTimeServiceQuerying", "AimEnabled", "PreconnectToSearch", "WebUIOmniboxPopup", "WebUIOmniboxAimPopup",
]  # fmt: skip
SWITCHES.append(f"--disable-features={','.join(WITHOUT)}")

#: it does not look for names and passwords to fill in: it would parse every form of the page after each change
PREFERENCES = {
    "autofill": {"enabled": False, "profile_enabled": False, "credit_card_enabled": False},
    "credentials_enable_service": False,
}

#: what the browser writes where a stream of events breaks: the page opens it again
BROKEN = (
    "ERR_INCOMPLETE_CHUNKED_ENCODING",
    "ERR_CONNECTION_RESET",
    "ERR_EMPTY_RESPONSE",
    "ERR_INTERNET_DISCONNECTED",
    "ERR_NETWORK_CHANGED",
)

#: half as fine as a usual one: a quarter of the picture for the software renderer to compute
SCREEN: dict[str, Any] = {"viewport": {"width": 1280, "height": 800}, "device_scale_factor": 0.5}

#: a browser that draws no solids: the page does all but the picture there
WITHOUT_PICTURE = """{
    const context = HTMLCanvasElement.prototype.getContext;
    HTMLCanvasElement.prototype.getContext = function (kind, ...more) {
        return kind.startsWith("webgl") ? null : context.call(this, kind, ...more);
    };
}"""

# a software renderer on two busy cores: what is awaited comes, but not always within the usual five seconds
PATIENCE = int(os.environ.get("UHRWERK_TEST_PATIENCE", "180000"))
expect.set_options(timeout=PATIENCE)


@pytest.fixture(scope="session")
def context(tmp_path_factory: pytest.TempPathFactory) -> Iterator[BrowserContext]:
    """One window for all tests: scripts are read once."""
    profile = tmp_path_factory.mktemp("browser")
    (profile / "Default").mkdir()
    (profile / "Default/Preferences").write_text(json.dumps(PREFERENCES))
    with sync_playwright() as playwright:
        context = playwright.chromium.launch_persistent_context(
            profile, executable_path="/usr/bin/chromium", args=SWITCHES, timeout=120_000, **SCREEN
        )
        yield context
        context.close()


@pytest.fixture(scope="session")
def browser(context: BrowserContext) -> Browser:
    assert context.browser
    return context.browser


@pytest.fixture
def page(context: BrowserContext, request: pytest.FixtureRequest) -> Iterator[Page]:
    context.set_offline(False)  # as a test that failed may have left it
    page = context.new_page()
    page.set_default_timeout(PATIENCE)
    if request.node.get_closest_marker("without_picture"):
        page.add_init_script(WITHOUT_PICTURE)
    without_key = page.goto

    def goto(url: str, **more: Any) -> Any:
        """As somebody who has opened the address with the key before."""
        context.add_cookies(
            [{"name": f"uhrwerk_{urlsplit(url).port}", "value": KEY, "domain": "127.0.0.1", "path": "/"}]
        )
        return without_key(url, **more)

    page.goto = goto  # type: ignore[method-assign]
    wrong: list[
        str
    ] = []  # a server that stops at the end of a test may still be asked: that refusal is none of the page's
    page.on(
        "pageerror",
        lambda error: None if "server does not answer" in str(error) else wrong.append(f"error on the page: {error}"),
    )
    page.on(
        "console",
        lambda m: (
            wrong.append(f"console: {m.text}")
            if m.type == "error" and not any(k in m.text for k in ("status of 4", "ERR_CONNECTION_REFUSED", *BROKEN))
            else None
        ),
    )
    page.on(
        "request",
        lambda r: (
            wrong.append(f"foreign request: {r.url}")
            if not r.url.startswith(("http://127.0.0.1:", "data:", "blob:"))
            else None
        ),
    )
    yield page
    if os.environ.get("UHRWERK_TEST_PICTURE"):  # how the page looked when the test ended
        page.screenshot(path=os.environ["UHRWERK_TEST_PICTURE"])
    page.close()
    assert wrong == []


def evaluated(page: Page, revision: int | None = None) -> None:
    """Waits until the page shows the evaluated current revision; where one is given, until that is the one."""
    try:
        page.wait_for_function(
            """(wanted) => {
                const root = document.querySelector(".workspace"), said = document.querySelector(".top .num")?.textContent;
                const at = root?.dataset.evaluated;
                return at && said === `revision ${at}` && (wanted === null || Number(at) === wanted);
            }""",
            arg=revision,
            timeout=PATIENCE,
            polling=100,  # ms: frames may stand still while nothing is drawn
        )
    except TimeoutError as error:
        words = page.locator("body").inner_text(timeout=5000)
        raise AssertionError(f"revision {revision} was not evaluated; the page says:\n{words}") from error
