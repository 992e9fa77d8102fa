"""What a box tells whom about itself: every service an interface answers, and what strangers can ask first."""

from __future__ import annotations

from anabasis.climb import Climb
from anabasis.design import Loaded, apply
from anabasis.views import answers_grids


def test_every_interface_with_an_address_has_a_column(climb: Climb) -> None:
    """And a cell for each service of its list, with the sources that are answered; DHCP where it serves."""
    grid = next(g for g in answers_grids(climb.site) if g.device == "gate")
    assert {c.interface for c in grid.columns} == {
        i.name for i in climb.site.net.interfaces if i.device == "gate" and i.addresses
    }
    cells = {(c.service, c.interface): c for c in grid.cells}
    assert cells["ssh", "hall.130"].sources == ["10.64.130.0/24"]
    assert ("DHCP", "hall.160") in cells
    assert ("ssh", "hall.160") not in cells
    assert not any(c.risky for c in grid.cells)


def test_what_strangers_can_ask_stands_first_and_is_marked(demo: Loaded) -> None:
    """Only the management services, not the ping beside them."""
    patch = [{"op": "replace", "path": "/devices/4/answers/2/services", "value": ["ping", "dns", "ssh"]}]
    grid = next(g for g in answers_grids(Climb(apply(demo.raw, patch)[1]).site) if g.device == "gate")
    assert grid.columns[0].interface == "hall.160"
    assert {c.service for c in grid.cells if c.risky} == {"ssh"}


def test_a_set_that_holds_a_management_service_is_marked_by_its_name(demo: Loaded) -> None:
    """`web` is a set of the design with https in it."""
    patch = [{"op": "replace", "path": "/devices/4/answers/2/services", "value": ["ping", "web"]}]
    grid = next(g for g in answers_grids(Climb(apply(demo.raw, patch)[1]).site) if g.device == "gate")
    assert {c.service for c in grid.cells if c.risky} == {"web"}
