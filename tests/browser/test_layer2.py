"""Layer 2 at the workbench: the first day's mistakes mended, cells painted, a laptop plugged in, cables moved."""

from __future__ import annotations

from pathlib import Path

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from anabasis.design import load_file
from anabasis.store import Store
from bench.sites import large_site
from tests.browser.workbench import Workbench
from tests.conftest import NOON, ROOT

pytestmark = pytest.mark.browser
FIRST_DAY: Path = ROOT / "demo" / "tidewrack-first-day.yaml"


def click(bench: Workbench, css: str) -> None:
    """Click a part of a drawing."""
    found = bench.find(css)
    bench.driver.execute_script("arguments[0].dispatchEvent(new MouseEvent('click', {bubbles: true}))", found)


def mend(bench: Workbench, code: str) -> None:
    """Mend the first finding of a code from its card, and wait until it is gone."""
    before = len(bench.all(f"[data-finding={code}]"))
    bench.find(f"[data-finding={code}] button:enabled").click()
    bench.wait(lambda: len(bench.all(f"[data-finding={code}]")) < before)


@pytest.fixture
def first_day(bench: Workbench, store: Store) -> Workbench:
    """Return the workbench, open on the house as someone left it."""
    store.create("first-day", load_file(FIRST_DAY).raw, NOON)
    bench.address = bench.address.replace("/d/tidewrack", "/d/first-day")
    bench.open("cabling")
    return bench


def test_the_first_day_is_mended_from_its_findings(first_day: Workbench) -> None:
    """One begins at the foot of the climb: the bundle, then the uplink's tag, the zone, the leases; until nothing breaks."""
    bench = first_day
    bench.wait(lambda: "begin here" in bench.find("nav").text)
    assert bench.find("[data-line='gate-a--tank-sw'][data-state=down], [data-line='tank-sw--gate-a'][data-state=down]")
    mend(bench, "bundle-down")
    bench.wait(lambda: not bench.all("[data-state=down]"))
    bench.click("Segments")
    assert bench.state(130, "tank-sw", "across") == ""
    mend(bench, "island")
    bench.wait(lambda: bench.state(130, "tank-sw", "across") == "tagged")
    for code in (
        "zone-kind",
        "lease-range",
        "route-missing",
        "private-outside",
        "lease-two",
        "default-left",
        "answers-risky",
    ):
        mend(bench, code)
    bench.wait(lambda: "begin here" not in bench.find("nav").text)
    bench.click("Reach")
    assert bench.verdict("recorders", "cameras") == ("some", "rule")
    assert not any(c.get_attribute("data-layer") in ("link", "vlan", "zone") for c in bench.all("[data-pair]"))


def test_a_bundle_is_broken_and_mended(bench: Workbench) -> None:
    """Switched off on the bench side, its line is down and says why; undo brings it back."""
    bench.open("cabling?at=/devices/6/lags/0")
    line = "[data-line='hall-sw--tank-sw']"
    bench.wait(lambda: bench.find(line).get_attribute("data-state") == "up")
    bench.find("aside [data-key=enabled]").click()
    bench.wait(lambda: bench.find(line).get_attribute("data-state") == "down")
    click(bench, f"{line} path")
    bench.wait(
        lambda: (
            "tank-sw:across is disabled" in bench.find("main").text or "far end is disabled" in bench.find("main").text
        )
    )
    bench.click("Undo")
    bench.wait(lambda: bench.find(line).get_attribute("data-state") == "up")


def test_ten_ports_are_painted_in_one_stroke(bench: Workbench) -> None:
    """A drag over ten cells is one edit, and one undo."""
    bench.open("segments")
    start = bench.cell(190, "tank-sw", "to-gate-a")
    row = start.find_element(By.XPATH, "./ancestor::tr")
    cells = row.find_elements(By.CSS_SELECTOR, "[data-spot]")
    first = cells.index(start)
    stroke = cells[first : first + 10]
    hand = ActionChains(bench.driver).move_to_element(stroke[0]).click_and_hold()
    for cell in stroke[1:]:
        hand = hand.move_to_element(cell)
    hand.release().perform()
    bench.wait(lambda: "draft 2" in bench.find("header").text)
    states = [
        c.get_attribute("data-state")
        for c in bench.find("[aria-label^='VLAN 190, tank-sw to-gate-a:']")
        .find_element(By.XPATH, "./ancestor::tr")
        .find_elements(By.CSS_SELECTOR, "[data-spot]")
    ]
    assert states[first : first + 10] == ["tagged"] * 10
    bench.click("Undo")
    bench.wait(lambda: bench.state(190, "tank-sw", "to-gate-a") == "")


def test_many_cells_by_keyboard(bench: Workbench) -> None:
    """Shift and arrows choose, a letter sets all of them at once."""
    bench.open("segments")
    bench.cell(120, "tank-sw", "1").send_keys(Keys.SHIFT, Keys.ARROW_RIGHT)
    bench.press(Keys.NULL, "t")
    bench.wait(lambda: bench.state(120, "tank-sw", "2") == "tagged")
    assert bench.state(120, "tank-sw", "1") == "tagged"


def test_plug_in_before_and_after(bench: Workbench) -> None:
    """The laptop beside the tanks gets an address; without the uplink's tag it gets none, and the reason."""
    place = "segments?at=/devices/6/ports/4"
    bench.open(place)
    bench.click("a laptop")
    bench.wait(lambda: "10.64.130.50" in bench.find("[data-testid=plug]").text)
    assert "recorders" in bench.find("[data-testid=plug]").text
    bench.cell(130, "tank-sw", "across").send_keys("x")
    bench.wait(lambda: "does not carry VLAN 130" in bench.find("[data-testid=plug]").text)
    bench.click("tag 180")
    bench.wait(lambda: "10.64.180.20" in bench.find("[data-testid=plug]").text)


def test_a_cable_is_plugged_in_and_pulled(bench: Workbench) -> None:
    """A free port, then a free port of another box; the line is drawn; pulled, it is gone."""
    bench.open("cabling")
    click(bench, "[data-box=lab-sw]")
    bench.find("[aria-label^='lab-sw:6']").click()
    assert "lab-sw:6" in bench.find("main [role=status]").text
    click(bench, "[aria-label='free port hall-sw:7']")
    click(bench, "[data-line='hall-sw--lab-sw']")
    bench.wait(lambda: "hall-sw:7 — lab-sw:6" in bench.find("main").text)
    bench.click("pull it")
    bench.wait(lambda: not bench.all("[data-line='hall-sw--lab-sw']"))


def test_a_cable_is_led_by_dragging(bench: Workbench) -> None:
    """From box to box: both ends and what it opens are shown, then it is plugged in; a box without a free port says so."""
    bench.open("cabling")
    bench.wait(lambda: bench.all("[data-box=lab-sw]"))
    drag(bench, "[data-box=lab-sw]", "[data-box=hall-sw]")
    ends = [i.get_attribute("value") for i in bench.all("form[aria-label='Plug cables in'] input")]
    assert [e.split(":")[0] for e in ends if e] == ["lab-sw", "hall-sw"]
    button = "form[aria-label='Plug cables in'] button[type=submit]"
    bench.wait(lambda: bench.find(button).is_enabled())
    bench.find(button).click()
    bench.wait(lambda: bench.all("[data-line='lab-sw--hall-sw'], [data-line='hall-sw--lab-sw']"))
    drag(bench, "[data-box=till-1]", "[data-box=hall-sw]")
    assert "no free port" in bench.find("main [role=alert]").text


def drag(bench: Workbench, one: str, two: str) -> None:
    """Press on one thing, move to another, let go there."""
    there = bench.find(two)
    chain = ActionChains(bench.driver).click_and_hold(bench.find(f"{one} rect")).move_by_offset(9, 9)
    chain.move_to_element(there).release().perform()


def test_a_ports_settings_are_copied(bench: Workbench) -> None:
    """Typed as a range, shown before, made as one edit."""
    bench.open("segments?at=/devices/5/ports/0")
    bench.wait(lambda: bench.all("aside summary"))
    next(s for s in bench.all("aside summary") if s.text == "Copy its settings").click()
    bench.find("form[aria-label='Copy its settings'] input").send_keys("4-5")
    bench.wait(lambda: "things changed" in bench.find("[data-testid=preview]").text)
    bench.find("form[aria-label='Copy its settings'] button[type=submit]").click()
    bench.wait(lambda: bench.state(130, "hall-sw", "5") == "untagged")
    assert bench.state(180, "hall-sw", "4") == "tagged"


def test_a_new_vlan_in_one_action(bench: Workbench) -> None:
    """Id, name, subnet by the site's pattern, uplinks, a port: previewed, made, whole; then taken out again."""
    bench.open("segments")
    bench.click("New VLAN")
    fields = bench.all("dialog input")
    fields[0].send_keys(Keys.CONTROL, "a")
    fields[0].send_keys("125")
    fields[1].send_keys("ray-pool")
    bench.wait(lambda: bench.all("dialog input")[2].get_attribute("value") == "10.64.125.0/24")
    bench.find("dialog button[aria-label='tank-sw:to-gate-a']").click()
    bench.all("dialog button[aria-label='tank-sw:2']")[-1].click()
    bench.wait(lambda: "change" in bench.find("[data-testid=preview]").text)
    bench.click("Make it")
    bench.wait(lambda: bench.state(125, "tank-sw", "2") == "untagged")
    bench.open("segments?at=/vlans/14")
    bench.click("Take it out")
    bench.wait(lambda: "3 things lean on it" in bench.find("dialog").text)
    bench.wait(lambda: "change" in bench.find("dialog [data-testid=preview]").text)
    bench.find("dialog .btn-error").click()
    bench.wait(lambda: not bench.all("[aria-label^='VLAN 125,']"))


def test_a_part_is_failed_on_the_drawing_and_restored(bench: Workbench) -> None:
    """A what-if: the partner takes over, what is lost is said, nothing is written into the design."""
    bench.open("cabling")
    bench.wait(lambda: bench.all("[data-box='gate-a']"))
    assert "stands by" in (bench.find("[data-box='gate-b']").get_attribute("aria-label") or "")
    click(bench, "[data-box='gate-a'] rect")
    bench.click("fail it")
    bench.wait(lambda: "has failed" in (bench.find("[data-box='gate-a']").get_attribute("aria-label") or ""))
    assert "stands by" not in (bench.find("[data-box='gate-b']").get_attribute("aria-label") or "")
    bench.wait(lambda: "no reach is lost" in bench.find("[data-testid=what-if]").text)
    assert "No edit yet" in bench.consequences
    bench.click("Restore all")
    bench.wait(lambda: not bench.all("[data-testid=what-if]"))


def test_the_ends_of_a_cable_are_made_alike(first_day: Workbench) -> None:
    """Side by side, the end that lacks the tag is seen, and takes the other's VLANs by one click."""
    bench = first_day
    bench.open("segments")
    bench.click("Both ends of each cable")
    bench.wait(lambda: "tag 130: tank-sw:across does not carry it" in bench.find("main").text)
    bench.click("Make tank-sw:across like the other end")
    bench.wait(lambda: "tag 130" not in bench.find("main").text)
    bench.click("VLANs by port")
    bench.wait(lambda: bench.state(130, "tank-sw", "across") == "tagged")


def test_a_mode_is_switched_and_undone(bench: Workbench) -> None:
    """What goes with it and what is missing is said before, and undo brings all of it back."""
    bench.open("cabling?at=/devices/4/ports/11")
    bench.wait(lambda: bench.all("aside summary"))
    next(s for s in bench.all("aside summary") if s.text == "Switch its mode").click()
    Select(bench.find("form[aria-label='Switch its mode'] select")).select_by_value("routed")
    said = bench.wait(lambda: bench.find("form[aria-label='Switch its mode'] [data-testid=preview]").text)
    assert "inline pair chiller-line" in said
    assert "a zone of kind routed" in said
    bench.find("form[aria-label='Switch its mode'] button[type=submit]").click()
    bench.wait(lambda: not bench.all("[data-line='gate-a--tank-sw'][data-state=inline]"))
    bench.says("closed")
    bench.click("Undo")
    bench.wait(lambda: bench.all("[data-state=inline]"))


def test_a_thousand_ports_scroll(bench: Workbench, store: Store) -> None:
    """Of 1,000 ports and 100 VLANs only what is in sight is drawn, and the last cell is found and set by keyboard."""
    store.create("large", large_site(switches=10, ports=100, vlans=100, rules=0), NOON)
    bench.address = bench.address.replace("/d/tidewrack", "/d/large")
    bench.open("segments")
    first = bench.cell(100, "gate", "up")
    assert len(bench.all("[data-spot]")) < 2500
    bench.driver.execute_script("arguments[0].focus()", first)
    for _ in range(99):
        bench.press(Keys.ARROW_DOWN)
    bench.press(Keys.END)
    columns = int(bench.find("[aria-colcount]").get_attribute("aria-colcount") or 0)
    bench.wait(lambda: bench.driver.switch_to.active_element.get_attribute("data-spot") == f"99 {columns - 2}")
    assert len(bench.all("[data-spot]")) < 2500
