"""Take the pictures of docs/screenshots from the demo, at 1280 x 800. Look at them before you commit them."""

from __future__ import annotations

import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from anabasis.design import load_file, set_membership  # noqa: E402
from anabasis.store import Store, connect, migrate  # noqa: E402
from ops.browser import chromium  # noqa: E402
from ops.cluster import Cluster  # noqa: E402
from ops.serving import serving  # noqa: E402

OUT = ROOT / "docs" / "screenshots"
SOUND = {
    "reach": "reach?from=keepers&to=life-support&passing=1&at=/devices/4/rules/2",
    "segments": "segments?at=/devices/6/lags/0",
    "cabling": "cabling?at=/devices/4",
    "what-if": "cabling?failed=gate-a",
    "failover": "failover?failed=gate-a",
    "routing": "routing?look=203.0.113.70",
    "leases": "routing?step=interfaces",
    "zones": "zones?zones=house%3Ewater&at=/devices/4/rules/2",
}
BROKEN = {"reach-broken": "reach?from=keepers@tank-sw&to=life-support", "segments-broken": "segments"}


def main() -> None:
    """Serve the demo from a cluster of its own, and take each view."""
    home = Path(tempfile.mkdtemp(prefix="anabasis-shots-"))
    home.chmod(0o755)
    cluster = Cluster(home, durable=False)
    cluster.start()
    driver = chromium()
    try:
        engine = connect(cluster.url)
        migrate(engine)
        store, now = Store(engine), datetime.now(UTC)
        raw = load_file(ROOT / "demo" / "tidewrack.yaml").raw
        store.create("tidewrack", raw, now)
        store.create("first-day", load_file(ROOT / "demo" / "tidewrack-first-day.yaml").raw, now)
        OUT.mkdir(parents=True, exist_ok=True)
        with serving(store) as address:

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
            driver.find_element(By.XPATH, "//button[contains(., 'New VLAN')]").click()
            fields = driver.find_elements(By.CSS_SELECTOR, "dialog input")
            fields[0].clear()
            fields[0].send_keys("125")
            fields[1].send_keys("ray-pool")
            for place in ("tank-sw:to-gate-a", "tank-sw:to-gate-b", "tank-sw:2"):
                driver.find_elements(By.CSS_SELECTOR, f"dialog button[aria-label='{place}']")[-1].click()
            time.sleep(2)
            driver.save_screenshot(str(OUT / "new-vlan.png"))
            driver.get(f"{address}/d/first-day/cabling")
            time.sleep(2)
            driver.save_screenshot(str(OUT / "cabling-first-day.png"))
            driver.get(f"{address}/d/first-day/expectations")
            time.sleep(5)
            driver.save_screenshot(str(OUT / "expectations.png"))
            driver.get(f"{address}/d/tidewrack/failover")
            time.sleep(2)
            driver.find_element(By.XPATH, "//button[@role='tab'][contains(., 'Drill')]").click()
            time.sleep(12)
            driver.save_screenshot(str(OUT / "drill.png"))
            driver.get(f"{address}/d/first-day/zones?step=answers")
            time.sleep(5)
            driver.save_screenshot(str(OUT / "answers.png"))
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
            driver.get(f"{address}/d/tidewrack/reach")
            time.sleep(1)
            driver.find_element(By.CSS_SELECTOR, "[aria-label='Dark theme']").click()
            take("reach-dark", SOUND["reach"])
            driver.find_element(By.CSS_SELECTOR, "[aria-label='Light theme']").click()
            store.edit("tidewrack", 1, set_membership(raw, "tank-sw", "across", 130, "none"), "shots", now)
            for name, path in BROKEN.items():
                take(name, path)
        engine.dispose()
    finally:
        driver.quit()
        cluster.remove()


if __name__ == "__main__":
    main()
