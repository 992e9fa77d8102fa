"""An evening on the pier, on the real page: what was found, the steps to the draft, results typed in on a phone, the one mistake, tests green."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from typing import Any

import pytest
from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select, WebDriverWait

from anabasis.design import difference, load_file
from anabasis.faults import faults_of
from anabasis.store import Store
from anabasis.testing import key_of, scene_of, sheet_row
from anabasis.testing.asking import ask
from anabasis.wording import shown_text
from ops.browser import as_desk, as_phone, on_network
from ops.serving import enter, serving
from tests.browser.workbench import Workbench
from tests.conftest import ROOT


def plain(name: str) -> Any:
    """Return a demo as JSON has it."""
    return json.loads(json.dumps(load_file(ROOT / "demo" / f"{name}.yaml").raw))


def asked(driver: Chrome, path: str) -> Any:
    """Ask the server as the page does."""
    ask_ = "const done = arguments[1]; fetch(arguments[0]).then((r) => r.json()).then(done)"
    return driver.execute_async_script(ask_, path)


@pytest.mark.browser
@pytest.mark.slow
def test_a_whole_evening(browser: Chrome, store: Store) -> None:
    """The first-day design is published as found; the draft is the sound one; somebody builds it, forgets one thing, and finds out which."""
    found, wanted = plain("tidewrack-first-day"), plain("tidewrack")
    store.create("tidewrack", found, datetime.now(UTC))
    with serving(store) as address:
        browser.get(enter(store, address))
        bench = Workbench(browser, f"{address}/d/tidewrack")
        bench.open("history")
        publish = """const done = arguments[0]; (async () => { const me = await (await fetch('/api/me')).json();
            const r = await fetch('/api/designs/tidewrack/revisions', {method: 'POST', headers: {'content-type': 'application/json',
            'X-CSRF-Token': me.csrf, 'If-Match': '"1"'}, body: JSON.stringify({reason: 'as found', forced: 'as found'})}); done(r.status) })()"""
        assert browser.execute_async_script(publish) == 201
        store.edit("tidewrack", store.draft("tidewrack").version, difference(found, wanted), "Oda", datetime.now(UTC))

        # the steps, kept and ticked
        bench.open("history?step=floor&one=build")
        WebDriverWait(browser, 300, 1).until(lambda _: len(bench.all("[aria-label='Steps'] > li")) > 10)
        bench.click("Keep it")
        WebDriverWait(browser, 300, 1).until(lambda _: any("0 of" in e.text for e in bench.all("[data-testid=made]")))
        for k in range(3):
            bench.all("[aria-label='Steps'] input[type=checkbox]")[k].click()
            bench.wait(lambda n=k + 1: bench.find("[data-testid=made]").text.startswith(f"{n} of"))

        # few tests, worked out while one waits
        bench.open("history?step=floor&one=test")
        WebDriverWait(browser, 1500, 1).until(lambda _: bench.all("[data-testid=cover]"))
        bench.click("Keep it")
        bench.wait(lambda: "Test sheet 2" in bench.find("[aria-label='Sheet 2']").text)
        lines = asked(browser, "/api/designs/tidewrack/sheets/2")["lines"]

        # what a site shows on which somebody forgot a tag
        scene = scene_of(wanted)
        forgot = next(f for f in faults_of(wanted) if f.kind == "tag-missing")
        by_key = {key_of(sheet_row(t)): t for t in ask(scene)}
        tests = [by_key[key_of(line)] for line in lines]
        shown = {line["id"]: shown_text(s) for line, s in zip(lines, scene.shows(tests, forgot.edit), strict=True)}
        wrong = [line for line in lines if shown[line["id"]] != line["expect"]]
        assert wrong

        # three results on a phone, one of them without a network
        as_phone(browser)
        try:
            browser.get(f"{address}/d/tidewrack/sheet/2")
            bench.find("[data-testid=done]")
            assert browser.execute_script("return document.documentElement.scrollWidth <= innerWidth")
            right = [line for line in lines if line["do"] == "ping" and shown[line["id"]] == line["expect"] == "answer"]
            told = [*right[:2], next(line for line in wrong if line["do"] in ("ping", "connect"))]
            for k, line in enumerate(told):
                if k == 2:
                    on_network(browser, False)
                word = "answers" if shown[line["id"]] == "answer" else "nothing"
                button = bench.find(f"[data-test={line['id']}]").find_element(By.XPATH, f".//button[.='{word}']")
                browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", button)
                button.click()
                bench.wait(lambda n=k + 1: bench.find("[data-testid=done]").text.startswith(f"{n} of"))
            bench.wait(lambda: "no network" in bench.find("[data-testid=floor]").text)
            on_network(browser, True)
            bench.wait(lambda: "all sent" in bench.find("[data-testid=floor]").text)
        finally:
            as_desk(browser)
        assert len(asked(browser, "/api/designs/tidewrack/sheets/2")["marks"]) == 3

        # the rest at the desk, as CSV; the one mistake is named first
        text = "id,at,tag,do,target,service,seen\r\n" + "".join(
            ",".join(
                str(v or "") for v in (r["id"], r["at"], r["tag"], r["do"], r["target"], r["service"], shown[r["id"]])
            )
            + "\r\n"
            for r in lines
        )
        send = """const done = arguments[1]; (async () => { const me = await (await fetch('/api/me')).json();
            const r = await fetch('/api/designs/tidewrack/sheets/2/results', {method: 'POST', headers: {'content-type': 'application/json',
            'X-CSRF-Token': me.csrf}, body: JSON.stringify({text: arguments[0]})}); done(r.status) })()"""
        assert browser.execute_async_script(send, text) == 200
        browser.get(f"{address}/d/tidewrack/history?step=floor&one=2")
        first = bench.wait(lambda: bench.find("[data-testid=diagnosis] ol > li").text)
        assert f"{len(lines)}/{len(lines)}" in first
        explained = asked(browser, "/api/designs/tidewrack/sheets/2/diagnosis")
        best = explained["explanations"][0]
        assert explained["complete"]
        assert any(
            f["pointers"] == list(forgot.guilty)
            for f in (*best["faults"], *(x for a in best["alike"] for x in a["faults"]))
        )

        # mended: everything is as expected
        for line in wrong:
            field = bench.find(f"[aria-label='Seen at {line['id']}']")
            browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", field)
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(line["expect"], "\n")
            bench.wait(lambda key=line["id"]: key not in asked(browser, "/api/designs/tidewrack/sheets/2")["wrong"])
        bench.wait(lambda: "as expected" in bench.find("[data-testid=diagnosis]").text)
        proved = asked(browser, "/api/designs/tidewrack/sheets/proved")
        assert proved["wrong"] == []
        assert len(proved["proved"]) > 20
        browser.get("about:blank")


def test_a_migration_is_asked_for_and_made(bench: Workbench) -> None:
    """What is proposed is taken as it is; what it leads to is shown with its steps before it is made; undone, all is as before."""
    bench.open("history?step=floor&one=migrate")
    Select(bench.find("[aria-label=subnet]")).select_by_value("10.64.130.0/24")
    bench.wait(lambda: "changed or added" in bench.find("[data-testid=preview]").text)
    assert bench.find("[aria-label=to]").get_attribute("placeholder") == "10.64.131.0/24"
    bench.wait(lambda: len(bench.all("[aria-label='Steps'] > li")) > 3)
    bench.click("Make it in the draft")
    bench.wait(lambda: "one=build" in bench.driver.current_url)
    draft = asked(bench.driver, "/api/designs/tidewrack/draft")["document"]
    assert next(v for v in draft["vlans"] if v["id"] == 130)["subnets"][0] == "10.64.131.0/24"
    bench.click("Undo")
    bench.wait(lambda: "10.64.131" not in str(asked(bench.driver, "/api/designs/tidewrack/draft")))


def test_a_copy_lists_what_has_to_be_its_own(bench: Workbench) -> None:
    """A box: name, units, addresses; made, and laid beside its original, nothing that was meant to be alike differs."""
    bench.open("cabling?at=/devices/4")
    bench.wait(lambda: bench.driver.find_element(By.XPATH, "//summary[text()='Another one like this']").click() or True)
    form = "form[aria-label='Another one like this']"
    bench.wait(lambda: len(bench.all(f"{form} input")) > 12)
    shown = [e.get_attribute("placeholder") for e in bench.all(f"{form} input")]
    assert {"gate-2", "gate-a-2", "10.64.130.2/24"} <= set(shown)
    bench.wait(lambda: bench.find(f"{form} button[type=submit]").is_enabled())
    bench.find(f"{form} button[type=submit]").click()
    bench.click("See what tells it from its original")
    bench.wait(lambda: "gate-2" in bench.find("main").text)
    assert len(bench.all("tr[data-meant=false]")) > 12
    assert not bench.all("tr[data-meant=true]")
