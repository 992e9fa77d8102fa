"""Take the pictures of docs/screenshots from the demo, at 1280 x 800. Look at them before you commit them."""

from __future__ import annotations

import sys
import time
from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path

from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from anabasis.climb import Climb  # noqa: E402
from anabasis.design import Tree, difference, load_file, parse_design, set_membership  # noqa: E402
from anabasis.facts import Answer, Silence  # noqa: E402
from anabasis.faults import faults_of  # noqa: E402
from anabasis.interchange import site_data  # noqa: E402
from anabasis.standin import spoil  # noqa: E402
from anabasis.store import History, Sheets, Store, Surveys, connect, migrate  # noqa: E402
from anabasis.testing import ask, key_of, scene_of, sheet_row  # noqa: E402
from anabasis.wording import shown_text  # noqa: E402
from ops.browser import chromium  # noqa: E402
from ops.cluster import Cluster  # noqa: E402
from ops.serving import enter, serving  # noqa: E402

OUT = ROOT / "docs" / "screenshots"
SOUND = {
    "reach": "reach?from=keepers&to=life-support&passing=1&at=/devices/4/rules/2",
    "segments": "segments?at=/devices/6/lags/0",
    "cabling": "cabling?at=/devices/4",
    "what-if": "cabling?failed=gate-a",
    "failover": "failover?failed=gate-a",
    "routing": "routing?look=203.0.113.70",
    "zones": "zones?zones=house%3Ewater&at=/devices/4/rules/2",
}
BROKEN = {"reach-broken": "reach?from=keepers@tank-sw&to=life-support"}


def main() -> None:
    """Serve the demo from a cluster of its own, and take each view."""
    driver = chromium()
    try:
        pictures(driver)
    finally:
        driver.quit()


def pictures(driver: Chrome) -> None:
    """Take each view; the demo with its faults last, since it edits."""
    with Cluster.for_a_while() as cluster:
        engine = connect(cluster.url)
        migrate(engine)
        store, now = Store(engine), datetime.now(UTC)
        raw = load_file(ROOT / "demo" / "tidewrack.yaml").raw
        store.create("tidewrack", raw, now)
        store.create("first-day", load_file(ROOT / "demo" / "tidewrack-first-day.yaml").raw, now)
        OUT.mkdir(parents=True, exist_ok=True)
        with serving(store) as address:
            driver.get(address)
            time.sleep(2)
            driver.get(enter(store, address))
            time.sleep(4)
            driver.execute_script(HINTS_CLOSED)
            driver.save_screenshot(str(OUT / "designs.png"))

            def take(name: str, path: str) -> None:
                driver.get(f"{address}/d/tidewrack/{path}")
                time.sleep(4)
                driver.save_screenshot(str(OUT / f"{name}.png"))

            for name, path in SOUND.items():
                take(name, path)
            driver.get(f"{address}/d/first-day/segments")
            time.sleep(1.5)
            driver.find_element(By.XPATH, "//button[contains(., 'Both ends')]").click()
            time.sleep(1)
            driver.save_screenshot(str(OUT / "ends.png"))
            driver.get(f"{address}/d/tidewrack/segments?at=/devices/5/ports/1")
            time.sleep(1.5)
            driver.find_element(By.XPATH, "//button[contains(., 'a laptop')]").click()
            time.sleep(1.5)
            driver.save_screenshot(str(OUT / "plug-in.png"))
            driver.get(f"{address}/d/tidewrack/failover")
            time.sleep(2)
            driver.find_element(By.XPATH, "//button[@role='tab'][contains(., 'Drill')]").click()
            time.sleep(12)
            driver.save_screenshot(str(OUT / "drill.png"))
            driver.get(f"{address}/d/tidewrack/segments")
            time.sleep(1.5)
            driver.find_element(By.XPATH, "//button[contains(., 'New segment')]").click()
            time.sleep(0.5)
            fields = driver.find_elements(By.CSS_SELECTOR, "dialog input")
            fields[0].send_keys("octopus-den")
            fields[1].send_keys(Keys.CONTROL, "a")
            fields[1].send_keys("125")
            for at, text in ((1, "tank"), (2, "water")):
                Select(driver.find_elements(By.CSS_SELECTOR, "dialog select")[at]).select_by_visible_text(text)
            driver.find_element(By.CSS_SELECTOR, "dialog button[aria-label='tank-sw:4']").click()
            time.sleep(4)
            driver.save_screenshot(str(OUT / "new-segment.png"))
            store.edit("tidewrack", 1, set_membership(raw, "tank-sw", "across", 130, "none"), "shots", now)
            for name, path in BROKEN.items():
                take(name, path)
            histories(driver, store, address)
            making(driver, store, address)
            floor(driver, store, address)
            campaigns(driver, address)
        engine.dispose()


STAGES = ["cabling", "segments", "routing", "zones", "reach", "failover", "expectations", "history"]
HINTS_CLOSED = f"localStorage.setItem('anabasis.hints', JSON.stringify({STAGES}))"


def campaigns(driver: Chrome, address: str) -> None:
    """Take expectations with how deep each is defended, and a campaign of two designs when it has ended: minutes."""
    driver.get(f"{address}/d/tidewrack/expectations")
    time.sleep(4)
    driver.find_element(By.XPATH, "//button[contains(., 'How deep')]").click()
    while not driver.find_elements(By.XPATH, "//*[@data-testid='defence'][contains(., 'cases tried')]"):
        time.sleep(2)
    next(e for e in driver.find_elements(By.CSS_SELECTOR, "[data-depth] button") if e.is_enabled()).click()
    time.sleep(1)
    driver.save_screenshot(str(OUT / "expectations.png"))
    driver.get(f"{address}/campaigns")
    time.sleep(2)
    driver.find_element(By.XPATH, "//button[contains(., 'New campaign')]").click()
    time.sleep(1)
    for name in ("Tidewrack Aquarium", "Tidewrack first day"):
        driver.find_element(By.XPATH, f"//dialog//label[normalize-space(.)='{name}']").click()
    driver.find_element(By.XPATH, "//dialog//button[normalize-space(.)='Begin']").click()
    while ", ended" not in driver.find_element(By.CSS_SELECTOR, "main").text:
        time.sleep(2)
    time.sleep(2)
    driver.save_screenshot(str(OUT / "campaigns.png"))


def making(driver: Chrome, store: Store, address: str) -> None:
    """Take a site while it is made: boxes there, the next one typed, a port on the bench side."""
    raw = load_file(ROOT / "demo" / "starts" / "small-office.yaml").raw | {"name": "Boat house"}
    store.create("boats", raw, datetime.now(UTC))
    driver.get(f"{address}/d/boats/cabling?step=box&at=/devices/2/ports/0")
    time.sleep(4)
    driver.save_screenshot(str(OUT / "making.png"))


def floor(driver: Chrome, store: Store, address: str) -> None:
    """Take a test sheet as somebody fills it in on whose site a tag was forgotten. What every mistake would show is worked out first: minutes."""
    raw = load_file(ROOT / "demo" / "tidewrack.yaml").raw
    store.create("evening", raw, datetime.now(UTC))
    driver.get(f"{address}/d/evening/history?step=floor&one=test")
    while not driver.find_elements(By.CSS_SELECTOR, "[data-testid=cover]"):
        time.sleep(1)
    driver.find_element(By.XPATH, "//button[contains(., 'Keep it')]").click()
    time.sleep(3)
    sheets, scene = Sheets(store.engine), scene_of(raw)
    known = {key_of(sheet_row(t)): t for t in ask(scene)}
    rows = sheets.get("evening", 1).lines
    forgot = next(f for f in faults_of(raw) if f.kind == "tag-missing")
    shown = scene.shows([known[key_of(r)] for r in rows], forgot.edit)
    at = datetime.now(UTC).isoformat()
    marks = {r["id"]: {"value": shown_text(s), "note": "", "at": at} for r, s in zip(rows, shown, strict=True)}
    sheets.mark("evening", 1, "Jorun", marks)
    driver.get(f"{address}/d/evening/history?step=floor&one=1")
    time.sleep(8)
    driver.save_screenshot(str(OUT / "build-and-test.png"))


def histories(driver: Chrome, store: Store, address: str) -> None:
    """Take what is published, and what differs, on a design of its own."""
    now, past, path = datetime.now(UTC), History(store.engine), f"{address}/d/history"
    raw = load_file(ROOT / "demo" / "tidewrack.yaml").raw
    store.create("history", raw, now)
    past.publish("history", 1, store.draft("history").stamp, "As built, after the spring drill", [], None, "Jorun", now)
    k = [r["name"] for r in raw["devices"][4]["rules"]].index("keepers-drive-pumps")
    at = f"/devices/4/rules/{k}"
    shell = [{"op": "add", "path": f"{at}/services", "value": ["pump-bus", "ssh"]}]
    store.edit("history", 1, shell, "Edda", now)
    renewed = "Keepers may open a shell on pump controllers while pumps are renewed"
    past.publish("history", 2, store.draft("history").stamp, renewed, [], None, "Edda", now)
    store.edit("history", 2, [{"op": "remove", "path": at}], "Edda", now)
    uplink = [{"op": "remove", "path": "/devices/5/lags/0/tagged/0"}]
    store.edit("history", 3, uplink, "Jorun", now)
    for name, place in (
        ("history", "history"),
        ("seen-on-site", "history?step=site"),
    ):
        if name == "seen-on-site":
            survey(store, raw, now)
        driver.get(f"{path}/{place}")
        time.sleep(14 if name == "seen-on-site" else 6)
        driver.save_screenshot(str(OUT / f"{name}.png"))


def survey(store: Store, raw: Tree, now: datetime) -> None:
    """Keep what a site would say in which nine things are otherwise, and one box keeps silent."""
    store.edit("history", 4, difference(store.draft("history").tree, raw), "Jorun", now)
    spoiled, _ = spoil(raw, 9, 1)
    said = site_data(Climb(parse_design(spoiled)), spoiled)
    silent = "lab-sw"
    answers = [
        asdict(
            Answer(
                f"10.64.99.{k}",
                "" if b == silent else b,
                () if b == silent else ("restconf",),
                Silence.NO_ANSWER if b == silent else None,
                0.4,
            )
        )
        for k, b in enumerate(said, 2)
    ]
    kept = {box: {"data": data, "by_objects": False} for box, data in said.items() if box != silent}
    Surveys(store.engine).add("history", "Jorun", now, answers, kept)


if __name__ == "__main__":
    main()
