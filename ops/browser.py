"""A headless Chromium, set up the one way the tests and the pictures need it."""

from __future__ import annotations

import atexit
import shutil
import tempfile

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--disable-dev-shm-usage",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--hide-scrollbars",
)


def chromium(width: int = 1280, height: int = 800) -> webdriver.Chrome:
    """Return a browser with a profile of its own and a window of exactly this size."""
    profile = tempfile.mkdtemp(prefix="anabasis-browser-")
    atexit.register(shutil.rmtree, profile, ignore_errors=True)
    options = Options()
    options.binary_location = "/usr/bin/chromium"
    for flag in (
        *FLAGS,
        f"--window-size={width},{height}",
        f"--user-data-dir={profile}",
    ):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    as_desk(driver, width, height)
    return driver


def as_desk(driver: webdriver.Chrome, width: int = 1280, height: int = 800) -> None:
    """Make the page exactly this size, as on a desk, and on the network."""
    size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    on_network(driver, True)


def as_phone(driver: webdriver.Chrome) -> None:
    """Make the page the size of a phone, 390 pixels wide."""
    size = {"width": 390, "height": 844, "deviceScaleFactor": 2, "mobile": True}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)


def on_network(driver: webdriver.Chrome, there: bool) -> None:
    """Give the page its network, or take it away."""
    state = {"offline": not there, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
    driver.execute_cdp_cmd("Network.enable", {})
    driver.execute_cdp_cmd("Network.emulateNetworkConditions", state)
