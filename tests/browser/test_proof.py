"""The proof at the top of the climb: expectations broken and mended, a packet tried, exposure, rules that do nothing."""

from __future__ import annotations

import pytest
from selenium.common.exceptions import NoSuchElementException
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait

from anabasis.store import Store
from bench.generated import generated_site
from tests.browser.conftest import NOON
from tests.browser.workbench import Workbench

pytestmark = pytest.mark.browser


def test_an_edit_breaks_an_expectation_and_undo_mends_it(bench: Workbench) -> None:
    """Type a service, read a cell, go to the rule, switch it off: the line says what broke; the stage says by which edit."""
    bench.open("reach")
    field = bench.find("#service")
    field.send_keys("https", Keys.ENTER)
    bench.wait(lambda: bench.verdict("box-office", "internet")[0] == "all")
    bench.pair("box-office", "internet").click()
    bench.find("[aria-label^='gate: '][aria-label*='tills-out']").click()
    bench.wait(lambda: "at=%2Fdevices%2F4%2Frules%2F13" in bench.driver.current_url)
    bench.find("nav").find_element(By.XPATH, ".//*[normalize-space(text())='Zones']").click()
    bench.click("Switch off")
    bench.wait(lambda: "1 expectation broken" in bench.find("footer").text)
    bench.click("Expectations")
    row = bench.find("[data-expectation='tills take cards'][data-holds=false]")
    assert "tills-out" in row.text
    assert "is switched off" in row.text
    bench.click("Which edit broke it")
    bench.wait(lambda: "edit 2 by Oda" in bench.find("[data-testid=broken-by]").text)
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
    bench.click("Expect it")
    bench.wait(
        lambda: bench.find("[data-expectation='visitors never touch lab']").get_attribute("data-holds") == "true"
    )
    bench.find("[aria-label='expect it: visitors never touch keepers']").click()
    bench.wait(lambda: len(bench.all("[data-expectation]")) == before + 2)
    bench.open("reach?from=keepers&to=lab")
    bench.click("Keep it as it is")
    bench.click("Expect it")
    bench.open("expectations")
    bench.wait(lambda: bench.all("[data-expectation='keepers reach lab'][data-holds=true]"))


def test_a_packet_is_tried_and_an_address_looked_at(bench: Workbench) -> None:
    """By address, endpoint or port; a word that names nothing says so."""
    bench.open("reach?from=keepers&to=lab")
    bench.click("Try a packet")
    for label, text in (("from", "till-1"), ("to", "pump-ctl"), ("service", "ping")):
        field = bench.find(f"form[aria-label='Try a packet'] input[aria-label={label}]")
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)
    bench.click("Send it")
    bench.wait(lambda: bench.find("[data-testid=outcome]").text == "stopped")
    field = bench.find("form[aria-label='Try a packet'] input[aria-label=to]")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("nobody", Keys.ENTER)
    bench.wait(lambda: "no segment, device" in bench.find("form[aria-label='Try a packet'] [role=alert]").text)
    bench.click("Exposure")
    bench.find("dialog input").send_keys("pump-ctl", Keys.ENTER)
    bench.wait(lambda: "keepers" in bench.find("[data-testid=exposure]").text)


def test_the_matrix_of_hundreds_of_segments_opens_and_scrolls(bench: Workbench, store: Store) -> None:
    """On canvas: only what is in sight is drawn, the last cell is reached by keys, its pair opens, groups fold."""
    store.create("l-site", generated_site(300, 2_000), NOON)
    bench.address = bench.address.replace("/d/tidewrack", "/d/l-site")
    bench.driver.get(f"{bench.address}/reach")
    patient = WebDriverWait(bench.driver, 90, ignored_exceptions=(NoSuchElementException,))
    patient.until(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=matrix-map]"))
    frame = bench.find("[data-testid=matrix-map]")
    count = int(frame.get_attribute("aria-rowcount") or 0)
    assert count > 280
    assert frame.get_attribute("data-drawn").startswith("0-")
    bench.driver.execute_script("arguments[0].focus()", frame)
    bench.press(Keys.HOME)
    for _ in range(count // 32 + 2):
        bench.press(Keys.PAGE_DOWN)
    bench.wait(lambda: frame.get_attribute("data-at") == f"{count - 1} 0")
    bench.wait(lambda: int(frame.get_attribute("data-drawn").split(" ")[0].split("-")[1]) == count)
    first = int(frame.get_attribute("data-drawn").split("-")[0])
    assert 0 < count - first < 200 < count
    words = bench.find("[data-testid=map-words]")
    patient.until(lambda _: "being looked at" not in words.text)
    bench.click("Fold all")
    patient.until(lambda _: int(frame.get_attribute("aria-rowcount")) < count / 2)
