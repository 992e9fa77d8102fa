"""Faults of layer 3: addresses, masks, gateways, routes, leases."""

from __future__ import annotations

from collections.abc import Iterator
from ipaddress import ip_address, ip_interface, ip_network

from anabasis.design.notation import looks_like_address, pointer
from anabasis.design.pointers import value_at
from anabasis.faults.kinds import FaultKind, Look, Made, out, put

ELSEWHERE = "10.79.253"


def _attached(look: Look, address: str) -> bool:
    """Tell whether hosts or other boxes stand in the subnet of an interface."""
    net = ip_interface(address).network
    for _, device in enumerate(look.devices):
        if device["kind"] == "endpoint" and any(ip_interface(a).ip in net for a in device.get("addresses", [])):
            return True
    return any(
        ip_interface(a).ip in net
        for _, _, entry, _ in look.interfaces()
        for a in entry.get("addresses", [])
        if a != address
    )


def interface_address(look: Look) -> Iterator[Made]:
    """An interface's address is mistyped, so it stands in another subnet than its VLAN."""
    for _, at, entry, _ in look.interfaces():
        for i, text in enumerate(entry.get("addresses", [])):
            own = ip_interface(text)
            if own.version == 4 and _attached(look, text):
                other = f"{ELSEWHERE}.{int(own.ip) & 255}/{own.network.prefixlen}"
                yield [{"op": "replace", "path": f"{at}/addresses/{i}", "value": other}], (at,)


def interface_bare(look: Look) -> Iterator[Made]:
    """An interface was given no address."""
    for _, at, entry, _ in look.interfaces():
        if len(entry.get("addresses", [])) == 1 and _attached(look, entry["addresses"][0]):
            yield put(at, "addresses", []), (at,)


def wrong_mask(look: Look) -> Iterator[Made]:
    """A host's prefix length is not that of its subnet."""
    for d, device in look.endpoints():
        for i, text in enumerate(device.get("addresses", [])):
            own = ip_interface(text)
            if own.version == 4 and own.network.prefixlen == 24:
                at = pointer("devices", d)
                yield [{"op": "replace", "path": f"{at}/addresses/{i}", "value": f"{own.ip}/30"}], (at,)


def interface_mask(look: Look) -> Iterator[Made]:
    """A gateway's prefix length is not that of its subnet."""
    for _, at, entry, _ in look.interfaces():
        for i, text in enumerate(entry.get("addresses", [])):
            own = ip_interface(text)
            hosts = [ip_interface(a).ip for _, d in look.endpoints() for a in d.get("addresses", [])]
            if (
                own.version == 4
                and own.network.prefixlen == 24
                and any(h in own.network and h not in ip_network(f"{own.ip}/28", strict=False) for h in hosts)
            ):
                yield [{"op": "replace", "path": f"{at}/addresses/{i}", "value": f"{own.ip}/28"}], (at,)


def twice(look: Look) -> Iterator[Made]:
    """A host has the address of another."""
    hosts = [(d, i, text) for d, x in look.endpoints() for i, text in enumerate(x.get("addresses", []))]
    for d, i, text in hosts:
        for e, _, other in hosts:
            if d != e and ip_interface(text).network == ip_interface(other).network and text != other:
                at = pointer("devices", d)
                yield [{"op": "replace", "path": f"{at}/addresses/{i}", "value": other}], (at, pointer("devices", e))
                break


def gateways_twice(look: Look) -> Iterator[Made]:
    """A host has the address of its gateway."""
    for d, device in look.endpoints():
        for i, text in enumerate(device.get("addresses", [])):
            for _, at, entry, _ in look.interfaces():
                same = [a for a in entry.get("addresses", []) if ip_interface(a).network == ip_interface(text).network]
                if same and device.get("gateway") == str(ip_interface(same[0]).ip):
                    here = pointer("devices", d)
                    yield [{"op": "replace", "path": f"{here}/addresses/{i}", "value": same[0]}], (here, at)


def elsewhere(look: Look) -> Iterator[Made]:
    """A host has an address of another subnet."""
    for d, device in look.endpoints():
        for i, text in enumerate(device.get("addresses", [])):
            at = pointer("devices", d)
            if ip_interface(text).version == 4:
                yield [{"op": "replace", "path": f"{at}/addresses/{i}", "value": f"{ELSEWHERE}.9/24"}], (at,)


def gateway_wrong(look: Look) -> Iterator[Made]:
    """A host's gateway is an address that nobody has."""
    for d, device in look.endpoints():
        if isinstance(device.get("gateway"), str):
            at = pointer("devices", d)
            yield put(at, "gateway", str(ip_interface(device["addresses"][0]).network[-3])), (at,)


def gateway_beyond(look: Look) -> Iterator[Made]:
    """A host's gateway lies outside its subnet."""
    for d, device in look.endpoints():
        if isinstance(device.get("gateway"), str):
            at = pointer("devices", d)
            yield put(at, "gateway", f"{ELSEWHERE}.1"), (at,)


def _box(d: int, at: str) -> tuple[str, ...]:
    """Return what is to blame for a route that is not there: the list, its VRF, and the box."""
    return f"{at}/routes", at, pointer("devices", d)


def default_missing(look: Look) -> Iterator[Made]:
    """A box has no default route."""
    for d, at, _, here, route in look.routes():
        if route["to"] == "0.0.0.0/0" and look.devices[d]["kind"] != "outside":
            yield out(here), _box(d, at)


def route_missing(look: Look) -> Iterator[Made]:
    """A box has no route to a subnet behind another."""
    for d, at, _, here, route in look.routes():
        if route["to"] != "0.0.0.0/0":
            yield out(here), _box(d, at)


def route_off(look: Look) -> Iterator[Made]:
    """A route is switched off."""
    for _, _, _, here, _ in look.routes():
        yield put(here, "enabled", False), (here,)


def hop_nobody(look: Look) -> Iterator[Made]:
    """A route's next hop is an address of the link that nobody has."""
    for _, _, _, here, route in look.routes():
        if route.get("via"):
            yield [{"op": "replace", "path": f"{here}/via", "value": str(ip_address(route["via"]) + 5)}], (here,)


def hop_beyond(look: Look) -> Iterator[Made]:
    """A route's next hop lies outside every connected subnet."""
    for _, _, _, here, route in look.routes():
        if route.get("via") and ip_address(route["via"]).version == 4:
            yield [{"op": "replace", "path": f"{here}/via", "value": f"{ELSEWHERE}.1"}], (here,)


def prefix_wrong(look: Look) -> Iterator[Made]:
    """A route's prefix is mistyped."""
    for d, at, _, here, route in look.routes():
        if looks_like_address(route["to"]) and "." in route["to"] and route["to"] != "0.0.0.0/0":
            yield [{"op": "replace", "path": f"{here}/to", "value": f"{ELSEWHERE}.0/24"}], (here, *_box(d, at))


def stray(look: Look) -> Iterator[Made]:
    """A longer route leads a subnet's packets into nothing."""
    for _, at, _, _, route in look.routes():
        if looks_like_address(route["to"]) and ip_network(route["to"]).prefixlen == 24:
            net = ip_network(route["to"])
            routes = f"{at}/routes"
            count = len(_at(look, routes))
            edit = [
                {"op": "add", "path": f"{routes}/-", "value": {"to": f"{h}", "discard": True}} for h in net.subnets(1)
            ]
            yield edit, tuple(f"{routes}/{count + k}" for k in range(2))


def _at(look: Look, at: str) -> list[object]:
    return value_at(look.tree, at)  # type: ignore[return-value]


def no_routing(look: Look) -> Iterator[Made]:
    """A multilayer switch does not route."""
    for d, device in enumerate(look.devices):
        if device.get("routing"):
            yield (
                put(pointer("devices", d), "routing", False),
                (pointer("devices", d, "routing"), pointer("devices", d)),
            )


def other_vrf(look: Look) -> Iterator[Made]:
    """An interface stands in a VRF apart from its neighbours."""
    for d, at, entry, _ in look.interfaces():
        device = look.devices[d]
        if (
            entry.get("addresses")
            and not entry.get("vrf")
            and device.get("vrfs")
            and (device["kind"] == "firewall" or device.get("routing"))
        ):
            apart = [{"op": "add", "path": f"{pointer('devices', d)}/vrfs/-", "value": {"name": "apart"}}]
            yield [*apart, *put(at, "vrf", "apart")], (at, f"{pointer('devices', d)}/vrfs/{len(device['vrfs'])}")


FAMILY = (
    FaultKind("interface-address", "an interface's address is mistyped", "gateway", "breaks", True, 6, interface_address),
    FaultKind("interface-bare", "an interface was given no address", "gateway", "breaks", True, 4, interface_bare),
    FaultKind("host-mask", "a host's prefix length is wrong", "gateway", "risks", False, 4, wrong_mask),
    FaultKind("interface-mask", "a gateway's prefix length is wrong", "gateway", "breaks", True, 4, interface_mask),
    FaultKind("address-twice", "two hosts have one address", "gateway", "breaks", True, 4, twice),
    FaultKind("gateway-twice", "a host has its gateway's address", "gateway", "breaks", True, 3, gateways_twice),
    FaultKind("host-elsewhere", "a host has an address of another subnet", "gateway", "breaks", True, 6, elsewhere),
    FaultKind("host-gateway", "a host's gateway is nobody's address", "gateway", "breaks", True, 6, gateway_wrong),
    FaultKind("host-gateway-beyond", "a host's gateway lies outside its subnet", "gateway", "breaks", True, 4, gateway_beyond),
    FaultKind("default-missing", "a box has no default route", "route", "breaks", True, 8, default_missing),
    FaultKind("route-missing", "a box has no route to a subnet behind another", "route", "breaks", True, 9, route_missing),
    FaultKind("route-disabled", "a route is switched off", "route", "breaks", True, 4, route_off),
    FaultKind("hop-nobody", "a next hop that nobody has", "route", "breaks", True, 6, hop_nobody),
    FaultKind("hop-beyond", "a next hop outside every connected subnet", "route", "breaks", True, 5, hop_beyond),
    FaultKind("route-prefix", "a route's prefix is mistyped", "route", "breaks", True, 5, prefix_wrong),
    FaultKind("route-stray", "longer routes discard a subnet's packets", "route", "breaks", True, 2, stray),
    FaultKind("routing-off", "a multilayer switch does not route", "gateway", "breaks", True, 5, no_routing),
    FaultKind("vrf-apart", "an interface stands in another VRF", "route", "breaks", True, 4, other_vrf),
)  # fmt: skip
