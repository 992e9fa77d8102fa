"""Interfaces against the plan: whether an address, and its prefix length, are those of the VLAN the interface stands in."""

from __future__ import annotations

from anabasis.design.notation import Address, Network
from anabasis.fabric import Segments
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.routing.interfaces import L3Interface


def plan_of(segments: Segments, interface: L3Interface) -> list[Network]:
    """Return the subnets that the plan gives the VLAN an interface is for: that of its tag, else of its segment."""
    tail = interface.name.rpartition(".")[2] if interface.kind == "subinterface" else ""
    tag = interface.name.removeprefix("vlan") if interface.kind == "vlan interface" else tail
    if tag.isdigit():
        ids = {int(tag)}
    elif interface.attachment is not None and interface.attachment.index in segments.of_attachment:
        ids = set(segments.all[segments.of(interface.attachment)].vlan_ids)
    else:
        return []
    in_order = ids if len(ids) == 1 else [i for i in segments.planned if i in ids]
    return [n for i in in_order for n in segments.planned.get(i, ())]


def misaddressed(segments: Segments, interface: L3Interface, address: Address | None = None) -> Cause | None:
    """Return what is wrong with an interface's address: none at all, one of another subnet, a prefix that leaves the plan's out.

    `address`: somebody it should have on its link; without one, the first of the plan's subnets that it does not cover is told.
    """
    plan = [
        n for n in plan_of(segments, interface) if address is None or (n.version == address.version and address in n)
    ]
    for net in plan:
        mine = [a for a in interface.addresses if a.version == net.version]
        values: Values = {"interface": interface.label, "has": ", ".join(map(str, mine)), "subnet": str(net)}
        where = interface.attachment is not None and interface.attachment.index in segments.of_attachment
        segment = (
            segments.all[segments.of(interface.attachment)].name
            if where and interface.attachment is not None
            else "its VLAN"
        )
        inside = [a for a in mine if a.ip in net]
        if not mine and not interface.addresses:
            return because(
                Layer.GATEWAY, Wrong.ADDRESS_MISSING, interface.pointer, values=values | {"segment": segment}
            )
        if mine and not inside and not any(a.ip in n for a in mine for n in plan_of(segments, interface)):
            return because(
                Layer.GATEWAY, Wrong.ADDRESS_MISTYPED, interface.pointer, values=values | {"segment": segment}
            )
        narrow = [a for a in inside if a.network.prefixlen > net.prefixlen]
        if narrow and (address is None or not any(address in a.network for a in mine)):
            said = values | {"address": str(address) if address is not None else "some"}
            return because(Layer.GATEWAY, Wrong.MASK_DIFFERS, interface.pointer, values=said)
    return None
