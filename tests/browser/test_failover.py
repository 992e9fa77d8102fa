"""The failover stage: pull, watch, split the brain, restore; the sweep; the drill sheet."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.by import By

from tests.browser.workbench import Workbench

pytestmark = pytest.mark.browser


def unit(bench: Workbench, name: str) -> str:
    """Return the state of a unit on stage."""
    return bench.find(f"[data-unit={name}]").get_attribute("data-state") or ""


def pull(bench: Workbench, what: str) -> None:
    """Pull a port on stage."""
    bench.find(f"[aria-label='Pull {what}']").click()


def test_pull_the_uplink_and_split_the_brain(bench: Workbench) -> None:
    """gate-b takes over at once and nothing is lost for good; without heartbeats both are active; restored, gate-a is back."""
    bench.open("failover")
    bench.wait(lambda: unit(bench, "gate-a") == "active")
    pull(bench, "gate-a:1")
    bench.wait(lambda: unit(bench, "gate-b") == "active")
    assert "gate-a has more watched ports down (1)" in bench.find("[data-testid=why]").text
    assert bench.find("[data-testid=detect]").text == "at once"
    assert bench.find("[data-testid=sessions]").text == "kept"
    assert int(bench.find("[data-moment=fault]").get_attribute("data-lost") or 0) > 0
    assert bench.find("[data-moment='taken over']").get_attribute("data-lost") == "0"
    bench.find("[aria-label='Restore gate-a:1']").click()
    bench.wait(lambda: unit(bench, "gate-a") == "active" and unit(bench, "gate-b") == "standby")
    pull(bench, "gate-a:7")
    bench.wait(lambda: "gate-a:7" in bench.driver.current_url.replace("%3A", ":"))
    pull(bench, "gate-a:8")
    bench.wait(lambda: unit(bench, "gate-a") == unit(bench, "gate-b") == "active")
    assert "both are active" in bench.find("[data-testid=why]").text
    bench.find("nav").find_element(By.XPATH, ".//*[normalize-space(text())='Cabling']").click()
    bench.wait(lambda: "gate-a:7" in bench.find("[data-testid=what-if]").text)
    bench.driver.back()
    bench.click("Restore everything")
    bench.wait(lambda: unit(bench, "gate-b") == "standby")


def test_every_failure_and_one_on_stage(bench: Workbench) -> None:
    """The sweep finds the hall switch worst; put on stage it has failed there."""
    bench.open("failover")
    bench.find("[role=tab]:nth-of-type(2)").click()
    bench.click("Try every single failure")
    bench.wait(lambda: "single points of failure" in bench.find("[data-testid=swept]").text)
    row = bench.find("[data-failed='hall-sw']")
    assert "tills take cards" in row.text
    row.find_element(By.XPATH, ".//button[contains(., 'on stage')]").click()
    bench.wait(lambda: "tills take cards" in bench.find("[data-testid=lost]").text)


def test_what_was_seen_at_a_drill_is_kept(bench: Workbench) -> None:
    """Entered beside what was expected, it stands in the design as one edit."""
    bench.open("failover")
    bench.find("[role=tab]:nth-of-type(3)").click()
    field = bench.find("[aria-label='Seen at plug']")
    assert "gate-b active, 3 s; sessions kept" in bench.find("[data-step=plug]").text
    field.send_keys("gate-b after 2.7 s")
    bench.click("Keep what was seen")
    bench.wait(lambda: "2 recorded" in bench.find("[aria-label='Drill of gate']").text)
    bench.wait(lambda: bench.find("[aria-label='Seen at plug']").get_attribute("value") == "")
