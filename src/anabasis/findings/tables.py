"""Findings about VLAN tables and plans: what a device lacks, holds too much of, or nobody uses."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design.devices import AccessPoint, BridgingBox, Firewall, Limits
from anabasis.design.notation import pointer
from anabasis.design.ports import Membership
from anabasis.fabric import member_vlans
from anabasis.facts import Says
from anabasis.findings.catalogue import Finding, finding
from anabasis.site import Site

DEFAULT_VLAN = 1
"""The default PVID (IEEE 802.1Q-2022 table 9-2)."""


def check(site: Site) -> Iterator[Finding]:
    """All of them."""
    used: set[int] = set()
    for d, device in enumerate(site.design.devices):
        if isinstance(device, AccessPoint):
            used |= {s.vlan for s in device.ssids}
            used |= {v for p in device.ports for v in member_vlans(p)}
        if not isinstance(device, BridgingBox):
            continue
        own = set(device.vlans or ())
        for kind, ports in (("ports", device.ports), ("lags", device.lags)):
            for i, port in enumerate(ports):
                at = pointer("devices", d, kind, i)
                own |= member_vlans(port)
                used |= member_vlans(port) | {s.tag for s in port.subinterfaces}
                yield from _port(device, port, at, pointer("devices", d, "vlans"))
        used |= own | {v.vlan for v in device.vlan_interfaces}
        limit = device.limits.vlans if device.limits else None
        if limit is not None and len(own) > limit:
            yield finding(
                Says.LIMIT_VLANS, pointer("devices", d, "limits"), device=device.name, count=len(own), most=limit
            )
        yield from _limits(device, pointer("devices", d))
    for i, vlan in enumerate(site.design.vlans):
        if vlan.id not in used:
            mend = [{"op": "remove", "path": pointer("vlans", i)}]
            yield finding(Says.VLAN_UNUSED, pointer("vlans", i), mend=mend, vlan=vlan.id, name=vlan.name)


def _limits(device: BridgingBox, at: str) -> Iterator[Finding]:
    """What a device has more of than it can hold, and what its ports cannot be."""
    limits = device.limits
    if limits is None:
        return
    bases: list[Membership] = [*device.ports, *device.lags]
    counts = {
        "networks": len(device.vlan_interfaces) + sum(len(p.subinterfaces) for p in bases),
        "loopbacks": len(device.loopbacks),
        "zones": len(device.zones) if isinstance(device, Firewall) else 0,
        "routes": sum(len(v.routes) for v in device.vrfs),
        "rules": len(device.rules) if isinstance(device, Firewall) else 0,
    }
    for what, count in counts.items():
        most = getattr(limits, what)
        if most is not None and count > most:
            yield finding(
                Says.LIMIT_PASSED, f"{at}/limits/{what}", at, device=device.name, count=count, what=what, most=most
            )
    for kind, ports in (("ports", device.ports), ("lags", device.lags)):
        for i, port in enumerate(ports):
            yield from _port_limits(device.name, limits, port, f"{at}/{kind}/{i}", at)


def _port_limits(name: str, limits: Limits, port: Membership, here: str, at: str) -> Iterator[Finding]:
    label, always = f"{name}:{port.name}", limits.always_untagged
    if always is not None and (port.untagged or port.tagged) and always not in port.untagged:
        yield finding(Says.LIMIT_UNTAGGED, here, f"{at}/limits/always_untagged", port=label, vlan=always, device=name)
    if limits.one_untagged and len(port.untagged) > 1:
        yield finding(
            Says.LIMIT_ONE_UNTAGGED,
            here,
            f"{at}/limits/one_untagged",
            port=label,
            count=len(port.untagged),
            device=name,
        )
    if limits.dedicated_is_no_trunk and port.addresses and port.subinterfaces:
        yield finding(Says.LIMIT_DEDICATED, here, f"{at}/limits/dedicated_is_no_trunk", port=label, device=name)


def _port(device: BridgingBox, port: Membership, at: str, table: str) -> Iterator[Finding]:
    label = f"{device.name}:{port.name}"
    missing = sorted(member_vlans(port) - set(device.vlans)) if device.vlans is not None else []
    for vlan in missing:
        yield finding(
            Says.TABLE_LACKS,
            table,
            at,
            mend=[{"op": "add", "path": f"{table}/-", "value": vlan}],
            port=label,
            vlan=vlan,
            device=device.name,
        )
    rest = [v for v in port.untagged if v != DEFAULT_VLAN]
    if len(port.untagged) > len(rest) and port.pvid not in (None, DEFAULT_VLAN):
        yield finding(
            Says.DEFAULT_LEFT,
            at,
            mend=[{"op": "replace", "path": f"{at}/untagged", "value": rest}],
            port=label,
            pvid=port.pvid,
            default=DEFAULT_VLAN,
        )
    if len(rest) > 1:
        if port.pvid is not None:
            yield finding(Says.UNTAGGED_SEVERAL, at + "/untagged", port=label, vlans=rest, pvid=port.pvid)
        else:
            yield finding(Says.UNTAGGED_ONE_WAY, at + "/untagged", port=label, vlans=rest)
