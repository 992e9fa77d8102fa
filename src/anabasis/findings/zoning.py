"""Findings about zones."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.facts import Layer, Says, Wrong, because
from anabasis.findings.catalogue import Finding, finding
from anabasis.site import Site


def check(site: Site) -> Iterator[Finding]:
    """Interfaces of firewalls in no zone, and zones of another kind than their interfaces."""
    wrong: dict[tuple[str, str], list[str]] = {}
    held: dict[str, list[str]] = {}
    names: dict[str, tuple[str, str]] = {}
    for interface in site.net.interfaces:
        policy = site.policies.of.get(interface.device)
        if policy is None or not interface.addresses or interface.kind == "loopback":
            continue
        if interface.zone is None:
            yield _missing(interface.label, interface.pointer)
        elif policy.zone_kinds[interface.zone] != "routed":
            wrong.setdefault((policy.zone_pointers[interface.zone], "routed"), []).append(interface.label)
            held.setdefault(policy.zone_pointers[interface.zone], []).append(interface.pointer)
            names[policy.zone_pointers[interface.zone]] = (interface.zone, policy.zone_kinds[interface.zone])
    for port in site.fabric.ports.values():
        policy = site.policies.of.get(port.device)
        if policy is None or port.mode not in ("bridged", "inline") or not port.forwarding:
            continue
        zones = {s.zone or port.settings.zone: f"{port.label}.{s.tag}" for s in port.settings.subinterfaces}
        for zone, label in (zones or {port.settings.zone: port.label}).items():
            if zone is None and (port.peer or port.settings.untagged or port.settings.tagged):
                yield _missing(label, port.pointer)
            elif zone is not None and policy.zone_kinds[zone] != port.mode:
                wrong.setdefault((policy.zone_pointers[zone], port.mode), []).append(label)
                held.setdefault(policy.zone_pointers[zone], []).append(port.pointer)
                names[policy.zone_pointers[zone]] = (zone, policy.zone_kinds[zone])
    kinds = {at: {k for a, k in wrong if a == at} for at, _ in wrong}
    for (at, kind), labels in wrong.items():
        zone, own = names[at]
        cause = because(
            Layer.ZONE, Wrong.ZONE_KIND, f"{at}/kind", *held[at], zone=zone, kind=own, interface=labels[0], wanted=kind
        )
        mend = [{"op": "replace", "path": at + "/kind", "value": kind}] if len(kinds[at]) == 1 else None
        yield finding(
            Says.ZONE_KIND, *cause.pointers, mend=mend, cause=cause, zone=zone, kind=own, wanted=kind, interfaces=labels
        )


def _missing(label: str, at: str) -> Finding:
    cause = because(Layer.ZONE, Wrong.NO_ZONE, at, interface=label)
    return finding(Says.ZONE_MISSING, at, cause=cause, interface=label)
