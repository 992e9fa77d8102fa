"""Publishing, comparing and going back; two people at once; a database that goes and comes; the door."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
import requests
from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from anabasis.design import Loaded
from anabasis.store import People, Store, connect, migrate
from ops.browser import chromium
from ops.cluster import Cluster
from ops.serving import enter, serving
from tests.browser.workbench import Workbench
from tests.conftest import NOON

pytestmark = pytest.mark.browser
VLAN = "segments?at=/vlans/2"


@pytest.fixture
def second(bench: Workbench, store: Store) -> Iterator[Workbench]:
    """Return the workbench of another person, Edda, in a window of her own."""
    driver = chromium()
    address = bench.address.partition("/d/")[0]
    driver.get(enter(store, address, "Edda"))
    yield Workbench(driver, bench.address)
    driver.quit()


def note(bench: Workbench) -> WebElement:
    """Return the note of the thing on the bench side."""
    return bench.find("aside [data-key=note]")


def retype(bench: Workbench, words: str, *more: str) -> None:
    """Put other words into the note."""
    note(bench).send_keys(Keys.CONTROL, "a")
    note(bench).send_keys(words, *more)


def test_published_changed_compared_restored(bench: Workbench) -> None:
    """With a reason; what differs is said in words and as reach; going back is one edit."""
    bench.open("history")
    bench.click("Publish")
    bench.find("dialog input").send_keys("As built", Keys.ENTER)
    bench.find("[data-state='revision 1']")
    bench.open("zones?zones=house%3Ewater&at=/devices/4/rules/2")
    bench.find("aside [data-key=enabled]").click()
    assert bench.says("closed")
    bench.open("history")
    bench.wait(lambda: "1 thing differs" in bench.find("[data-testid=in-short]").text)
    assert "enabled: no" in bench.find("[aria-label=Comparison]").text
    assert "keepers → life-support" in bench.find("[data-testid=reach-differences]").text
    bench.click("Publish")
    bench.wait(lambda: "Publish draft 2" in bench.find("dialog").text)
    bench.find("dialog input").send_keys(Keys.ESCAPE)
    bench.wait(lambda: not bench.all("dialog"))
    bench.click("restore")
    bench.wait(lambda: "Written alike" in bench.find("[data-testid=in-short]").text)


def test_a_what_if_of_its_own(bench: Workbench) -> None:
    """Begun, edited, folded back: the edit is then the draft's."""
    bench.open("history")
    bench.click("What if")
    bench.find("dialog input").send_keys("the note were shorter", Keys.ENTER)
    bench.wait(lambda: "what-if" in bench.find("header").text)
    bench.driver.get(bench.driver.current_url.split("/history")[0].split("/reach")[0] + f"/{VLAN}")
    retype(bench, "Staff", Keys.ENTER)
    bench.wait(lambda: "what-if 2" in bench.find("header").text)
    bench.driver.get(bench.driver.current_url.split("/segments")[0] + "/history")
    bench.wait(lambda: "1 thing differs" in bench.find("[data-testid=in-short]").text)
    bench.click("Fold back")
    bench.wait(lambda: bench.all("dialog [data-testid=preview]"))
    bench.find("dialog button.btn-primary").click()
    bench.wait(lambda: "draft 2" in bench.find("header").text)


def test_two_people_see_each_other(bench: Workbench, second: Workbench) -> None:
    """Who is where stands on top; an edit appears in the other window by itself."""
    bench.open(VLAN)
    second.open("zones")
    bench.wait(lambda: bench.find("[aria-label='Also here']").text.split() == ["Edda", "Zones"])
    second.open(VLAN)
    retype(second, "Desks", Keys.ENTER)
    bench.wait(lambda: note(bench).get_attribute("value") == "Desks")
    assert "Edda edited" in bench.find("[data-testid=latest]").text


def test_two_people_change_one_thing(bench: Workbench, second: Workbench) -> None:
    """The later one is shown both versions, and chooses; what is typed stays meanwhile."""
    for window in (bench, second):
        window.open(VLAN)
        window.wait(lambda w=window: note(w).get_attribute("value"))
    retype(bench, "Mine")
    retype(second, "Hers", Keys.ENTER)
    bench.wait(lambda: "Edda edited" in bench.find("[data-testid=latest]").text)
    assert note(bench).get_attribute("value") == "Mine"
    note(bench).send_keys(Keys.ENTER)
    said = bench.find("[data-testid=clashes]").text
    assert all(word in said for word in ("VLAN 130 keepers", "Mine", "Hers"))
    assert not bench.all("[role=alert]"), "the question is asked once"
    bench.click("Let mine stand")
    second.wait(lambda: note(second).get_attribute("value") == "Mine")


def own_undone(bench: Workbench) -> bool:
    """Take one's own edit back; while the page has not heard yet whose the last edit is, it asks, and one leaves it and tries again."""
    if bench.all("dialog"):
        bench.click("Leave it")
        bench.wait(lambda: not bench.all("dialog"))
    if note(bench).get_attribute("value") == "Hers":
        return True
    bench.click("Undo")
    bench.wait(lambda: bench.all("dialog") or note(bench).get_attribute("value") == "Hers")
    return False


def test_an_edit_of_somebody_else_is_not_undone_unasked(bench: Workbench, second: Workbench) -> None:
    """One's own is taken back at once; somebody else's is asked about first."""
    for window in (bench, second):
        window.open(VLAN)
        window.wait(lambda w=window: note(w).get_attribute("value"))
    retype(second, "Hers", Keys.ENTER)
    bench.wait(lambda: note(bench).get_attribute("value") == "Hers")
    bench.click("Undo")
    assert "The last edit is Edda's" in bench.find("dialog").text
    bench.click("Leave it")
    bench.wait(lambda: not bench.all("dialog"))
    assert note(bench).get_attribute("value") == "Hers"
    retype(bench, "Mine", Keys.ENTER)
    bench.wait(lambda: note(second).get_attribute("value") == "Mine")
    bench.wait(lambda: own_undone(bench))
    bench.wait(lambda: note(second).get_attribute("value") == "Hers")
    bench.click("Undo")
    bench.click("Take it back")
    bench.wait(lambda: note(bench).get_attribute("value") not in ("Hers", "Mine"))


def test_a_database_that_goes_and_comes(browser: Chrome, demo: Loaded) -> None:
    """A banner says so, nothing is sent and nothing typed is lost; afterwards it goes on by itself."""
    with Cluster.for_a_while() as cluster:
        try:
            store = Store(connect(cluster.url))
            migrate(store.engine)
            store.create("tidewrack", demo.raw, NOON)
            with serving(store) as address:
                browser.get(enter(store, address))
                bench = Workbench(browser, f"{address}/d/tidewrack")
                bench.open(VLAN)
                bench.wait(lambda: note(bench).get_attribute("value"))
                cluster.stop()
                bench.wait(lambda: "The database does not answer" in bench.find("main [role=alert]").text)
                retype(bench, "Typed meanwhile", Keys.ENTER)
                bench.wait(lambda: "read-only" in bench.find("footer [role=alert]").text)
                assert note(bench).get_attribute("value") == "Typed meanwhile"
                cluster.start(same_port=True)
                bench.wait(lambda: not bench.all("main [role=alert]"))
                bench.click("Close")
                note(bench).send_keys(Keys.ENTER)
                bench.wait(lambda: store.draft("tidewrack").tree["vlans"][2]["note"] == "Typed meanwhile")
                browser.get("about:blank")
        finally:
            browser.get_log("browser")


def test_the_door(bench: Workbench, store: Store) -> None:
    """Signing out leads to it; a wrong password is refused in words, a right one goes on."""
    people = People(store.engine)
    people.set_password(people.ensure("Oda", NOON).id, "a long word", None, NOON)
    address = bench.address.partition("/d/")[0]
    bench.driver.get(enter(store, address))
    bench.open("reach")
    bench.find("[aria-label=People]").click()
    bench.click("Sign out")
    form = bench.find("form[aria-label='Sign in']")
    fields = form.find_elements(By.CSS_SELECTOR, "input")
    fields[0].send_keys("Oda")
    fields[1].send_keys("a wrong word", Keys.ENTER)
    bench.wait(lambda: "no account of this name" in form.text)
    fields[1].send_keys(Keys.CONTROL, "a")
    fields[1].send_keys("a long word", Keys.ENTER)
    bench.find("main h1")
    bench.driver.get_log("browser")


def test_a_token_for_a_program(bench: Workbench, store: Store) -> None:
    """Made beside the people, told once, used, and ended."""
    bench.open("reach")
    bench.find("[aria-label=People]").click()
    form = bench.find("form[aria-label='New token']")
    form.find_element(By.CSS_SELECTOR, "input").send_keys("nightly", Keys.ENTER)
    secret = bench.find("section[aria-label=Tokens] [role=status] code").text
    asked = {"headers": {"Authorization": f"Bearer {secret}"}, "timeout": 60}
    mine = f"{bench.address.replace('/d/', '/api/designs/')}/draft"
    assert requests.get(mine, **asked).status_code == 200
    assert "until" in bench.find("[data-token=nightly]").text
    bench.find("[aria-label='End the token nightly']").click()
    bench.wait(lambda: not bench.all("[data-token=nightly]"))
    assert requests.get(mine, **asked).status_code == 401
