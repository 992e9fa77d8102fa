"""Campaigns and the depth of defence, as a person uses them."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from anabasis.store import Store
from tests.browser.workbench import Workbench
from tests.campaign.test_defence import fort

pytestmark = pytest.mark.browser


@pytest.mark.slow
def test_a_campaign_from_the_list_of_designs_to_the_stage(bench: Workbench, store: Store) -> None:
    """Begun for one design, watched to its end; parts and mistakes that matter; the worst case is put on stage, where it shows."""
    store.create("fort", fort(1), datetime.now(UTC))
    host = bench.address.partition("/d/")[0]
    bench.driver.get(host)
    bench.find("a[href='/campaigns']").click()
    bench.click("New campaign")
    bench.wait(lambda: next((e for e in bench.all("dialog li label") if e.text.strip() == "Fort"), None)).click()
    bench.click("up to two")
    bench.wait(lambda: next((b for b in bench.all("dialog button[type=submit]") if b.is_enabled()), None)).click()
    bench.wait(lambda: "/campaigns/" in bench.driver.current_url)
    bench.wait(lambda: ", ended" in bench.find("main [role=status]").text)
    assert "Go on" not in bench.find("main").text
    facts = dict(zip((e.text for e in bench.all("main dt")), (e.text for e in bench.all("main dd")), strict=True))
    assert int(facts["open what must stay closed"]) > 0
    assert int(facts["single points of failure"]) == 2
    mistakes = bench.find("[aria-label='Mistakes that matter']").text
    assert "a rule that permits everything was left on top" in mistakes
    first = bench.all("[data-case]")[0]
    assert "no way down" in first.text
    first.find_element("css selector", "button").click()
    bench.wait(lambda: "/reach" in bench.driver.current_url)
    bench.wait(lambda: "what-if" in bench.find("header").text)
    bench.wait(lambda: "no way down" in bench.find("aside, [aria-label='To mend']").text)
    bench.driver.get(f"{host}/campaigns")
    bench.click("Remove")
    bench.wait(lambda: "None yet" in bench.find("nav").text)


@pytest.mark.slow
def test_how_deep_a_closed_expectation_is_defended(bench: Workbench, store: Store) -> None:
    """Asked for on Expectations; the ways in are named, and one is put on stage."""
    store.create("fort", fort(1), datetime.now(UTC))
    bench.address = bench.address.replace("/d/tidewrack", "/d/fort")
    bench.open("expectations")
    bench.click("How deep is each defended?")
    told = bench.wait(
        lambda: next((e for e in bench.all("[data-depth] button") if "things going wrong opens it" in e.text), None)
    )
    told.click()
    ways = [e.text for e in bench.all("[data-depth] li")]
    assert any("a rule that permits everything was left on top: wall-0" in w for w in ways)
    bench.find("[aria-label^='on stage: what no rule names is permitted']").click()
    bench.wait(lambda: "what-if" in bench.find("header").text)
    bench.wait(lambda: bench.find("[data-expectation='no way down']").get_attribute("data-holds") == "false")
