"""Findings about layer-3 interfaces, addresses, gateways and routes."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.facts import Wrong
from anabasis.findings.catalogue import Finding
from anabasis.findings.mends import switched_on
from anabasis.site import Site
from anabasis.wording import say


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    for interface in site.net.interfaces:
        if interface.addresses and interface.cause is not None:
            addresses = ", ".join(str(a) for a in interface.addresses)
            text = f"{interface.label} ({addresses}) is down: {interface.reason}."
            places = tuple(dict.fromkeys((*interface.cause.pointers, interface.pointer)))
            mend = next(switched_on(interface.cause), None)
            yield Finding("interface-down", text, places, mend, cause=interface.cause)
    yield from _endpoints(site)
    yield from _gateways(site)
    for table in site.net.tables.values():
        for route in table.routes:
            if route.origin == "static" and route.cause is not None and route.cause.wrong != Wrong.ROUTE_OFF:
                backup = next((r for r in table.routes if r.to == route.to and r.active), None)
                stands_in = f"; {backup.goes_to or backup.interface} stands in" if backup else ""
                text = f"{route.device}: the route to {route.to} by {route.goes_to or route.interface} in VRF {route.vrf} is inactive: {route.reason}{stands_in}."
                code = "route-backup" if backup else "route-inactive"
                places = tuple(dict.fromkeys((*route.cause.pointers, route.pointer)))
                yield Finding(code, text, places, cause=route.cause)


def _endpoints(site: Site) -> Iterator[Finding]:
    """Hosts that stand where their address does not belong, and hosts that asked for a lease in vain."""
    for group in site.net.hosts:
        if group.stray is not None:
            yield Finding("address-elsewhere", f"{say(group.stray)}.", group.stray.pointers, cause=group.stray)
    for (name, _), handed in site.handed.items():
        if handed.cause is not None:
            text = f"{name} asks for a lease and gets none: {say(handed.cause)}."
            mend = next(switched_on(handed.cause), None)
            yield Finding("lease-none", text, handed.cause.pointers, mend, cause=handed.cause)


def _gateways(site: Site) -> Iterator[Finding]:
    for k, segment in enumerate(site.segments.all):
        if segment.kind != "vlan" or not any(t.kind in ("edge", "endpoint") for t in segment.attachments):
            continue
        purposes = {v.purpose for v in site.design.vlans if v.id in segment.vlan_ids}
        if purposes & {"switched"}:
            continue  # addressed on purpose without a gateway
        for group in site.net.groups_of[k]:
            if group.endpoint or group.gateway or group.cause is None:
                continue
            code = "gateway-choice" if group.cause.wrong == Wrong.SEVERAL_GATEWAYS else "gateway-missing"
            places = tuple(dict.fromkeys((*group.cause.pointers, group.pointer)))
            mend = next(switched_on(group.cause), None)
            text = f"{segment.name} ({group.subnet}): {say(group.cause)}."
            yield Finding(code, text, places, mend, cause=group.cause)
