"""Redundant gateways on plain routers: who answers for the addresses of a redundant gateway (VRRP, RFC 9568)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from anabasis.design.notation import Address, parse_address
from anabasis.design.ports import RedundantGateway
from anabasis.fabric import Fabric
from anabasis.routing.interfaces import L3Interface

OWNER = 255
"""The priority of the router that holds the addresses itself (RFC 9568 section 5.2.4)."""


def elect(fabric: Fabric, interfaces: list[L3Interface]) -> list[L3Interface]:
    """Return the interfaces, those elected holding their virtual addresses as `standing`.

    A router stays a backup while it hears a better claim (section 6.4.2); two that do not hear each other are both active.
    Cost: quadratic in the interfaces of one VRID.
    """
    contenders = [(i, v, version) for i in interfaces if i.up for v in i.vrrp for version in _versions(v)]
    standing: dict[int, list[Address]] = {}
    accepted: dict[int, list[Address]] = {}
    for interface, virtual, version in contenders:
        rivals = [
            (other, theirs)
            for other, theirs, family in contenders
            if other is not interface
            and theirs.id == virtual.id
            and family == version
            and _hears(fabric, other, interface)
        ]
        mine = claim(interface, virtual, version)
        if any(claim(other, theirs, version) > mine for other, theirs in rivals):
            continue
        held = [a for a in map(parse_address, virtual.addresses) if a.version == version]
        standing.setdefault(id(interface), []).extend(held)
        if virtual.accept_mode or mine[0] == OWNER:
            accepted.setdefault(id(interface), []).extend(held)
    return [
        replace(i, standing=tuple(standing[id(i)]), accepted=tuple(accepted.get(id(i), ()))) if id(i) in standing else i
        for i in interfaces
    ]


def claim(interface: L3Interface, virtual: RedundantGateway, version: int) -> tuple[int, int]:
    """Return what is compared: the priority, then the interface's own address, greater wins (RFC 9568 section 6.4.3)."""
    own = [a.ip for a in interface.addresses if a.version == version]
    owner = any(a in own for a in map(parse_address, virtual.addresses))
    return OWNER if owner else virtual.priority, int(own[0]) if own else 0


def _versions(virtual: RedundantGateway) -> Iterator[int]:
    """A redundant gateway is of one family; one written with both stands for two (RFC 9568 section 1.2)."""
    yield from sorted({parse_address(a).version for a in virtual.addresses})


def _hears(fabric: Fabric, speaker: L3Interface, listener: L3Interface) -> bool:
    if speaker.attachment is None or listener.attachment is None:
        return False
    return fabric.delivers(speaker.attachment, listener.attachment)
