"""A person at the workbench, in a real browser against a real server and database."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from anabasis.store import Store
from tests.browser.workbench import Workbench

pytestmark = pytest.mark.browser


def test_break_an_uplink_see_it_named_and_undo(bench: Workbench) -> None:
    """The demo is whole; a tag goes from an uplink; the matrix names layer vlan and the place; undo makes it whole."""
    assert not any(c.get_attribute("data-layer") == "vlan" for c in bench.all("[data-pair]"))
    bench.open("segments")
    assert bench.state(130, "tank-sw", "across") == "tagged"
    bench.cell(130, "tank-sw", "across").send_keys("x")
    assert bench.says("10 pairs closed")
    assert "keepers fell into 2 islands" in bench.consequences
    bench.wait(lambda: "begin here" in bench.find("nav").text)
    bench.click("Reach")
    bench.wait(lambda: bench.verdict("keepers@tank-sw", "life-support") == ("none", "vlan"))
    bench.pair("keepers@tank-sw", "life-support").click()
    bench.wait(lambda: bench.find("[data-testid=layer]").text == "vlan")
    assert "tank-sw:across does not carry VLAN 130" in bench.find("[data-testid=verdict]").text
    assert bench.find("[data-stopped]").get_dom_attribute("href") == "#/devices/6/lags/0"
    bench.find("[data-testid=verdict] button").click()
    bench.wait(lambda: "tank-sw across" in bench.find("aside").text)
    bench.click("Undo")
    assert bench.says("10 pairs opened")
    bench.wait(lambda: bench.verdict("keepers", "life-support") == ("some", "rule"))
    bench.wait(lambda: not any(c.get_attribute("data-layer") == "vlan" for c in bench.all("[data-pair]")))


def test_mend_from_the_finding(bench: Workbench) -> None:
    """The finding on the bench side offers the edit; one click mends it."""
    bench.open("segments")
    bench.cell(130, "hall-sw", "across").send_keys("x")
    bench.wait(lambda: bench.all("[data-finding=island]"))
    bench.click("Mend it")
    assert bench.says("10 pairs opened")
    bench.wait(lambda: not bench.all("[data-finding]"))
    assert bench.state(130, "hall-sw", "across") == "tagged"


def test_switch_a_rule_off(bench: Workbench) -> None:
    """From the profile to the rule, its switch, and the matrix follows at once."""
    bench.open("reach?from=keepers&to=life-support&passing=1")
    point = bench.find("a[href='#/devices/4/rules/2']")
    bench.driver.execute_script(
        "arguments[0].dispatchEvent(new MouseEvent('click', {bubbles: true, cancelable: true}))", point
    )
    bench.wait(lambda: "keepers-watch-water" in bench.find("aside h2").text)
    bench.find("aside [data-key=enabled]").click()
    assert bench.says("3 pairs closed")
    bench.wait(lambda: bench.verdict("keepers", "tank-sensors") == ("none", "rule"))
    bench.driver.refresh()
    assert bench.says("3 pairs closed")
    bench.press(Keys.CONTROL, "z")
    assert bench.says("3 pairs opened")


def test_by_keyboard_alone(bench: Workbench) -> None:
    """Stages by number, cells by arrow, membership by letter, redo, and the finder."""
    bench.press("2")
    bench.find("[role=grid][aria-label='VLANs and ports']")
    bench.cell(120, "tank-sw", "1").click()
    bench.wait(lambda: bench.state(120, "tank-sw", "1") == "tagged")
    bench.press("u")
    bench.wait(lambda: bench.state(120, "tank-sw", "1") == "untagged")
    bench.wait(lambda: bench.state(110, "tank-sw", "1") == "")
    bench.press(Keys.ARROW_UP)
    assert (bench.driver.switch_to.active_element.get_attribute("aria-label") or "").startswith("VLAN 110, tank-sw 1:")
    bench.press(Keys.CONTROL, "z")
    bench.wait(lambda: bench.state(120, "tank-sw", "1") == "tagged")
    bench.driver.find_element(By.TAG_NAME, "body").send_keys(Keys.CONTROL, Keys.SHIFT, "z")
    bench.wait(lambda: bench.state(120, "tank-sw", "1") == "untagged")
    bench.press("/")
    bench.wait(lambda: bench.driver.switch_to.active_element.tag_name == "input")
    bench.press("visitors to life")
    bench.wait(lambda: bench.all("[cmdk-item]") and "visitors → life-support" in bench.all("[cmdk-item]")[0].text)
    bench.press(Keys.ENTER)
    bench.wait(lambda: "visitors → life-support" in bench.find("[aria-label='The pair'] h2").text)
    bench.press("?")
    assert "Ctrl Z" in bench.find("dialog").text
    bench.escape()
    bench.wait(lambda: not bench.all("dialog"))


def test_an_edit_that_is_refused_says_why(bench: Workbench) -> None:
    """An address that is none, typed on the bench side: refused with what is allowed, nothing changed."""
    bench.open("segments?at=/devices/4/lags/0/subinterfaces/0")
    bench.find("aside [data-key=addresses]").send_keys("10.64.130.300/24", Keys.ENTER)
    alert = bench.find("[role=alert]")
    bench.wait(lambda: "10.64.130.300/24" in alert.text)
    assert "Nothing was changed" in alert.text


def test_somebody_else_was_faster(bench: Workbench, store: Store) -> None:
    """The page shows the other's edit by itself, and an edit made meanwhile stands beside it."""
    from tests.conftest import NOON

    bench.open("segments")
    bench.cell(120, "tank-sw", "1")
    store.edit("tidewrack", 1, [{"op": "replace", "path": "/name", "value": "Renamed"}], "Edda", NOON)
    bench.cell(120, "tank-sw", "1").click()
    bench.wait(lambda: "Renamed" in bench.find("header").text)
    bench.wait(lambda: bench.state(120, "tank-sw", "1") == "tagged")


def test_a_question_narrows_the_matrix(bench: Workbench) -> None:
    """Asked for one service, the matrix answers for it; a word that is no service says so."""
    assert bench.verdict("keepers", "life-support") == ("some", "rule")
    bench.click("https")
    bench.wait(lambda: bench.verdict("keepers", "life-support")[0] == "all")
    field = bench.find("#service")
    field.clear()
    field.send_keys("htps", Keys.ENTER)
    bench.wait(lambda: "did you mean 'https'" in bench.find("[role=alert]").text)


def test_both_themes(bench: Workbench) -> None:
    """The theme turns, and is remembered."""
    first = bench.driver.execute_script("return document.documentElement.dataset.theme")
    bench.press("d")
    bench.wait(lambda: bench.driver.execute_script("return document.documentElement.dataset.theme") != first)
    bench.driver.refresh()
    bench.find("main h1")
    bench.wait(lambda: bench.driver.execute_script("return document.documentElement.dataset.theme") != first)
