"""Things by pointer: their names, what they lean on, what leans on them."""

from __future__ import annotations

import pytest

from anabasis.design import Loaded, all_links, item
from anabasis.design.uses import uses
from anabasis.errors import UnknownPlace


def test_a_pointer_into_a_thing_leads_to_the_thing(demo: Loaded) -> None:
    """Of the tagged VLANs of a bundle, the bundle."""
    thing = item(demo.raw, "/devices/6/lags/0/tagged")
    assert (thing.kind, thing.title, thing.pointer) == ("Bundle", "tank-sw across", "/devices/6/lags/0")
    assert [x.title for x in thing.depends_on] == ["130 keepers", "180 intercom"]
    assert [x.title for x in thing.needed_by] == ["tank-sw 19", "tank-sw 20"]


def test_a_default_that_is_left_out_leads_to_its_owner(demo: Loaded) -> None:
    """`between_zones` is not written in the demo; its pointer leads to the firewall."""
    assert item(demo.raw, "/devices/4/between_zones").title == "gate"


@pytest.mark.parametrize("pointer", ["/devices/99", "/nothing/here", "/vlans/0/subnets/9/4", "vlans", "/vlans/x"])
def test_pointers_to_nowhere(demo: Loaded, pointer: str) -> None:
    """Nothing is there, and that is said."""
    with pytest.raises(UnknownPlace, match="nothing is there"):
        item(demo.raw, pointer)


def test_every_link_leads_to_a_thing_with_a_name(demo: Loaded) -> None:
    """All uses and all names of the demo resolve; a subinterface is called as the tables call it."""
    links = {x.pointer: x for x in all_links(demo.raw)}
    assert all(x.title and x.kind for x in links.values())
    for use in uses(demo.design):
        assert item(demo.raw, use.target).pointer == use.target
        assert item(demo.raw, use.source).pointer == use.source
    assert links["/devices/4/lags/0/subinterfaces/0"].title == "gate hall.130"


def test_a_zone_is_needed_by_its_interfaces_and_rules(demo: Loaded) -> None:
    """And by the expectations that speak of it."""
    kinds = {x.kind for x in item(demo.raw, "/devices/4/zones/2").needed_by}
    assert kinds == {"Subinterface", "Rule", "Expectation"}
