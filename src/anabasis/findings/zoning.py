"""Findings about zones."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.findings.catalogue import Finding
from anabasis.reach import Site


def check(site: Site) -> Iterator[Finding]:
    """Interfaces of firewalls in no zone, and zones of another kind than their interfaces."""
    wrong: dict[str, list[str]] = {}
    for interface in site.net.interfaces:
        policy = site.policies.of.get(interface.device)
        if policy is None or not interface.addresses or interface.kind == "loopback":
            continue
        if interface.zone is None:
            yield Finding(
                "zone-missing", f"{interface.label} is in no zone, so nothing passes it.", (interface.pointer,)
            )
        elif policy.zone_kinds[interface.zone] != "routed":
            wrong.setdefault(policy.zone_pointers[interface.zone], []).append(interface.label)
    for at, labels in wrong.items():
        text = f"A zone of another kind holds the routed {', '.join(labels)}, so nothing passes there."
        yield Finding("zone-kind", text, (at + "/kind",), [{"op": "replace", "path": at + "/kind", "value": "routed"}])
