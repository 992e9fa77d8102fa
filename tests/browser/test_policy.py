"""Layer 3 and the policy at the workbench: a way back given, rules reordered with their consequences, a segment made in one go."""

from __future__ import annotations

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from anabasis.design import load_file
from anabasis.store import Store
from tests.browser.workbench import Workbench
from tests.conftest import NOON, ROOT

pytestmark = pytest.mark.browser
FIRST_DAY = ROOT / "demo" / "tidewrack-first-day.yaml"


def entries(bench: Workbench) -> list[str]:
    """Return the names in the ordered list on screen."""
    return [e.get_attribute("data-entry") or "" for e in bench.all("[data-entry]")]


def fill(bench: Workbench, css: str, text: str) -> None:
    """Type into a field in the place of what stands there, and leave it."""
    field = bench.find(css)
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text)
    field.send_keys(Keys.TAB)


def test_the_lab_gets_its_way_back_from_the_finding(bench: Workbench, store: Store) -> None:
    """The table of lab-sw has no default route; mending the finding puts it there, and keepers reach the lab."""
    store.create("first-day", load_file(FIRST_DAY).raw, NOON)
    bench.address = bench.address.replace("/d/tidewrack", "/d/first-day")
    bench.open("routing?box=lab-sw")
    assert bench.find("[data-route='10.64.170.0/24']")
    assert not bench.all("[data-route='0.0.0.0/0']")
    bench.find("[data-finding=route-missing] button").click()
    assert bench.find("[data-route='0.0.0.0/0']").get_attribute("data-state") == "in force"
    bench.wait(lambda: not bench.all("[data-finding=route-missing]"))
    bench.open("reach")
    assert bench.verdict("keepers@hall-sw", "lab")[0] == "some"


def test_which_route_wins(bench: Workbench) -> None:
    """The partner's archive is looked up in one VRF, and leaves by another; the losers say why."""
    bench.open("routing")
    fill(bench, "[aria-label='Which route wins for this address']", "203.0.113.70")
    bench.wait(lambda: "leaves by 9 (zone reef)" in bench.find("[data-testid=lookup]").text)
    assert "shorter than" in bench.find("[aria-label='VRF main'] [data-route='0.0.0.0/0']").text
    fill(bench, "[aria-label='Which route wins for this address']", "10.64.130")
    bench.wait(lambda: "no address" in bench.find("[data-testid=lookup]").text)
    bench.click("Interfaces and leases")
    assert "149 to hand out" in bench.find("[data-strip='hall.130']").text


def test_a_rule_is_moved_and_its_consequences_read_before_letting_go(bench: Workbench) -> None:
    """With the keyboard: Space lifts, arrows move, the foot says what would open and close; Escape leaves all as it was, Space does it."""
    bench.open("zones?zones=guests>street")
    bench.find("[data-entry=guests-out]")
    bench.open("zones")
    handle = bench.find("[aria-label='Move keepers-drive-pumps']")
    first = entries(bench)
    assert first.index("keepers-drive-pumps") == 3
    bench.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", handle)
    handle.send_keys(Keys.SPACE)
    bench.wait(lambda: bench.all("[data-testid=if-let-go]"))
    bench.press(Keys.ARROW_DOWN)
    bench.wait(lambda: "nothing opens or closes" in bench.find("[data-testid=if-let-go]").text)
    bench.press(Keys.ESCAPE)
    bench.wait(lambda: not bench.all("[data-testid=if-let-go]"))
    assert entries(bench) == first


def test_two_rules_reordered_with_the_mouse(bench: Workbench, store: Store) -> None:
    """A drop that would stand above what lets keepers out says so while it is held, and closes it when it is let go."""
    raw = load_file(ROOT / "demo" / "tidewrack.yaml").raw
    raw["devices"][4]["rules"].append(
        {"name": "no-web", "from": ["house"], "to": ["street"], "services": ["http"], "action": "drop"}
    )
    store.create("two-rules", raw, NOON)
    bench.address = bench.address.replace("/d/tidewrack", "/d/two-rules")
    bench.open("zones?zones=house>street")
    bench.wait(lambda: entries(bench) == ["keepers-out", "no-web"])
    assert "decides nothing" in bench.find("[data-entry=no-web]").text
    grip, goal = bench.find("[aria-label='Move no-web']"), bench.find("[aria-label='Move keepers-out']")
    ActionChains(bench.driver).click_and_hold(grip).move_by_offset(0, -10).perform()
    bench.find("[data-testid=if-let-go]")
    ActionChains(bench.driver).move_to_element(goal).perform()

    def over_the_goal() -> str:
        """Go on moving, as a hand does, until the list has seen where it is."""
        ActionChains(bench.driver).move_by_offset(0, -1).pause(0.2).move_by_offset(0, 1).perform()
        return next((e.text for e in bench.all("[data-testid=if-let-go]") if "closed" in e.text), "")

    said = bench.wait(over_the_goal)
    assert "keepers → internet: closes http" in said
    assert "draft 1" in bench.find("header").text
    ActionChains(bench.driver).release().perform()
    bench.wait(lambda: entries(bench) == ["no-web", "keepers-out"])
    bench.wait(lambda: "closed" in bench.find("footer").text)
    bench.find("body").send_keys(Keys.CONTROL, "z")
    bench.wait(lambda: entries(bench) == ["keepers-out", "no-web"])


def test_octopus_den_in_one_go(bench: Workbench) -> None:
    """A name, a purpose and a port; VLAN, tags, interface, leases and answers follow, and a laptop finds its way."""
    bench.open("segments")
    bench.click("New segment")
    bench.find("dialog input")
    fields = bench.all("dialog input")
    fields[0].send_keys("octopus-den")
    fields[1].send_keys(Keys.CONTROL, "a")
    fields[1].send_keys("125")
    for at, text in ((1, "tank"), (2, "water")):
        Select(bench.all("dialog select")[at]).select_by_visible_text(text)
    bench.find("dialog button[aria-label='tank-sw:4']").click()
    bench.wait(lambda: "octopus-den-basics" in bench.find("dialog [data-testid=preview]").text)
    make = bench.wait(lambda: next((b for b in bench.all("dialog button[type=submit]") if b.is_enabled()), None))
    make.click()
    bench.wait(lambda: bench.state(125, "tank-sw", "4") == "untagged")
    assert bench.state(125, "tank-sw", "to-gate-a") == "tagged"
    bench.open("segments?at=/devices/6/ports/3")
    bench.click("a laptop")
    bench.wait(lambda: "10.64.125.20" in bench.find("aside").text)
    assert "octopus-den" in bench.find("aside").text


def test_a_zone_renamed_everywhere_and_one_taken_out(bench: Workbench) -> None:
    """The bench side renames with every reference; taking out lists first what goes with it."""
    bench.open("zones?at=/devices/4/zones/4")
    fill(bench, "aside [data-key=name]", "counters")
    bench.wait(lambda: bench.all("[data-cell='counters>street']"))
    assert bench.find("[data-cell='counters>street']").get_attribute("data-opens") == "some"
    bench.click("Take it out")
    bench.wait(lambda: "tills-out" in bench.find("dialog [data-testid=preview]").text)
    bench.find("dialog .btn-error").click()
    bench.wait(lambda: not bench.all("[data-cell='counters>street']"))


def test_what_the_box_answers(bench: Workbench) -> None:
    """An interface is given another list, and strangers that can ask its management are marked."""
    bench.open("zones?step=answers")
    Select(bench.find("[aria-label='What hall.160 answers']")).select_by_visible_text("keepers-console")
    bench.wait(lambda: bench.find("[data-answer='ssh hall.160']").text)
    assert bench.find("[data-answer='ssh hall.160']").get_attribute("data-risky") == "false"  # its sources are keepers
    bench.open("zones?step=answers&at=/devices/4/answers/1")
    fill(bench, "aside [data-key=sources]", "inside")
    bench.wait(lambda: bench.find("[data-answer='ssh hall.160']").get_attribute("data-risky") == "true")
    assert bench.find("[data-finding=answers-risky]")
