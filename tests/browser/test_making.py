"""A site from nothing, on the real page: an empty store, and a small office that works at the end of it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from anabasis.climb import Climb
from anabasis.interchange import read
from anabasis.standin import spoil
from anabasis.store import Store
from ops.serving import enter, serving
from tests.browser.workbench import Workbench
from tests.conftest import NOON
from tests.survey.standing import DEMO, standing


class Hands(Workbench):
    """The workbench with every click and every filled field counted."""

    def __init__(self, driver: Chrome, address: str) -> None:
        super().__init__(driver, address)
        self.used = 0

    def click(self, words: str) -> None:
        """Click a button by its words."""
        self.used += 1
        super().click(words)

    def attachment(self, css: str) -> None:
        """Click whatever a selector finds."""
        self.used += 1

        def tapped() -> bool:
            self.driver.find_element(By.CSS_SELECTOR, css).click()
            return True

        self.wait(tapped)

    def fill(self, css: str, text: str, *more: str) -> None:
        """Write into a field, over what is there."""
        self.used += 1
        field = self.find(css)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text, *more)

    def choose(self, css: str, value: str) -> None:
        """Choose from a list."""
        self.used += 1
        Select(self.find(css)).select_by_value(value)

    def stage(self, name: str) -> None:
        """Go to a stage by the rail."""
        self.used += 1

        def gone() -> bool:
            self.find("nav").find_element(By.XPATH, f".//*[normalize-space(text())='{name}']").click()
            return True

        self.wait(gone)

    def show(self, one: str, two: str) -> None:
        """Put a pair of the matrix on the panel."""
        self.attachment(f"[aria-label^='{one} to {two}:']")

    def boxes(self) -> set[str]:
        """Return the boxes that are drawn."""
        return {b.get_attribute("data-box") or "" for b in self.all("[data-box]")}


class KeysAlone(Hands):
    """Everything by keys: Tab until the thing has the focus, then Enter, Space, arrows or typing. Steps of Tab are not counted."""

    def focus(self, matches: str, *args: str) -> None:
        """Press Tab, or Shift and Tab where it is nearer, until a condition on the focused element (`e`) holds."""
        script = f"const e = document.activeElement; return !!e && e !== document.body && ({matches})"
        behind = (
            "const here = document.activeElement; const all = [...document.querySelectorAll('*')];"
            f"const there = all.find((e) => {matches}); const at = all.indexOf(here), to = all.indexOf(there);"
            "return there !== undefined && at >= 0 && to < at && at - to < all.length / 2"
        )
        step = Keys.SHIFT + Keys.TAB + Keys.NULL if self.driver.execute_script(behind, *args) else Keys.TAB
        for _ in range(400):
            if self.driver.execute_script(script, *args):
                return
            self.press(step)
        raise AssertionError(f"nothing that can be tabbed to matches {matches} {args}")

    def click(self, words: str) -> None:
        """Press a button by its words, once it can be."""
        self.used += 1
        button = (
            "[...document.querySelectorAll('button')].some(b => b.textContent.includes(arguments[0]) && !b.disabled)"
        )
        self.wait(lambda: self.driver.execute_script(f"return {button}", words))
        self.focus("e.tagName === 'BUTTON' && e.textContent.includes(arguments[0])", words)
        self.press(Keys.ENTER)

    def attachment(self, css: str) -> None:
        """Press whatever a selector finds; of a radio group the arrows choose."""
        self.used += 1
        self.find(css)
        radio = "const t = document.querySelector(arguments[0]); return t.getAttribute('role') === 'radio' || t.type === 'radio'"
        if self.driver.execute_script(radio, css):
            group = "e.closest('[role=radiogroup], fieldset') === document.querySelector(arguments[0]).closest('[role=radiogroup], fieldset')"
            self.focus(group, css)
            chosen = "const t = document.querySelector(arguments[0]); return t.getAttribute('aria-checked') === 'true' || t.checked === true"
            for _ in range(12):
                if self.driver.execute_script(chosen, css):
                    return
                self.press(Keys.ARROW_RIGHT)
            raise AssertionError(css)
        self.focus("e.matches(arguments[0])", css)
        self.press(Keys.SPACE if "toggle" in css or "aria-label='sw" in css else Keys.ENTER)

    def fill(self, css: str, text: str, *more: str) -> None:
        """Type over what is there."""
        self.used += 1
        self.find(css)
        self.focus("e.matches(arguments[0])", css)
        self.press(Keys.CONTROL + "a")
        self.press(text, *more)

    def show(self, one: str, two: str) -> None:
        """Put a pair of the matrix on the panel, by the finder."""
        self.used += 2
        self.press("/")
        self.find("dialog input").send_keys(f"{one} {two}")
        self.wait(lambda: f"{one} → {two}" in self.find("dialog").text)
        self.press(Keys.ENTER)
        self.find("[aria-label='The pair']")

    def stage(self, name: str) -> None:
        """Go to a stage by the rail."""
        self.used += 1
        self.focus("e.closest('nav') !== null && e.textContent.includes(arguments[0])", name)
        self.press(Keys.ENTER)


@pytest.fixture
def hands(browser: Chrome, store: Store, request: pytest.FixtureRequest) -> Iterator[Hands]:
    """Return the page of designs of an empty store; a page that logged an error fails its test."""
    with serving(store) as address:
        browser.get(enter(store, address))
        found: Hands = getattr(request, "param", Hands)(browser, address)
        found.find("main h1")
        yield found
        logged = [e["message"] for e in browser.get_log("browser") if e["level"] == "SEVERE"]
        browser.get("about:blank")
    assert not [m for m in logged if not any(f"status of {s}" in m for s in (404, 412, 422))]


def begin(hands: Hands, tile: str) -> None:
    """Begin a design from a tile, with the name that is proposed."""
    hands.click(tile)
    hands.click("Begin")


def add_box(hands: Hands, kind: str, name: str) -> None:
    """Add a box with the name and the ports that are proposed."""
    hands.attachment(f"form[aria-label='Add a box'] label:nth-child({KINDS.index(kind) + 1}) > [type=radio]")
    hands.click("Add it")
    hands.wait(lambda: name in hands.boxes())


KINDS = ["switch", "firewall", "router", "access-point", "outside", "endpoint", "hub"]


def cable(hands: Hands, one: str, two: str) -> None:
    """Plug one cable in, typed."""
    before = len(hands.all("[data-line]"))
    hands.fill("form[aria-label='Plug cables in'] label:nth-of-type(1) input", one)
    hands.fill("form[aria-label='Plug cables in'] label:nth-of-type(2) input", two)
    hands.click("Plug it in")
    hands.wait(lambda: len(hands.all("[data-line]")) > before)


def segment(hands: Hands, name: str, purpose: str, port: str, out: bool = True) -> None:
    """Make a segment of a name and a purpose, with one port whose hosts stand in it."""
    hands.click("New segment")
    hands.fill("dialog input", name)
    hands.attachment(f"dialog input[value={purpose}]")
    if not out:
        hands.attachment("dialog input.toggle")
    hands.attachment(f"dialog [aria-label='{port}']")
    hands.wait(lambda: hands.find("dialog [data-testid=preview]").is_displayed())
    hands.click("Make it")
    hands.wait(lambda: not hands.all("dialog"))
    hands.wait(lambda: name in hands.find("[data-testid=vlan-grid]").text)


def design_of(store: Store) -> Climb:
    """Return the one design there is, climbed."""
    (summary,) = store.designs()
    return Climb(store.draft(summary.id).design)


@pytest.mark.parametrize("hands", [Hands, KeysAlone], indirect=True, ids=["by mouse", "by keys alone"])
def test_a_small_office_from_nothing(hands: Hands, store: Store) -> None:
    """Firewall, switch, three networks, leases, the internet: staff out, guests out but not in, cameras in only; nothing left to mend."""
    begin(hands, "Empty")
    hands.find("form[aria-label='Add a box']")
    add_box(hands, "switch", "sw1")
    hands.attachment("button[aria-pressed]:has(svg.lucide-plus)")
    add_box(hands, "firewall", "gate")
    add_box(hands, "outside", "internet")
    hands.click("Cables")
    cable(hands, "internet:1", "gate:1")
    cable(hands, "gate:2", "sw1:24")
    hands.stage("Routing")
    hands.click("a way out")
    hands.fill("dialog label:nth-of-type(2) input", "198.51.100.2/30")
    hands.fill("dialog label:nth-of-type(3) input", "198.51.100.1")
    hands.click("Make it")
    hands.wait(lambda: not hands.all("dialog"))
    hands.stage("Segments")
    segment(hands, "staff", "inside", "sw1:1")
    segment(hands, "guests", "visitors", "sw1:2")
    segment(hands, "cameras", "inside", "sw1:3", out=False)
    hands.stage("Reach")
    hands.show("staff", "cameras")
    hands.attachment("details:has([data-testid=proposals]) summary")
    hands.click("may pass")
    hands.click("Do it")
    climb = hands.wait(lambda: c if _open(c := design_of(store), "staff", "cameras") else None)
    assert [n for n in ("staff", "guests", "cameras") if _open(climb, n, "internet")] == ["staff", "guests"]
    assert [(a, b) for a in SITES for b in SITES if a != b and _open(climb, a, b)] == [("staff", "cameras")]
    assert climb.plug("sw1:1").address is not None
    assert [f.sentence for f in climb.findings] == []
    assert all(e.holds for e in climb.expectations)
    assert hands.used <= 60, hands.used


SITES = ("staff", "guests", "cameras")


def _open(climb: Climb, one: str, two: str) -> bool:
    return climb.walk(one, two, "https").outcome == "delivered"


def test_designs_are_begun_copied_renamed_removed_and_brought_back(hands: Hands, store: Store) -> None:
    """All from the page of designs and the menu behind the name."""
    begin(hands, "Small office")
    hands.find("[data-testid=consequences]")
    hands.attachment("summary[aria-label^='Design:']")
    hands.click("Rename")
    hands.fill("[aria-label='Name of the design']", "Harbour office", Keys.ENTER)
    hands.wait(lambda: [s.name for s in store.designs()] == ["Harbour office"])
    hands.attachment("summary[aria-label^='Design:']")
    hands.click("All designs")
    hands.find("[data-design='Harbour office']")
    hands.click("Copy")
    hands.find("[data-testid=consequences]")
    assert {s.name for s in store.designs()} == {"Harbour office", "Harbour office, copy"}
    hands.driver.get(hands.address)
    hands.attachment("[aria-label='Remove Harbour office, copy']")
    hands.fill("dialog input", "Harbour office, copy")
    hands.click("Remove it")
    hands.wait(lambda: not hands.all("[data-design='Harbour office, copy']"))
    hands.attachment("details summary")
    hands.attachment("[aria-label='Bring Harbour office, copy back']")
    hands.find("[data-design='Harbour office, copy']")


def test_a_firewall_is_made_a_pair_and_its_plug_pulled(hands: Hands, store: Store) -> None:
    """From a plain firewall between two switches to two units, of which the other takes over."""
    begin(hands, "Empty")
    for kind, name in (("switch", "sw1"), ("switch", "sw2"), ("firewall", "gate")):
        if name != "sw1":
            hands.wait(lambda: hands.all("[data-box]"))
            if not hands.all("form[aria-label='Add a box']"):
                hands.click("Box")
        add_box(hands, kind, name)
    hands.click("Cables")
    cable(hands, "gate:1", "sw1:1")
    cable(hands, "gate:2", "sw2:1")
    hands.stage("Segments")
    hands.click("Paste a list")
    hands.fill("dialog textarea", "10 quay 10.9.10.0/24\n20 shed 10.9.20.0/24")
    hands.click("Add them")
    hands.wait(lambda: "quay" in hands.find("main").text)
    hands.stage("Failover")
    hands.click("Make gate a pair")
    hands.wait(lambda: "gate-b" in hands.find("dialog [data-testid=preview]").text)
    hands.driver.find_element(By.CSS_SELECTOR, "dialog .btn-primary").click()
    hands.wait(lambda: hands.find("[data-unit=gate-a]").get_attribute("data-state") == "active")
    hands.stage("Cabling")
    hands.attachment("[data-box='gate-a']")
    hands.click("fail it")
    hands.stage("Failover")
    hands.wait(lambda: hands.find("[data-unit=gate-b]").get_attribute("data-state") == "active")


def test_ports_become_a_bundle_and_a_host_hangs_on_one(hands: Hands, store: Store) -> None:
    """Chosen on the strip of a box; the far ends are bundled with them."""
    begin(hands, "Empty")
    add_box(hands, "switch", "sw1")
    hands.click("Box")
    add_box(hands, "switch", "sw2")
    hands.click("Cables")
    hands.fill("form[aria-label='Plug cables in'] label:nth-of-type(1) input", "sw1:23-24")
    hands.fill("form[aria-label='Plug cables in'] label:nth-of-type(2) input", "sw2:23-24")
    hands.click("Plug 2 in")
    hands.wait(lambda: hands.all("[data-line]"))
    hands.attachment("[data-box=sw1]")
    hands.click("choose several")
    for port in ("23", "24"):
        hands.attachment(f"[aria-label^='sw1:{port},']")
    hands.fill("[data-testid=port-tools] input:not([type=radio])", "to-sw2")
    hands.click("Make it")
    (summary,) = store.designs()

    def bundles() -> dict[str, list[str]]:
        devices = store.draft(summary.id).tree["devices"]
        return {d["name"]: [x["name"] for x in d.get("lags", [])] for d in devices}

    hands.wait(lambda: bundles() == {"sw1": ["to-sw2"], "sw2": ["to-sw1"]})
    hands.wait(lambda: hands.find("[data-line]").get_attribute("data-state") == "up")
    hands.attachment("[aria-label^='sw1:1,']")
    hands.fill("[aria-label='Name of the host']", "mate")
    hands.click("Put it there")
    hands.wait(lambda: "mate" in hands.boxes())


def test_a_file_that_is_refused_says_why_and_keeps_nothing(hands: Hands, store: Store, tmp_path: object) -> None:
    """Each problem with its place; a sound one opens."""
    bad = f"{tmp_path}/bad.yaml"
    with open(bad, "w", encoding="utf-8") as file:
        file.write("anabasis: 1\nname: Odd\nvlans: [{id: 5000, name: x}]\n")
    hands.find("input[type=file]").send_keys(bad)
    assert "5000" in hands.find("[role=alert]").text
    assert store.designs() == []


def choose_ports(hands: Hands, box: str, ports: tuple[str, ...], name: str, make: str) -> None:
    """Choose ports on the strip of a box, and make something of them."""
    hands.attachment(f"[data-box={box}]")
    hands.click("choose several")
    for port in ports:
        hands.attachment(f"[aria-label^='{box}:{port},']")
    hands.click(make)
    hands.fill("[data-testid=port-tools] input:not([type=radio])", name)
    hands.click("Make it")
    hands.wait(lambda: not hands.all("[data-testid=port-tools]"))


def test_the_firewall_as_a_little_switch(hands: Hands, store: Store) -> None:
    """Spare ports of the small office joined in a VLAN of their own, with a gateway and leases."""
    begin(hands, "Small office")
    hands.find("[data-testid=consequences]")
    hands.stage("Cabling")
    choose_ports(hands, "front", ("3", "4"), "lab", "Little switch")
    climb = hands.wait(lambda: c if "lab" in (c := design_of(store)).site.segments.by_name else None)
    assert climb.plug("front:3").gateway == "10.20.40.1"
    assert climb.findings == []


def test_an_inline_pair_in_front_of_a_box(hands: Hands, store: Store) -> None:
    """A firewall unseen between a switch and a host: nothing passes until its two zones and a rule are there."""
    begin(hands, "Empty")
    add_box(hands, "switch", "sw1")
    hands.click("Box")
    add_box(hands, "firewall", "gate")
    add_box(hands, "endpoint", "host1")
    add_box(hands, "endpoint", "host2")
    choose_ports(hands, "gate", ("1", "2"), "line", "Inline pair")
    hands.click("Cables")
    for ends in (("sw1:1", "host1:1"), ("sw1:2", "gate:1"), ("gate:2", "host2:1")):
        cable(hands, *ends)
    for port, zone in ((0, "front"), (1, "rear")):
        hands.driver.get(f"{hands.driver.current_url.split('?')[0]}?at=/devices/1/ports/{port}")
        hands.choose("aside [data-key=zone]", " new")
        hands.fill("dialog [data-key=name]", zone, Keys.TAB)
        hands.choose("dialog [data-key=kind]", "inline")
        hands.click("Make it")
        hands.wait(lambda zone=zone: Select(hands.find("aside [data-key=zone]")).first_selected_option.text == zone)
    (summary,) = store.designs()
    device = store.draft(summary.id).tree["devices"][1]
    assert [(p["mode"], p["zone"]) for p in device["ports"][:2]] == [("inline", "front"), ("inline", "rear")]
    assert device["wires"] == [{"name": "line", "ends": ["1", "2"]}]


def test_a_multilayer_switch_behind_with_routes_both_ways(hands: Hands, store: Store) -> None:
    """From the plant floor: its own routes taken out by hand, then back by the findings; both ways work again."""
    begin(hands, "Plant floor")
    hands.wait(lambda: hands.boxes())
    address = hands.driver.current_url.rpartition("/")[0]
    hands.driver.get(f"{address}/routing?box=hall-core&at=/devices/2/vrfs/0/routes/0")
    hands.click("Take it out")
    hands.wait(lambda: hands.find("dialog [data-testid=preview]").text)
    hands.attachment("dialog .btn-error")
    hands.wait(lambda: not _drives(store))
    hands.driver.get(f"{address}/routing?box=hall-core")
    hands.click("route")
    hands.wait(lambda: hands.find("dialog [data-key=via]").get_attribute("value") == "10.40.254.1")
    hands.click("Make it")
    hands.wait(lambda: _drives(store))


def _drives(store: Store) -> bool:
    return design_of(store).walk("planning", "presses", "tcp/502").outcome == "delivered"


def test_an_access_point_and_a_network_in_the_air(hands: Hands, store: Store) -> None:
    """The box by its kind, a network in one of the site's VLANs as proposed, and a laptop that joins it."""
    begin(hands, "Plant floor")
    hands.wait(lambda: hands.boxes())
    (summary,) = store.designs()
    address = hands.driver.current_url.rpartition("/")[0]
    hands.click("Box")
    add_box(hands, "access-point", "ap1")
    at = len(store.draft(summary.id).tree["devices"]) - 1
    hands.driver.get(f"{address}/cabling?at=/devices/{at}")
    hands.attachment("[aria-label='Add to SSIDs']")
    hands.wait(lambda: hands.find("dialog [data-key=name]").get_attribute("value"))
    hands.click("Make it")
    hands.wait(lambda: store.draft(summary.id).tree["devices"][at].get("ssids"))
    hands.driver.get(f"{address}/cabling?at=/devices/{at}/ssids/0")
    hands.click("a laptop")
    hands.wait(lambda: hands.find("[data-testid=plug]").text)  # the network is there, and its uplink not yet cabled


def test_a_router_speaks_ospf_as_proposed(hands: Hands, store: Store) -> None:
    """Its interfaces are proposed, passive where no other router stands; the group has a page with what stands in it."""
    begin(hands, "Plant floor")
    hands.wait(lambda: hands.boxes())
    (summary,) = store.designs()
    address = hands.driver.current_url.rpartition("/")[0]
    hands.driver.get(f"{address}/routing?box=hall-core&at=/devices/2/vrfs/0")
    hands.attachment("details[data-part=ospf] summary")
    hands.click("state them")
    hands.wait(lambda: hands.find("dialog [data-key=router_id]").get_attribute("value"))
    hands.click("Make it")

    def told() -> list[dict[str, object]]:
        found = store.draft(summary.id).tree["devices"][2]["vrfs"][0].get("ospf", {}).get("interfaces", [])
        return [e for e in found if "interface" in e]

    hands.wait(lambda: told())
    assert {bool(e["passive"]) for e in told()} == {True, False}
    hands.driver.get(f"{address}/routing?box=hall-core&at=/devices/2/vrfs/0/ospf")
    hands.find("[aria-label='Add to Redistributes']")


def test_keepers_dial_in_and_a_tunnel_says_why_it_is_down(hands: Hands, store: Store) -> None:
    """A pool and a zone make a row of the matrix; an end of a tunnel that nobody answers is found, with what is wrong outside."""
    begin(hands, "Small office")
    hands.wait(lambda: hands.boxes())
    (summary,) = store.designs()
    address = hands.driver.current_url.rpartition("/")[0]
    boxes = store.draft(summary.id).tree["devices"]
    at = next(k for k, d in enumerate(boxes) if d["kind"] == "firewall")
    hands.driver.get(f"{address}/routing?box={boxes[at]['name']}")
    hands.click("dial-in")
    hands.wait(lambda: hands.find("dialog [data-key=pool]"))
    hands.fill("dialog [data-key=pool]", "10.9.0.0/24", Keys.TAB)
    hands.click("Make it")
    hands.wait(lambda: store.draft(summary.id).tree["devices"][at].get("remote_access"))
    hands.click("tunnel")
    hands.wait(lambda: hands.find("dialog [data-key=peer]"))
    hands.fill("dialog [data-key=peer]", "203.0.113.77", Keys.TAB)
    hands.click("Make it")
    hands.wait(lambda: store.draft(summary.id).tree["devices"][at].get("tunnels"))
    hands.wait(
        lambda: (
            "does not get to 203.0.113.77" in hands.find("body").text or "at 203.0.113.77" in hands.find("body").text
        )
    )
    out = next(k for k, d in enumerate(boxes) if d["kind"] == "outside")
    hands.driver.get(f"{address}/routing?box={boxes[out]['name']}")
    hands.click("tunnel it takes")
    hands.wait(lambda: hands.find("dialog [data-key=prefixes]"))
    hands.fill("dialog [data-key=prefixes]", "10.90.0.0/24", Keys.TAB)
    hands.click("Make it")
    hands.wait(lambda: store.draft(summary.id).tree["devices"][out].get("offers"))
    hands.driver.get(f"{address}/reach")
    hands.wait(lambda: "dial-in" in hands.find("main").text)
    hands.wait(lambda: "tunnel" in hands.find("main").text)


def test_a_tenant_on_an_overlay_and_another_like_it(hands: Hands, store: Store) -> None:
    """A loopback, an instance as proposed, a VLAN stretched; then another tenant, with everything that has to be unique its own."""
    begin(hands, "Plant floor")
    hands.wait(lambda: hands.boxes())
    (summary,) = store.designs()
    address = hands.driver.current_url.rpartition("/")[0]

    def core() -> dict[str, list[dict[str, object]]]:
        found: dict[str, list[dict[str, object]]] = store.draft(summary.id).tree["devices"][2]
        return found

    hands.driver.get(f"{address}/routing?box=hall-core")
    hands.click("loopback")
    hands.wait(lambda: hands.find("dialog [data-key=name]").get_attribute("value"))
    hands.click("Make it")
    hands.wait(lambda: core().get("loopbacks"))
    hands.click("MAC-VRF")
    hands.wait(lambda: hands.find("dialog [data-key=source]"))
    hands.click("Make it")
    hands.wait(lambda: core().get("mac_vrfs"))
    hands.driver.get(f"{address}/routing?box=hall-core&at=/devices/2/mac_vrfs/0")
    hands.attachment("[aria-label='Add to VLANs on the overlay']")
    hands.wait(lambda: hands.find("dialog [data-key=vni]").get_attribute("value"))
    hands.click("Make it")
    hands.wait(lambda: core()["mac_vrfs"][0].get("vlans"))
    hands.driver.get(f"{address}/routing?box=hall-core&at=/devices/2/mac_vrfs/0")
    hands.wait(
        lambda: hands.driver.find_element(By.XPATH, "//summary[text()='Another tenant like this']").click() or True
    )
    hands.wait(
        lambda: (
            len(hands.driver.find_elements(By.CSS_SELECTOR, "form[aria-label='Another tenant like this'] input")) > 3
        )
    )
    hands.click("Make it")
    hands.wait(lambda: len(core()["mac_vrfs"]) == 2)
    one, two = core()["mac_vrfs"]
    assert all(one[key] != two[key] for key in ("name", "vlans", "export"))


def test_a_rule_gets_hours_and_the_matrix_is_asked_as_of_a_time(hands: Hands, store: Store) -> None:
    """Working hours as proposed; the matrix marks what is open by the hour, and is asked about any time."""
    begin(hands, "Small office")
    hands.wait(lambda: hands.boxes())
    (summary,) = store.designs()
    address = hands.driver.current_url.rpartition("/")[0]
    boxes = store.draft(summary.id).tree["devices"]
    at = next(k for k, d in enumerate(boxes) if d["kind"] == "firewall")
    hands.driver.get(f"{address}/zones?at=/devices/{at}/rules/1")
    hands.attachment("details[data-part=when] summary")
    hands.click("state them")
    hands.wait(lambda: hands.find("dialog [data-key=start]").get_attribute("value"))
    hands.click("Make it")
    hands.wait(lambda: store.draft(summary.id).tree["devices"][at]["rules"][1].get("when"))
    hands.wait(lambda: "by the hour" in hands.find("main").text)
    hands.driver.get(f"{address}/reach")
    hands.wait(lambda: "more at some time than at any time" in hands.find("main").text)
    hands.choose("[aria-label=When]", "always")
    hands.wait(lambda: "as_of=always" in hands.driver.current_url)
    hands.wait(lambda: "more at some time than at any time" not in hands.find("main").text)


def test_a_port_list_from_the_clipboard_makes_a_site(hands: Hands, store: Store) -> None:
    """96 ports and their VLANs in one edit; what has no place stays in the box; a file of VLANs is dropped on the workbench."""
    begin(hands, "Empty")
    hands.wait(lambda: len(store.designs()) == 1)
    (summary,) = store.designs()
    hands.wait(lambda: hands.find("[aria-label=Stage]"))
    rows = [f"quay-{b}\\t{n}\\t{10 + n % 3}" for b in "ab" for n in range(1, 49)]
    text = "\\n".join(["Switch\\tPort\\tAccess VLAN", *rows, "quay-a\\t49\\tpumps"])
    hands.driver.execute_script(
        f"const d = new DataTransfer(); d.setData('text/plain', '{text}');"
        "document.body.dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true}))"
    )
    hands.wait(
        lambda: "96 rows have a place" in hands.find("dialog").text and "1 has none" in hands.find("dialog").text
    )
    hands.click("Take over 96 rows")
    hands.wait(lambda: len(store.draft(summary.id).tree.get("devices", [])) == 2)
    tree = store.draft(summary.id).tree
    assert [len(d["ports"]) for d in tree["devices"]] == [48, 48]
    assert sorted(v["id"] for v in tree["vlans"]) == [10, 11, 12]
    hands.wait(lambda: "pumps" in (hands.find("dialog textarea").get_attribute("value") or ""))
    assert "48" not in (hands.find("dialog textarea").get_attribute("value") or "")
    hands.driver.find_element("tag name", "body").send_keys(Keys.ESCAPE)
    hands.driver.execute_script(
        "const d = new DataTransfer(); d.items.add(new File(['id;name\\n11;crew\\n40;stores\\n'], 'vlans.csv', {type: 'text/csv'}));"
        "document.querySelector('main').dispatchEvent(new DragEvent('drop', {dataTransfer: d, bubbles: true, cancelable: true}))"
    )
    hands.wait(lambda: "2 rows have a place" in hands.find("dialog").text)
    hands.click("Take it over")
    hands.wait(lambda: {v["id"]: v["name"] for v in store.draft(summary.id).tree["vlans"]}.get(40) == "stores")
    assert {v["id"]: v["name"] for v in store.draft(summary.id).tree["vlans"]}[11] == "crew"


def test_the_site_is_asked_and_taken_over(hands: Hands, store: Store) -> None:
    """Two boxes that answer on loopback, one of them spoiled: asked, what differs is shown with its weight, and taken over in one edit."""
    spoiled, _ = spoil(DEMO, 9, 1)
    store.create("tidewrack", DEMO, NOON)
    with standing({}, tree=spoiled, only=("gate-a", "hall-sw")) as boxes:
        hands.driver.get(hands.address.partition("/d/")[0] + "/d/tidewrack/history?step=site")
        hands.click("Ask the site")
        hands.find("textarea[aria-label=Boxes]").send_keys(" ".join(f"127.0.0.1:{b.port}" for b in boxes))
        for label, text in (("RESTCONF user", "anybody"), ("RESTCONF password", "by hand")):
            hands.driver.find_element("xpath", f"//label[contains(., '{label}')]/input").send_keys(text)
        hands.click("Ask 2 boxes")
        hands.wait(lambda: "are otherwise on the site" in hands.find("[data-testid=site-count]").text)
        table = hands.find("table[aria-label=Differences]").text
        assert "bundle hall, tag 130, its addresses" in table
        hands.wait(lambda: "breaks" in hands.find("table[aria-label=Differences]").text)
        label = "bundle hall, tag 130, its addresses: "
        hands.driver.find_element("css selector", f"input[aria-label*='{label}']").click()
        hands.click("The site is right")
        hands.wait(lambda: "pairs closed" in hands.find("dialog [data-testid=preview]").text)
        hands.click("Make the design say so")
        gate = next(k for k, d in enumerate(DEMO["devices"]) if d["name"] == "gate")
        hands.wait(lambda: store.draft("tidewrack").version == 2)
        tag = store.draft("tidewrack").tree["devices"][gate]["lags"][0]["subinterfaces"][0]
        assert tag["addresses"][0] == "10.64.130.1/28"
        hands.wait(lambda: label[:-2] not in hands.find("table[aria-label=Differences]").text)


def test_a_range_of_the_grid_is_copied(hands: Hands, store: Store) -> None:
    """As a port list, which pasted again changes nothing."""
    store.create("tidewrack", DEMO, NOON)
    hands.driver.get(hands.address.partition("/d/")[0] + "/d/tidewrack/segments")
    cell = hands.find("[data-spot='0 0']")
    hands.driver.execute_script("arguments[0].focus()", cell)
    hands.press(Keys.SHIFT, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    text = hands.driver.execute_script(
        "const d = new DataTransfer(); document.activeElement.dispatchEvent(new ClipboardEvent('copy', {clipboardData: d, bubbles: true, cancelable: true}));"
        "return d.getData('text/plain')"
    )
    assert text.startswith("device\tport\tpvid\tuntagged\ttagged\tnote\n")
    found = read("ports", text, DEMO)
    assert (found.placed, found.patch) == (len(text.splitlines()) - 1, [])
    assert found.placed >= 2
