"""The workbench as a person handles it: stages, cells, pairs, the consequences line."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException
from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

T = TypeVar("T")


class Workbench:
    """One open page."""

    def __init__(self, driver: Chrome, address: str) -> None:
        self.driver, self.address = driver, address

    def open(self, path: str) -> None:
        """Go to a place of the design by its address: within the page where it is on the design already, as its own links do."""
        there = f"{self.address}/{path}"
        if self.driver.current_url.startswith(f"{self.address}/"):
            go = "history.pushState(null, '', arguments[0]); dispatchEvent(new PopStateEvent('popstate'))"
            self.driver.execute_script(go, there)
        else:
            self.driver.get(there)
        self.wait(lambda: any(e.is_displayed() for e in self.all("main h1, main [role=status]")))

    def wait(self, what: Callable[[], T]) -> T:
        """Wait until something is true, and return it."""
        patient = WebDriverWait(
            self.driver, 45, 0.1, ignored_exceptions=(NoSuchElementException, StaleElementReferenceException)
        )
        return patient.until(lambda _: what())

    def find(self, css: str) -> WebElement:
        """Return the first element of a selector, once it is there."""
        return self.wait(lambda: self.driver.find_element(By.CSS_SELECTOR, css))

    def all(self, css: str) -> list[WebElement]:
        """Return every element of a selector that is there now."""
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def press(self, *keys: str) -> None:
        """Press keys, wherever the focus is."""
        self.driver.switch_to.active_element.send_keys(*keys)

    def button(self, words: str) -> WebElement:
        """Return the button with some words on it."""
        return self.wait(
            lambda: self.driver.find_element(By.XPATH, f"//button[contains(normalize-space(.), '{words}')]")
        )

    def click(self, words: str) -> None:
        """Click the button, or the choice, with some words on it, once it can be; one that is drawn anew meanwhile is looked for again."""
        called = f"[contains(normalize-space(.), '{words}')]"

        def clicked() -> bool:
            self.driver.find_element(
                By.XPATH, f"//button{called}[not(@disabled)] | //label{called}/input[@type='radio']"
            ).click()
            return True

        self.wait(clicked)

    def cell(self, vlan: int, device: str, port: str) -> WebElement:
        """Return a cell of the VLAN grid once it is there, scrolled into sight: what is out of sight is not drawn."""
        return self.wait(lambda: self.sought(f"[aria-label^='VLAN {vlan}, {device} {port}:']"))

    def sought(self, css: str) -> WebElement | None:
        """Look the VLAN grid over once, from its left end to its right, for a cell."""
        grid = self.driver.find_element(By.CSS_SELECTOR, "[data-testid=vlan-grid]")
        for left in range(0, int(self.driver.execute_script("return arguments[0].scrollWidth", grid)) + 300, 300):
            if found := self.all(css):
                return found[0]
            self.driver.execute_script("arguments[0].scrollLeft = arguments[1]", grid, left)
            self.driver.execute_async_script("requestAnimationFrame(() => requestAnimationFrame(arguments[0]))")
        return None

    def state(self, vlan: int, device: str, port: str) -> str:
        """Return what a cell of the VLAN grid says."""
        return self.cell(vlan, device, port).get_attribute("data-state") or ""

    def pair(self, source: str, target: str) -> WebElement:
        """Return a cell of the matrix."""
        return self.find(f"[aria-label^='{source} to {target}:']")

    def verdict(self, source: str, target: str) -> tuple[str, str]:
        """Return verdict and layer of a cell of the matrix."""
        found = self.pair(source, target)
        return found.get_attribute("data-verdict") or "", found.get_attribute("data-layer") or ""

    @property
    def consequences(self) -> str:
        """Return what the consequences line says."""
        return self.find("[data-testid=consequences]").text

    def says(self, words: str) -> bool:
        """Wait until the consequences line says some words."""
        return self.wait(lambda: words in self.consequences)

    def escape(self) -> None:
        """Press Esc."""
        self.press(Keys.ESCAPE)
