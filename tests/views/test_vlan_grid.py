"""The VLAN grid of the demo: columns by neighbour, cells by membership, states by segment."""

from __future__ import annotations

from anabasis.climb import Climb
from anabasis.design import Loaded, apply, set_membership
from anabasis.views import Grid, vlan_grid


def cell(grid: Grid, vlan: int, device: str, port: str) -> str:
    """Return one cell."""
    columns = [(d.name, p.name) for d in grid.devices for p in d.ports]
    return next(r for r in grid.rows if r.vlan == vlan).cells[columns.index((device, port))]


def test_cells(climb: Climb) -> None:
    """Untagged with PVID, tagged, a subinterface, nothing."""
    grid = vlan_grid(climb.site.segments)
    assert cell(grid, 130, "hall-sw", "1") == "untagged"
    assert cell(grid, 180, "hall-sw", "1") == "tagged"
    assert cell(grid, 130, "gate", "hall") == "routed"
    assert cell(grid, 110, "hall-sw", "1") == ""


def test_odd_memberships(demo: Loaded) -> None:
    """A PVID without membership and a membership without PVID are told from an access port."""
    patch = [{"op": "replace", "path": "/devices/6/ports/0/pvid", "value": 120}]
    grid = vlan_grid(Climb(apply(demo.raw, patch)[1]).site.segments)
    assert cell(grid, 110, "tank-sw", "1") == "leaves"
    assert cell(grid, 120, "tank-sw", "1") == "enters"


def test_neighbours_stand_side_by_side(climb: Climb) -> None:
    """The firewall first; the two ends of the uplink between the switches touch."""
    grid = vlan_grid(climb.site.segments)
    names = [d.name for d in grid.devices]
    assert names[0] == "gate"
    columns = [(d.name, p.name) for d in grid.devices for p in d.ports]
    assert abs(columns.index(("tank-sw", "across")) - columns.index(("hall-sw", "across"))) == 1


def test_states(demo: Loaded, climb: Climb) -> None:
    """Whole, switched only, empty; and in islands once the uplink lacks the tag."""
    states = {r.name: r.state for r in vlan_grid(climb.site.segments).rows}
    assert (states["keepers"], states["quarantine"], states["unused"]) == ("whole", "switched", "empty")
    broken = apply(demo.raw, set_membership(demo.raw, "tank-sw", "across", 130, "none"))[1]
    row = next(r for r in vlan_grid(Climb(broken).site.segments).rows if r.vlan == 130)
    assert (row.state, row.segments) == ("islands", ["keepers@hall-sw", "keepers@tank-sw"])
