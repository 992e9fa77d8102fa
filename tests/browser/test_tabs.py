"""Ten tabs of one design in one browser: none waits for a connection, all hear of an edit, and the stream passes on when its holder goes."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from tests.browser.workbench import Workbench


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
