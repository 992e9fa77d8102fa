"""Findings about layer-3 interfaces, addresses, gateways and routes."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.devices import Endpoint
from anabasis.design.notation import parse_interface, parse_prefix, pointer
from anabasis.findings.catalogue import Finding
from anabasis.reach import Site


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    for interface in site.net.interfaces:
        if interface.addresses and not interface.up and "/lags/" not in interface.blame:  # a bundle has its own finding
            addresses = ", ".join(str(a) for a in interface.addresses)
            text = f"{interface.label} ({addresses}) is down: {interface.reason}."
            yield Finding("interface-down", text, tuple(dict.fromkeys((interface.blame, interface.pointer))))
    yield from _endpoints(site)
    yield from _gateways(site)
    for table in site.net.tables.values():
        for route in table.routes:
            if route.origin == "static" and not route.active and route.pointer + "/enabled" != route.blame:
                backup = next((r for r in table.routes if r.to == route.to and r.active), None)
                stands_in = f"; {backup.goes_to or backup.interface} stands in" if backup else ""
                text = f"{route.device}: the route to {route.to} by {route.goes_to or route.interface} in VRF {route.vrf} is inactive: {route.reason}{stands_in}."
                code = "route-backup" if backup else "route-inactive"
                yield Finding(code, text, tuple(dict.fromkeys((route.blame, route.pointer))))


def _endpoints(site: Site) -> Iterator[Finding]:
    for d, device in enumerate(site.design.devices):
        if not isinstance(device, Endpoint):
            continue
        for tap in (t for t in site.fabric.taps if t.device == device.name):
            segment = site.segments.all[site.segments.of(tap)]
            subnets = [parse_prefix(n) for n in segment.subnets]
            for i, text in enumerate(device.addresses):
                address = parse_interface(text)
                same = [n for n in subnets if n.version == address.version]
                if same and not any(address.ip in n for n in same):
                    said = f"{device.name} has {text}, but stands in {segment.name} ({', '.join(map(str, same))})."
                    yield Finding("address-elsewhere", said, (pointer("devices", d, "addresses", i), tap.pointer))


def _gateways(site: Site) -> Iterator[Finding]:
    for k, segment in enumerate(site.segments.all):
        if segment.kind != "vlan" or not any(t.kind in ("edge", "endpoint") for t in segment.taps):
            continue
        for group in site.net.groups_of[k]:
            if group.endpoint or group.gateway:
                continue
            several = "several gateways" in group.reason
            code = "gateway-choice" if several else "gateway-missing"
            yield Finding(code, f"{segment.name} ({group.subnet}): {group.reason}.", (group.pointer,))
