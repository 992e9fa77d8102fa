"""The name test: a server is known, reached, and answers."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, apply
from anabasis.probe import name_test
from anabasis.site import find_place

GATE = "/devices/4"


def put(path: str, value: object) -> dict[str, Any]:
    """Return one operation."""
    return {"op": "add", "path": path, "value": value}


@pytest.mark.parametrize(
    ("patch", "server", "wrong", "layer"),
    [
        ([], "10.64.130.10", None, None),
        ([put(f"{GATE}/dhcp/0/dns", [])], None, "name-unknown", "name"),
        ([put(f"{GATE}/dhcp/0/dns", ["10.99.99.99"])], None, "name-nobody", "name"),
        ([put(f"{GATE}/dhcp/0/dns", ["10.64.110.20"])], None, "name-lost", "rule"),
        ([put(f"{GATE}/dhcp/0/dns", ["10.64.110.20", "10.64.130.10"])], "10.64.130.10", None, None),
    ],
)
def test_a_laptop_asks_for_a_name(
    demo: Loaded, patch: list[dict[str, Any]], server: str | None, wrong: str | None, layer: str | None
) -> None:
    """On a keepers' port, with what its lease says."""
    found = Climb(apply(demo.raw, patch)[1]).plug("hall-sw:1").names
    assert found is not None
    cause = found.cause
    assert (found.server, cause and cause.wrong, cause and cause.layer) == (server, wrong, layer)


def test_a_host_that_was_told_by_hand(climb: Climb) -> None:
    """The same question from any host, over whatever way it has."""
    desk = find_place(climb.site, "desk-7").of(4)
    assert desk is not None
    assert name_test(climb.site, desk, ["10.64.130.10"], "/devices/13").server == "10.64.130.10"
    stopped = name_test(climb.site, desk, ["10.64.110.40"], "/devices/13").cause
    assert stopped is not None
    assert {"/devices/13/dns", f"{GATE}/between_zones"} <= set(stopped.pointers)


def test_a_server_that_does_not_ask_hands_out_what_somebody_has(demo: Loaded) -> None:
    """RFC 2131 section 3.1: probing is what keeps it from that."""
    taken = put("/devices/13/addresses", ["10.64.130.50/24"])
    base = apply(demo.raw, [taken])
    first = Climb(base[1]).plug("hall-sw:1")
    blind = Climb(apply(base[0], [put(f"{GATE}/dhcp/0/probes", False)])[1]).plug("hall-sw:1")
    assert (first.address, blind.address) == ("10.64.130.51", "10.64.130.50")
