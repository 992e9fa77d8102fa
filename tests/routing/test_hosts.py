"""Hosts: which addresses they may have, and where they send what is not on their link."""

from __future__ import annotations

from ipaddress import ip_address
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.facts import Wrong
from anabasis.routing import HostGroup, Network3
from tests.counts import law
from tests.sites import Tree, access, design_of, plan, sites, switch, trunk


def network(*interfaces: Tree, endpoint: Tree | None = None, routing: bool = True) -> Network3:
    """Return a switch with a host port in VLAN 11, and VLAN interfaces of its own."""
    devices = [switch("s", access("1", 11), access("2", 11), vlan_interfaces=list(interfaces), routing=routing)]
    cables = []
    if endpoint:
        devices.append({"name": "host", "kind": "endpoint", **endpoint})
        cables = [["s:1", "host:1"]]
    return Climb(design_of(vlans=plan(11), devices=devices, cables=cables)).site.net


def group(net: Network3, endpoint: str | None = None) -> HostGroup:
    """Return the hosts of VLAN 11, or one endpoint."""
    return next(g for g in net.hosts if g.endpoint == endpoint)


GATE: dict[str, Any] = {"vlan": 11, "addresses": ["10.64.11.1/24"]}


def test_the_only_interface_is_the_gateway() -> None:
    """And no host has its address, the network's or the broadcast address."""
    net = network(GATE)
    assert group(net).gateway == ip_address("10.64.11.1")
    base = int(ip_address("10.64.11.0"))
    assert net.host_spans(group(net)) == [(base + 2, base + 254)]


def test_a_management_address_is_no_gateway() -> None:
    """Of a switch that does not route."""
    found = group(network(GATE, routing=False))
    assert found.gateway is None
    assert found.cause is not None
    assert found.cause.wrong == Wrong.ROUTING_OFF


def test_an_endpoint_uses_its_own_setting() -> None:
    """Given gateways win; of a list, the one of the family."""
    net = network(GATE, endpoint={"addresses": ["10.64.11.9/24"], "gateway": ["fd64::1", "10.64.11.7"]})
    assert group(net, "host").gateway == ip_address("10.64.11.7")
    assert group(net).gateway == ip_address("10.64.11.1")


def test_an_endpoint_of_another_subnet_keeps_its_address() -> None:
    """And says that it stands where it does not belong."""
    net = network(GATE, endpoint={"addresses": ["10.64.99.9/24"]})
    assert [g.endpoint for g in net.hosts] == ["host", None]
    assert net.hosts[0].stray is not None


def test_several_gateways_are_no_choice() -> None:
    """Two devices that route in one subnet, and nothing says which."""
    one = switch("s", access("1", 11), trunk("up", 11), routing=True, vlan_interfaces=[GATE])
    two = switch("t", trunk("up", 11), routing=True, vlan_interfaces=[{"vlan": 11, "addresses": ["10.64.11.2/24"]}])
    net = Climb(design_of(vlans=plan(11), devices=[one, two], cables=[["s:up", "t:up"]])).site.net
    cause = group(net).cause
    assert cause is not None
    assert cause.wrong == Wrong.SEVERAL_GATEWAYS


def test_behind_an_outside(climb: Climb) -> None:
    """Neither the design's own subnets nor private space are behind the internet."""
    net = climb.site.net
    spans = [s for g in net.hosts if g.behind == "internet" and g.subnet.version == 4 for s in net.host_spans(g)]

    def behind(text: str) -> bool:
        return any(low <= int(ip_address(text)) <= high for low, high in spans)

    assert behind("192.0.2.200")
    for inside in ("10.64.110.20", "10.99.0.1", "203.0.113.70", "198.51.100.2", "127.0.0.1", "224.0.0.5"):
        assert not behind(inside), inside


@law(300, 60)
@given(sites(), st.integers(0, 2**16 - 1), st.integers(0, 600))
def test_hosts_in_an_interval(tree: Tree, start: int, length: int) -> None:
    """Those of the site's own subnets that have an address there; none where it reaches beyond every subnet."""
    net = Climb(parse_design(tree)).site.net
    own = [g for g in net.hosts if not g.behind and g.subnet.version == 4]
    firsts = sorted(int(g.subnet.network_address) for g in own) or [0]
    low = firsts[start % len(firsts)] + start % 300
    high = low + length
    holding = [g for g in own if any(a <= high and low <= b for a, b in net.host_spans(g))]
    inside = any(int(g.subnet[0]) <= low and high <= int(g.subnet[-1]) for g in holding)
    assert sorted(map(id, net.hosts_in(4, low, high))) == (sorted(map(id, holding)) if inside else [])


SIX: dict[str, Any] = {"vlan": 11, "addresses": ["fd64:0:0:11::1/64"]}


def test_of_ipv6_the_link_is_what_a_router_announces() -> None:
    """Not a host's own prefix length (RFC 5942 section 4); the gateway is who announces."""
    net = network(SIX, endpoint={"addresses": ["fd64:0:0:11::9/48"]})
    host = group(net, "host")
    assert (str(host.subnet), str(host.gateway), host.on_link) == ("fd64:0:0:11::/64", "fd64:0:0:11::1", True)
    quiet = network(SIX | {"announce": False}, endpoint={"addresses": ["fd64:0:0:11::9/64"]})
    host = group(quiet, "host")
    assert not host.on_link
    assert host.cause is not None
    assert (host.cause.wrong, host.cause.guilty[0]) == (Wrong.NOT_ANNOUNCED, "/devices/0/vlan_interfaces/0/announce")


def test_a_prefix_that_is_not_of_64_bits_is_no_link() -> None:
    """No host forms an address of it (RFC 4862 section 5.5.3)."""
    host = group(
        network({"vlan": 11, "addresses": ["fd64:0:0:11::1/80"]}, endpoint={"addresses": ["fd64:0:0:11::9/80"]}), "host"
    )
    assert not host.on_link


def test_a_client_forms_its_address() -> None:
    """Of its hardware address (RFC 4291 appendix A), else by the order of the document; either way it says that it is assumed."""
    host = group(network(SIX, endpoint={"dhcp": True, "hardware": "34:56:78:9a:bc:de"}), "host")
    assert str(host.first) == "fd64::11:3656:78ff:fe9a:bcde"
    host = group(network(SIX, endpoint={"dhcp": True}), "host")
    assert str(host.first) == "fd64:0:0:11::1001"
    assert host.assumed
    assert group(network(SIX | {"announce": False}, endpoint={"dhcp": True})).cause is not None
