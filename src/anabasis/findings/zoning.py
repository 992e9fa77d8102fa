"""Findings about zones."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.findings.catalogue import Finding
from anabasis.reach import Site


def check(site: Site) -> Iterator[Finding]:
    """Interfaces of firewalls in no zone, and zones of another kind than their interfaces."""
    wrong: dict[tuple[str, str], list[str]] = {}
    for interface in site.net.interfaces:
        policy = site.policies.of.get(interface.device)
        if policy is None or not interface.addresses or interface.kind == "loopback":
            continue
        if interface.zone is None:
            yield Finding(
                "zone-missing", f"{interface.label} is in no zone, so nothing passes it.", (interface.pointer,)
            )
        elif policy.zone_kinds[interface.zone] != "routed":
            wrong.setdefault((policy.zone_pointers[interface.zone], "routed"), []).append(interface.label)
    for port in site.fabric.ports.values():
        policy = site.policies.of.get(port.device)
        if policy is None or port.mode not in ("bridged", "inline") or not port.forwarding:
            continue
        zones = {s.zone or port.settings.zone: f"{port.label}.{s.tag}" for s in port.settings.subinterfaces}
        for zone, label in (zones or {port.settings.zone: port.label}).items():
            if zone is None and (port.peer or port.settings.untagged or port.settings.tagged):
                text = f"{label} is in no zone, so nothing passes it."
                yield Finding("zone-missing", text, (port.pointer,))
            elif zone is not None and policy.zone_kinds[zone] != port.mode:
                wrong.setdefault((policy.zone_pointers[zone], port.mode), []).append(label)
    kinds = {at: {k for a, k in wrong if a == at} for at, _ in wrong}
    for (at, kind), labels in wrong.items():
        text = f"A zone of another kind holds the {kind} {', '.join(labels)}, so nothing passes there."
        mend = [{"op": "replace", "path": at + "/kind", "value": kind}] if len(kinds[at]) == 1 else None
        yield Finding("zone-kind", text, (at + "/kind",), mend)
