"""Every stage and dialog, in both themes, without a violation of WCAG that a machine can find; and the drawings that say more."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.workbench import Workbench
from tests.conftest import ROOT

pytestmark = pytest.mark.browser
AXE = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
PLACES = [
    "cabling",
    "cabling?look=vlans",
    "cabling?look=segments",
    "cabling?step=box",
    "cabling?step=cables",
    "segments",
    "routing",
    "zones",
    "zones?step=rules",
    "zones?step=answers",
    "reach",
    "failover",
    "expectations",
    "history",
    "reach?at=/devices/4",
    "reach?at=/vlans/0",
]


def violations(bench: Workbench) -> list[str]:
    """Return what a machine finds wrong for people who cannot see or point, as `rule: part`; the colours in both themes."""
    bench.driver.execute_script(AXE.read_text())
    still = "const s = document.createElement('style'); s.textContent = '* { transition: none !important }'; document.head.append(s)"
    bench.driver.execute_script(still)  # a colour on its way from one theme to the other is neither's
    return _found(bench, "tidelight", []) + _found(bench, "tidedark", ["color-contrast"])


def _found(bench: Workbench, theme: str, only: list[str]) -> list[str]:
    bench.driver.execute_script("document.documentElement.dataset.theme = arguments[0]", theme)
    found: list[str] = bench.driver.execute_async_script(
        "const done = arguments[arguments.length - 1];"
        "axe.run(document, {resultTypes: ['violations'], ...(arguments[0].length ? {runOnly: arguments[0]} : {})})"
        ".then((r) => done(r.violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.html.slice(0, 160)}`))))",
        only,
    )
    return found


def test_no_stage_shuts_anybody_out(bench: Workbench) -> None:
    """Names, roles, headers and contrasts hold on every stage."""
    wrong = {}
    for place in PLACES:
        bench.open(place)
        bench.wait(lambda: any(h.is_displayed() for h in bench.all("main h1")))
        if found := violations(bench):
            wrong[place] = found[:3]
    assert not wrong, "\n".join(f"{place}: {part}" for place, parts in wrong.items() for part in parts)


DIALOGS = [
    ("reach", "?", "Help"),
    ("reach", "/", "Find"),
    ("reach", "Exposure", "Exposure"),
    ("segments", "New segment", "New segment"),
    ("segments", "New VLAN", "New VLAN"),
    ("routing", "a way out", "A way out to the internet"),
    ("routing", "loopback", "New Loopback"),
    ("zones", "zone", "New Zone"),
    ("history", "Publish", "Publish"),
    ("reach?at=/devices/4/rules/2", "Take it out", "Take a thing out"),
]


def test_no_dialog_shuts_anybody_out(bench: Workbench) -> None:
    """Each opens by its key or button, has a name, and holds as the stages do; Escape closes it."""
    wrong = {}
    for place, by, name in DIALOGS:
        bench.open(place)
        bench.wait(lambda: bench.all("main h1"))
        if len(by) == 1:
            bench.press(by)
        else:
            bench.wait(lambda by=by: opened(bench, by))
        bench.wait(
            lambda name=name: (bench.find("dialog[open]").get_attribute("aria-label") or "").lower() == name.lower()
        )
        bench.wait(lambda: not any("working it out" in e.text for e in bench.all("dialog[open]")))
        if found := violations(bench):
            wrong[f"{place}: {name}"] = found[:3]
        bench.press(Keys.ESCAPE)
        bench.wait(lambda: not bench.all("dialog[open]"))
    assert not wrong, "\n".join(f"{place}: {part}" for place, parts in wrong.items() for part in parts)


def opened(bench: Workbench, words: str) -> bool:
    """Click what opens a dialog, on the stage or the bench side, never on the rail."""
    for button in bench.all("main button, aside button"):
        if words in button.text:
            button.click()
            return True
    return False


def test_the_drawing_says_more_on_demand(bench: Workbench) -> None:
    """VLANs and zones at the ends of cables, then segments and routers only; the choice is in the address."""
    bench.open("cabling")
    bench.wait(lambda: bench.all("[data-line]"))
    assert not bench.all("[data-carried]")
    bench.find("[aria-label='What the drawing tells'] label:nth-child(2)").click()
    bench.wait(lambda: any(e.get_attribute("data-carried") == "T 110,120" for e in bench.all("[data-carried]")))
    assert bench.find("[data-zone=guests]")
    bench.find("[aria-label='What the drawing tells'] label:nth-child(3)").click()
    bench.wait(lambda: len(bench.all("[data-segment]")) == 16)
    assert "look=segments" in bench.driver.current_url
    assert len(bench.all("[data-router]")) == 6
    bench.find("[data-segment=visitors]").click()
    bench.wait(lambda: "at=" in bench.driver.current_url)


def test_single_keys_can_be_turned_off_for_good(bench: Workbench) -> None:
    """And what is not a single key still acts (WCAG 2.1, 2.1.4)."""
    bench.open("reach")
    bench.press("?")
    bench.find("dialog[open] input[type=checkbox]").click()
    bench.press(Keys.ESCAPE)
    bench.wait(lambda: not bench.all("dialog[open]"))
    bench.open("cabling")
    bench.wait(lambda: bench.all("[data-line]"))
    bench.press("/")
    bench.press("5")
    assert not bench.all("dialog[open]")
    assert "/cabling" in bench.driver.current_url
    bench.press(Keys.CONTROL, "k")
    bench.wait(lambda: bench.all("dialog[open]"))
    bench.driver.execute_script("localStorage.clear()")


def test_arrows_leave_one_entry_in_the_history(bench: Workbench) -> None:
    """Back leads to the place before, not through every cell on the way."""
    bench.open("zones")
    bench.click("Reach")
    bench.pair("keepers", "life-support").click()
    bench.wait(lambda: "from=keepers" in bench.driver.current_url)
    for _ in range(3):
        bench.press(Keys.ARROW_RIGHT)
    bench.wait(lambda: "to=life-support" not in bench.driver.current_url)
    bench.driver.back()
    bench.wait(lambda: "from=" not in bench.driver.current_url)
    assert "/reach" in bench.driver.current_url


def test_it_works_at_twice_the_size(bench: Workbench) -> None:
    """At a zoom of 200 % nothing is cut off sideways, the stage has most of the window, and the bench side comes and goes."""
    half = {"width": 640, "height": 400, "deviceScaleFactor": 2, "mobile": False}
    whole = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}
    try:
        bench.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", half)
        bench.driver.refresh()
        for place in PLACES:
            bench.open(place)
            assert bench.driver.execute_script("return document.documentElement.scrollWidth") <= 640, place
            stage = bench.find("main").size
            assert (stage["width"], stage["height"]) >= (500, 300), place
        bench.open("segments")
        assert not bench.all("aside")
        bench.cell(110, "tank-sw", "14").send_keys(Keys.ENTER)
        bench.wait(lambda: bench.find("aside").is_displayed())
        bench.click("Back to the stage")
        bench.wait(lambda: not bench.all("aside"))
    finally:
        bench.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", whole)
