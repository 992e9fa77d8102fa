"""One browser and one server a session; each test gets the demo anew."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from selenium.webdriver import Chrome

from anabasis.design import Loaded
from anabasis.store import Store
from ops.browser import as_desk, chromium
from ops.serving import enter, serving
from tests.browser.workbench import Workbench
from tests.conftest import NOON


@pytest.fixture(scope="session")
def browser() -> Iterator[Chrome]:
    """Return a headless Chromium."""
    driver = chromium()
    yield driver
    driver.quit()


@pytest.fixture(autouse=True)
def desk(browser: Chrome) -> None:
    """Leave a test nothing of the one before: the size of the page, its network, what it logged."""
    as_desk(browser)
    browser.get_log("browser")


@pytest.fixture
def bench(browser: Chrome, store: Store, demo: Loaded) -> Iterator[Workbench]:
    """Return the workbench, open on the demo; a page that logged an error fails its test."""
    store.create("tidewrack", demo.raw, NOON)
    with serving(store) as address:
        browser.get(enter(store, address))
        found = Workbench(browser, f"{address}/d/tidewrack")
        found.open("reach")
        yield found
        logged = [e["message"] for e in browser.get_log("browser") if e["level"] == "SEVERE"]
        errors = [m for m in logged if not any(f"status of {s}" in m for s in (404, 412, 422))]
        browser.get("about:blank")
    assert not errors
