"""Findings about layer-3 interfaces, addresses, gateways and routes."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.facts import Says, Wrong
from anabasis.findings.catalogue import Finding, finding
from anabasis.findings.mends import switched_on
from anabasis.site import Site

DIALLED = ("tunnel", "remote access", "overlay")
"""Of which it is told by itself why they are down (`tunnelling.py`)."""


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    for interface in site.net.interfaces:
        if interface.addresses and interface.cause is not None and interface.kind not in DIALLED:
            addresses = [str(a) for a in interface.addresses]
            places = (*interface.cause.pointers, interface.pointer)
            mend = next(switched_on(interface.cause), None)
            yield finding(
                Says.INTERFACE_DOWN,
                *places,
                mend=mend,
                cause=interface.cause,
                interface=interface.label,
                addresses=addresses,
            )
    yield from _endpoints(site)
    yield from _gateways(site)
    for table in site.net.tables.values():
        for route in (*table.routes, *table.steering):
            if route.origin == "static" and route.cause is not None and route.cause.wrong != Wrong.ROUTE_OFF:
                others = table.routes if route in table.routes else ()
                backup = next((r for r in others if r.to == route.to and r.active), None)
                by = route.goes_to or route.interface or ""
                where = {"device": route.device, "to": str(route.to), "by": by, "vrf": route.vrf}
                places = (*route.cause.pointers, route.pointer)
                if backup is None:
                    yield finding(Says.ROUTE_INACTIVE, *places, cause=route.cause, values=where)
                else:
                    stands_in = backup.goes_to or backup.interface or ""
                    yield finding(Says.ROUTE_BACKUP, *places, cause=route.cause, backup=stands_in, values=where)


def _endpoints(site: Site) -> Iterator[Finding]:
    """Hosts that stand where their address does not belong, and hosts that asked for a lease in vain."""
    for group in site.net.hosts:
        if group.stray is not None:
            yield finding(Says.ADDRESS_ELSEWHERE, *group.stray.pointers, cause=group.stray)
    for (name, _), handed in site.handed.items():
        if handed.cause is not None:
            mend = next(switched_on(handed.cause), None)
            yield finding(Says.LEASE_NONE, *handed.cause.pointers, mend=mend, cause=handed.cause, host=name)


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
            says = Says.GATEWAY_CHOICE if group.cause.wrong == Wrong.SEVERAL_GATEWAYS else Says.GATEWAY_MISSING
            places = (*group.cause.pointers, group.pointer)
            mend = next(switched_on(group.cause), None)
            yield finding(says, *places, mend=mend, cause=group.cause, segment=segment.name, subnet=group.subnet)
