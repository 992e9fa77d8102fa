"""`make bench-web`: frames a second while scrolling, nodes, and the time from an edit to its consequences, in a headless Chromium.

Frames are told beside those of an idle page in the same run, so that the machine does not matter.
"""

from __future__ import annotations

import statistics
import sys
import time
from datetime import UTC, datetime
from pathlib import Path

from rich.console import Console
from rich.table import Table
from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from anabasis.design import load_file
from anabasis.store import Store, connect, migrate
from bench.generated import generated_site
from bench.reach import SIZES
from ops.browser import chromium
from ops.cluster import Cluster
from ops.serving import enter, serving

STAGES = ("reach", "segments", "segments?step=ends", "cabling", "routing", "zones", "zones?step=rules", "expectations")
SECONDS = 2.0
PATIENCE = 240
FRAMES = """
const [seconds, done] = arguments;
const long = [...document.querySelectorAll('main *')].filter((e) => e.scrollHeight > e.clientHeight + 40 && getComputedStyle(e).overflowY !== 'visible')
  .sort((a, b) => b.scrollHeight - a.scrollHeight)[0];
const began = performance.now();
let frames = 0, down = 1;
const step = () => {
  frames += 1;
  if (long) {
    const before = long.scrollTop;
    long.scrollTop += 90 * down;
    if (long.scrollTop === before) down = -down;
    long.dispatchEvent(new WheelEvent('wheel', { deltaY: 90 * down, bubbles: true }));
  }
  const spent = performance.now() - began;
  if (spent < seconds * 1000) requestAnimationFrame(step);
  else done([frames / (spent / 1000), document.querySelectorAll('*').length, !!long]);
};
requestAnimationFrame(step);
"""
WATCH = """
const line = () => document.querySelector('[data-testid=consequences]')?.textContent ?? '';
window.spent = null;
document.addEventListener('keydown', () => {
  const before = line(), began = performance.now();
  const seen = new MutationObserver(() => { if (line() !== before && /pair|nothing/i.test(line())) { seen.disconnect(); window.spent = performance.now() - began; } });
  seen.observe(document.body, { childList: true, subtree: true, characterData: true });
}, { capture: true, once: true });
"""


def main() -> None:
    """Measure the sizes that are named, else S and M and L; of them the stages that are named, else all."""
    console, driver = Console(width=110), chromium()
    try:
        with Cluster.for_a_while() as cluster:
            engine = connect(cluster.url)
            migrate(engine)
            store, now = Store(engine), datetime.now(UTC)
            store.create("demo", load_file(Path("demo/tidewrack.yaml")).raw, now)
            sizes = [a for a in sys.argv[1:] if a in SIZES] or ["S", "M", "L"]
            for size in sizes:
                store.create(size.lower(), generated_site(*SIZES[size]), now)
            with serving(store) as address:
                driver.get(enter(store, address))
                measured(console, driver, address, sizes)
    finally:
        driver.quit()


def measured(console: Console, driver: Chrome, address: str, sizes: list[str]) -> None:
    """Print the edit's time on the demo, and a row a stage and size."""
    spent = edits(driver, address)
    console.print(
        f"demo: a tag out or in, from the key to its consequences: median {statistics.median(spent):.0f} ms, "
        f"slowest {max(spent):.0f} ms of {len(spent)}"
    )
    driver.get("about:blank")
    idle, _, _ = driver.execute_async_script(FRAMES, SECONDS)
    console.print(f"an idle page: {idle:.0f} frames a second")
    for size in sizes:
        table = Table("site", "stage", "first sight s", "again s", "frames/s", "of idle", "nodes")
        for stage in [a for a in sys.argv[1:] if a not in SIZES] or STAGES:
            first, again = (seen(driver, f"{address}/d/{size.lower()}/{stage}") for _ in range(2))
            rate, nodes, scrolls = driver.execute_async_script(FRAMES, SECONDS)
            shown = f"{rate:.0f}" + ("" if scrolls else " (nothing to scroll)")
            table.add_row(size, stage, f"{first:.1f}", f"{again:.1f}", shown, f"{rate / idle:.2f}", str(nodes))
        console.print(table)


def seen(driver: Chrome, page: str) -> float:
    """Open a page and return the seconds until it shows what it is about."""
    driver.set_script_timeout(60)
    began = time.perf_counter()
    driver.get(page)
    WebDriverWait(driver, PATIENCE, poll_frequency=0.05).until(
        lambda d: (
            d.find_elements(By.CSS_SELECTOR, "main h1, main section, main [role=grid], main table")
            and not d.find_elements(By.CSS_SELECTOR, "main [data-working]")
        )
    )
    return time.perf_counter() - began


def edits(driver: Chrome, address: str, times: int = 11) -> list[float]:
    """Take a tag of the demo out and put it in again; return the milliseconds of each edit."""
    seen(driver, f"{address}/d/demo/segments")
    out: list[float] = []

    def found(d: Chrome) -> WebElement | None:
        """A cell out of sight is not drawn."""
        for left in range(0, 6_000, 300):
            if there := d.find_elements(By.CSS_SELECTOR, "[aria-label^='VLAN 130, tank-sw across:']"):
                return there[0]
            d.execute_script("document.querySelector('[data-testid=vlan-grid]').scrollLeft = arguments[0]", left)
        return None

    for k in range(times):
        cell = WebDriverWait(driver, 30).until(found)
        driver.execute_script(WATCH)
        cell.send_keys("xt"[k % 2])
        out.append(WebDriverWait(driver, 30).until(lambda d: d.execute_script("return window.spent")))
        time.sleep(0.4)
    return out[1:]


if __name__ == "__main__":
    main()
