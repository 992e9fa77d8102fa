"""Who is handed what (RFC 2131): one server, two that do not know of each other, addresses that are taken, and what is kept for a host."""

from __future__ import annotations

from typing import Any

from anabasis.design import parse_design
from anabasis.leases import build_site
from anabasis.site import Handed
from tests.sites import Tree, access, plan, switch


def site(*servers: Tree, hosts: dict[str, Tree]) -> Tree:
    """Return a switch with a VLAN, routers beside each other that hand out addresses in it, and hosts."""
    count = len(servers)
    sw = switch("sw", *(access(str(n + 1), 11) for n in range(count + len(hosts))))
    routers = [
        {
            "name": f"r{n}",
            "kind": "router",
            "ports": [{"name": "1", "mode": "routed", "addresses": [f"10.64.11.{n + 1}/24"]}],
            "dhcp": [{"interface": "1", "mode": "server", **server}],
        }
        for n, server in enumerate(servers)
    ]
    ends = [{"name": name, "kind": "endpoint", **more} for name, more in hosts.items()]
    cables = [[f"sw:{n + 1}", f"{d['name']}:1"] for n, d in enumerate([*routers, *ends])]
    return {"anabasis": 1, "name": "Leases", "vlans": plan(11), "devices": [sw, *routers, *ends], "cables": cables}


def handed(tree: Tree) -> dict[str, Handed]:
    """Return what became of every client's request."""
    return {name: found for (name, _), found in build_site(parse_design(tree)).handed.items()}


RANGE: dict[str, Any] = {"ranges": ["10.64.11.20-10.64.11.21"], "gateway": "10.64.11.1"}


def test_two_servers_are_told_of_and_one_is_not() -> None:
    """Where several servers hear a client, all of them are named, and the first one answers."""
    one = handed(site(RANGE, hosts={"desk": {"dhcp": True}}))["desk"]
    assert one.leased is not None
    assert str(one.leased.address) == "10.64.11.20/24"
    assert not one.several
    two = handed(site(RANGE, {**RANGE, "ranges": ["10.64.11.30"]}, hosts={"desk": {"dhcp": True}}))["desk"]
    assert len(two.several) == 2
    assert two.leased is not None
    assert str(two.leased.address.ip) == "10.64.11.20"


def test_no_address_is_handed_out_twice() -> None:
    """Clients get the range in its order, each another address, and the last one nothing."""
    found = handed(site(RANGE, hosts={n: {"dhcp": True} for n in ("a", "b", "c")}))
    leases = [str(f.leased.address.ip) if f.leased is not None else None for f in found.values()]
    assert leases == ["10.64.11.20", "10.64.11.21", None]
    assert found["c"].cause is not None


def test_who_asks_first_offers_no_address_that_somebody_has() -> None:
    """A server that probes passes over an address in use (RFC 2131 section 3.1); one that does not hands it out."""
    still = {"addresses": ["10.64.11.20/24"]}
    asks = handed(site(RANGE, hosts={"desk": {"dhcp": True}, "still": still}))["desk"]
    blind = handed(site({**RANGE, "probes": False}, hosts={"desk": {"dhcp": True}, "still": still}))["desk"]
    assert asks.leased is not None
    assert str(asks.leased.address.ip) == "10.64.11.21"
    assert blind.leased is not None
    assert str(blind.leased.address.ip) == "10.64.11.20"
