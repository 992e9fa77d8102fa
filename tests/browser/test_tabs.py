"""Ten tabs in one browser, of one design or of ten: none waits for a connection, all hear of an edit, and the stream passes on when its holder goes."""

from __future__ import annotations

from collections.abc import Iterator
from time import sleep

import pytest

from anabasis.design import Loaded
from anabasis.store import Store
from tests.browser.workbench import Workbench
from tests.conftest import NOON


@pytest.fixture
def ten(bench: Workbench) -> Iterator[Workbench]:
    """Return the workbench in ten tabs, the last one in front; one is left afterwards."""
    driver = bench.driver
    first = driver.current_window_handle
    for _ in range(9):
        driver.switch_to.new_window("tab")
        bench.open("segments")
        bench.wait(lambda: bench.all("[data-testid=vlan-grid]"))
    yield bench
    for handle in driver.window_handles:
        if handle != first:
            driver.switch_to.window(handle)
            driver.close()
    driver.switch_to.window(first)


def test_ten_tabs_edit_and_hear(ten: Workbench) -> None:
    """An edit in the last is answered, and seen in every other; with the first tab gone, still."""
    driver = ten.driver
    tabs = driver.window_handles
    ten.cell(130, "tank-sw", "across").send_keys("x")
    assert ten.says("10 pairs closed")
    for tab in tabs[:-1]:
        driver.switch_to.window(tab)
        ten.wait(lambda: "draft 2" in ten.find("header").text)
    driver.switch_to.window(tabs[0])
    driver.get("about:blank")
    driver.switch_to.window(tabs[-1])
    ten.click("Undo")
    ten.wait(lambda: "draft 3" in ten.find("header").text)
    driver.switch_to.window(tabs[1])
    ten.wait(lambda: "draft 3" in ten.find("header").text)


def test_ten_tabs_of_ten_designs(bench: Workbench, store: Store, demo: Loaded) -> None:
    """A browser has six connections; all ten answer, each hears of its own design, and the first of them can go."""
    driver, first = bench.driver, bench.driver.current_window_handle
    home = bench.address
    try:
        for n in range(10):
            store.create(f"tab-{n}", demo.raw, NOON)
            if n > 0:
                driver.switch_to.new_window("tab")
            bench.address = home.replace("/d/tidewrack", f"/d/tab-{n}")
            driver.get(f"{bench.address}/expectations")
            bench.wait(lambda: bench.all("[data-testid=summary]"))
        tabs = driver.window_handles
        for n in (9, 4, 1):
            store.edit(f"tab-{n}", 1, [{"op": "replace", "path": "/note", "value": "seen"}], "Edda", NOON)
            driver.switch_to.window(tabs[n])
            bench.wait(lambda: "draft 2" in bench.find("header").text)
        driver.switch_to.window(tabs[2])
        assert "draft 1" in bench.find("header").text
        driver.switch_to.window(tabs[0])
        driver.get("about:blank")  # the one that held the stream
        driver.switch_to.window(tabs[3])
        bench.wait(lambda: "draft 1" in bench.find("header").text)
        sleep(0.5)
        store.edit("tab-3", 1, [{"op": "replace", "path": "/note", "value": "seen"}], "Edda", NOON)
        bench.wait(lambda: "draft 2" in bench.find("header").text)
    finally:
        bench.address = home
        for handle in driver.window_handles:
            if handle != first:
                driver.switch_to.window(handle)
                driver.close()
        driver.switch_to.window(first)
