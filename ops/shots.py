"""Take the pictures of docs/screenshots from the demo, at 1280 x 800. Look at them before you commit them."""

from __future__ import annotations

import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from selenium.webdriver.common.by import By

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
        OUT.mkdir(parents=True, exist_ok=True)
        with serving(store) as address:

            def take(name: str, path: str) -> None:
                driver.get(f"{address}/d/tidewrack/{path}")
                time.sleep(1.5)
                driver.save_screenshot(str(OUT / f"{name}.png"))

            for name, path in SOUND.items():
                take(name, path)
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
            first_day = load_file(ROOT / "demo" / "tidewrack-first-day.yaml").raw
            store.create("first-day", first_day, now)
            driver.get(f"{address}/d/first-day/cabling")
            time.sleep(2)
            driver.save_screenshot(str(OUT / "cabling-first-day.png"))
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
