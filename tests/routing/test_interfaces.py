"""Layer-3 interfaces: what there is, up or not, and why."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, apply
from anabasis.routing import interface_rows
from anabasis.routing.interfaces import PortState

GATE, LAB = "/devices/4", "/devices/7"


def rows(demo: Loaded, *patch: dict[str, Any]) -> dict[tuple[str, str], PortState]:
    """Return the rows of the demo after an edit, by device and interface."""
    site = Climb(apply(demo.raw, list(patch))[1]).site
    return {(r.device, r.interface): r for r in interface_rows(site.fabric, site.net.interfaces)}


def test_every_port_bundle_and_interface_has_one_row(demo: Loaded) -> None:
    """Once a device, whichever unit is active; in document order."""
    found = rows(demo)
    gate = [name for device, name in found if device == "gate"]
    assert {"1", "2", "hall", "hall.130", "vlan150"} <= set(gate)
    assert len(gate) == len(set(gate))
    assert found["gate", "hall.130"].zone == "house"
    assert found["gate", "9"].vrf == "reef"
    assert found["desk-7", "1"].addresses == ["10.64.130.77/24", "fd64:0:0:130::77/64"]


@pytest.mark.parametrize(
    ("patch", "device", "interface", "reason"),
    [
        (
            [{"op": "add", "path": f"{LAB}/ports/{k}/enabled", "value": False} for k in (2, 3)],
            "lab-sw",
            "vlan170",
            "every port of lab-sw that carries VLAN 170 is down",
        ),
        ({"op": "replace", "path": f"{LAB}/vlans", "value": [170]}, "lab-sw", "vlan171", "not in the VLAN table"),
        ({"op": "add", "path": f"{LAB}/vlan_interfaces/0/enabled", "value": False}, "lab-sw", "vlan170", "is disabled"),
        (
            {"op": "add", "path": f"{GATE}/lags/0/enabled", "value": False},
            "gate",
            "hall.130",
            "gate-a:hall is disabled",
        ),
        (
            {"op": "add", "path": f"{GATE}/lags/0/subinterfaces/0/enabled", "value": False},
            "gate",
            "hall.130",
            "is disabled",
        ),
    ],
)
def test_down_for_a_reason(demo: Loaded, patch: Any, device: str, interface: str, reason: str) -> None:
    """The interface says what takes it down, and its subnet is gone from the table."""
    patch = patch if isinstance(patch, list) else [patch]
    found = rows(demo, *patch)[device, interface]
    assert (found.up, reason in found.reason) == (False, True), found.reason
    site = Climb(apply(demo.raw, patch)[1]).site
    routes = [
        r
        for t in site.net.tables.values()
        for r in t.routes
        if (r.device, r.interface, r.origin) == (device, interface, "connected")
    ]
    assert routes
    assert not any(r.active for r in routes)


def test_where_it_follows_no_ports_an_interface_is_up_by_itself(demo: Loaded) -> None:
    """A setting of the device, as platforms disagree."""
    down = {"op": "add", "path": f"{LAB}/ports/2/enabled", "value": False}
    alone = {"op": "add", "path": f"{LAB}/follows_ports", "value": False}
    assert not rows(demo, down)["lab-sw", "vlan170"].up
    assert rows(demo, down, alone)["lab-sw", "vlan170"].up


def test_following_ports_tells_every_reason(demo: Loaded) -> None:
    """A VLAN interface that is down names each port that could hold it up, and why it does not."""
    own = demo.raw["devices"][7]["ports"]
    ports = [p for p in own if 170 in p.get("untagged", []) + p.get("tagged", [])]
    off = [{"op": "add", "path": f"{LAB}/ports/{own.index(p)}/enabled", "value": False} for p in ports]
    row = rows(demo, *off)["lab-sw", "vlan170"]
    assert len(row.reasons) == len(ports) > 1
    for port, reason in zip(ports, row.reasons, strict=True):
        assert f"lab-sw:{port['name']} " in reason
        assert reason in row.reason


def test_a_loopback_is_always_up(demo: Loaded) -> None:
    """It has no line."""
    loopback = {"op": "add", "path": f"{LAB}/loopbacks", "value": [{"name": "lo", "addresses": ["10.64.250.1/32"]}]}
    assert rows(demo, loopback)["lab-sw", "lo"].up


def test_a_row_stands_once(demo: Loaded) -> None:
    """Whatever an interface is: a port and a bundle that are routed have one row, not one as a port and one as an interface."""
    site = Climb(demo.design).site
    names = [(r.device, r.interface) for r in interface_rows(site.fabric, site.net.interfaces)]
    assert len(names) == len(set(names))
