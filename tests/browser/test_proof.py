"""The proof at the top of the climb: expectations broken and mended, a packet tried, exposure, rules that do nothing."""

from __future__ import annotations

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.workbench import Workbench

pytestmark = pytest.mark.browser


def test_an_edit_breaks_an_expectation_and_undo_mends_it(bench: Workbench) -> None:
    """Type a service, read a cell, go to the rule, switch it off: the line says what broke; the stage says by which edit."""
    bench.open("reach")
    field = bench.find("#service")
    field.send_keys("https", Keys.ENTER)
    bench.wait(lambda: bench.verdict("box-office", "internet")[0] == "all")
    bench.open("zones?at=/devices/4/rules/13")
    bench.button("Switch off").click()
    bench.wait(lambda: "1 expectation broken" in bench.find("footer").text)
    bench.button("Expectations").click()
    row = bench.find("[data-expectation='tills take cards'][data-holds=false]")
    assert "no rule matches tills to street" in row.text
    bench.button("Which edit broke it").click()
    bench.wait(lambda: "edit 2 by me" in bench.find("[data-testid=broken-by]").text)
    bench.find("body").send_keys(Keys.CONTROL, "z")
    bench.wait(lambda: not bench.all("[data-holds=false]"))
    bench.wait(lambda: "1 expectation mended" in bench.find("footer").text)


def test_expecting_something_new(bench: Workbench) -> None:
    """From the form, from the suggestions, and a pair kept as it is."""
    bench.open("expectations")
    before = len(bench.wait(lambda: bench.all("[data-expectation]")))
    fields = bench.all("form[aria-label='Expect something new'] input")
    fields[0].send_keys("visitors")
    fields[1].send_keys("lab")
    bench.button("Expect it").click()
    bench.wait(
        lambda: bench.find("[data-expectation='visitors never touch lab']").get_attribute("data-holds") == "true"
    )
    bench.find("[aria-label='Expect: visitors never touch keepers']").click()
    bench.wait(lambda: len(bench.all("[data-expectation]")) == before + 2)
    bench.open("reach?from=keepers&to=lab")
    bench.button("Keep it as it is").click()
    bench.button("Expect it").click()
    bench.open("expectations")
    bench.wait(lambda: bench.all("[data-expectation='keepers reach lab'][data-holds=true]"))


def test_a_packet_is_tried_and_an_address_looked_at(bench: Workbench) -> None:
    """By address, endpoint or port; a word that names nothing says so."""
    bench.open("reach?from=keepers&to=lab")
    bench.button("Try a packet").click()
    for label, text in (("from", "till-1"), ("to", "pump-ctl"), ("service", "ping")):
        field = bench.find(f"form[aria-label='Try a packet'] input[aria-label={label}]")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)
    bench.button("Send it").click()
    bench.wait(lambda: bench.find("[data-testid=outcome]").text == "stopped")
    field = bench.find("form[aria-label='Try a packet'] input[aria-label=to]")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("nobody", Keys.ENTER)
    bench.wait(lambda: "no segment, device" in bench.find("form[aria-label='Try a packet'] [role=alert]").text)
    bench.button("Exposure").click()
    bench.find("dialog input").send_keys("pump-ctl", Keys.ENTER)
    bench.wait(lambda: "keepers" in bench.find("[data-testid=exposure]").text)
