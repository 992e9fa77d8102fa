"""Faults of leases (DHCP)."""

from __future__ import annotations

from collections.abc import Iterator
from ipaddress import ip_interface

from anabasis.design.notation import pointer
from anabasis.faults.kinds import FaultKind, Look, Made, out, put


def _servers(look: Look) -> Iterator[tuple[int, str, dict[str, object]]]:
    for d, device in enumerate(look.devices):
        for i, entry in enumerate(device.get("dhcp", []) if isinstance(device.get("dhcp"), list) else []):
            yield d, pointer("devices", d, "dhcp", i), entry


def off(look: Look) -> Iterator[Made]:
    """A server is switched off."""
    for _, at, entry in _servers(look):
        if entry.get("mode", "server") == "server":
            yield put(at, "mode", "off"), (at,)


def gone(look: Look) -> Iterator[Made]:
    """A VLAN with hosts has no server."""
    for d, at, entry in _servers(look):
        name = str(entry["interface"])
        here = [a for e, a, _, n in look.interfaces() if e == d and n == name]
        yield out(at), (pointer("devices", d, "dhcp"), *here)


def out_of_subnet(look: Look) -> Iterator[Made]:
    """A range lies outside the subnet of its interface."""
    for _, at, entry in _servers(look):
        if entry.get("ranges"):
            yield put(at, "ranges", ["10.79.253.100-10.79.253.150"]), (at,)


def gateway_wrong(look: Look) -> Iterator[Made]:
    """A server hands out a gateway that nobody has."""
    for _, at, entry in _servers(look):
        if entry.get("gateway"):
            head = str(entry["gateway"]).rpartition(".")[0]
            yield put(at, "gateway", f"{head}.253"), (at,)


def gateway_missing(look: Look) -> Iterator[Made]:
    """A server hands out no gateway."""
    for _, at, entry in _servers(look):
        if entry.get("gateway"):
            yield out(f"{at}/gateway"), (at,)


def range_holds_gateway(look: Look) -> Iterator[Made]:
    """A range holds the gateway's own address."""
    for _, at, entry in _servers(look):
        if entry.get("gateway"):
            head = str(entry["gateway"]).rpartition(".")[0]
            yield put(at, "ranges", [f"{head}.1-{head}.60"]), (at,)


def range_holds_host(look: Look) -> Iterator[Made]:
    """A host with an address of its own stands inside a range."""
    for d, device in look.endpoints():
        for text in device.get("addresses", []):
            for _, at, entry in _servers(look):
                if (
                    entry.get("gateway")
                    and str(entry["gateway"]).rpartition(".")[0] == text.rpartition(".")[0]
                    and entry.get("ranges")
                ):
                    head = text.rpartition(".")[0]
                    inside = f"{head}.110/{ip_interface(text).network.prefixlen}"
                    here = pointer("devices", d)
                    yield [{"op": "replace", "path": f"{here}/addresses/0", "value": inside}], (here, at)


def relay_wrong(look: Look) -> Iterator[Made]:
    """A relay asks a server that is not there."""
    for _, at, entry in _servers(look):
        if entry.get("mode") == "relay":
            yield put(at, "servers", ["10.79.253.9"]), (at,)


FAMILY = (
    FaultKind("lease-off", "a server is switched off", "answers", "breaks", True, 5, off),
    FaultKind("lease-missing", "a VLAN with hosts has no server", "answers", "risks", True, 5, gone),
    FaultKind("lease-range-outside", "a range outside the subnet", "answers", "breaks", True, 4, out_of_subnet),
    FaultKind("lease-gateway", "a server hands out a gateway that nobody has", "gateway", "breaks", True, 5, gateway_wrong),
    FaultKind("lease-no-gateway", "a server hands out no gateway", "gateway", "breaks", True, 4, gateway_missing),
    FaultKind("lease-holds-gateway", "a range holds the gateway's address", "answers", "breaks", False, 4, range_holds_gateway),
    FaultKind("lease-holds-host", "a static host inside a range", "answers", "risks", False, 4, range_holds_host),
    FaultKind("relay-wrong", "a relay asks nobody", "answers", "breaks", True, 4, relay_wrong),
)  # fmt: skip
