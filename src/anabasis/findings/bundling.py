"""Findings about bundles (IEEE 802.1AX)."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Patch, apply
from anabasis.design.ports import Lag
from anabasis.fabric import LinkPort, PhysicalPort, build_fabric, label
from anabasis.facts import Says, Wrong
from anabasis.findings.catalogue import Finding, finding
from anabasis.site import Site


def check(site: Site) -> Iterator[Finding]:
    """Bundles that are down, and members that stay out of theirs."""
    bundles = [p for p in site.fabric.ports.values() if isinstance(p.settings, Lag) and p.settings.enabled]
    told: set[tuple[str, str]] = set()
    for bundle in bundles:
        pair = tuple(sorted((bundle.label, ":".join(bundle.peer) if bundle.peer else "")))
        if pair in told:
            continue
        told.add(pair)  # type: ignore[arg-type]
        if not bundle.up and any(m.far for m in bundle.members):
            cause = bundle.cause
            assert cause is not None
            yield finding(Says.BUNDLE_DOWN, *cause.pointers, mend=_same_protocol(site, bundle), cause=cause)
        elif bundle.up:
            out = [m for m in bundle.members if not m.up or _astray(site, bundle, m)]
            if out:
                places = (
                    p for m in out for p in (m.cause.pointers if m.cause is not None else (m.pointer, m.cable or ""))
                )
                held = [bundle.pointer, *(p for p in places if p)]
                counts = {
                    "bundle": bundle.label,
                    "working": len(bundle.members) - len(out),
                    "members": len(bundle.members),
                }
                if out[0].cause is not None:
                    yield finding(Says.BUNDLE_SHORT, *held, why=out[0].cause, values=counts)
                elif out[0].far is not None:
                    yield finding(
                        Says.BUNDLE_ASTRAY, *held, member=label(out[0].spot), far=label(out[0].far), values=counts
                    )


def _same_protocol(site: Site, bundle: LinkPort) -> Patch | None:
    """Where only the protocols disagree: give one end what the other has; of the two ends the one that leaves fewer bundles down."""
    far = site.fabric.ports.get(bundle.peer) if bundle.peer else None
    if far is None or not isinstance(far.settings, Lag) or not isinstance(bundle.settings, Lag):
        return None
    if bundle.cause is None or bundle.cause.root.wrong != Wrong.PROTOCOLS_DIFFER:
        return None
    raw = site.written
    tried: list[tuple[int, int, Patch]] = []
    for k, (end, other) in enumerate(((far, bundle.settings), (bundle, far.settings))):
        protocol = "lacp-active" if other.protocol == "lacp-passive" else other.protocol
        patch: Patch = [{"op": "add", "path": end.pointer + "/protocol", "value": protocol}]
        ports = build_fabric(apply(raw, patch)[1]).ports.values()
        tried.append((sum(isinstance(p.settings, Lag) and not p.up for p in ports), k, patch))
    return min(tried)[2]


def _astray(site: Site, bundle: LinkPort, member: PhysicalPort) -> bool:
    """Tell whether a member works and leads elsewhere than the bundle does."""
    leads = next((p.spot for p in site.fabric.ports.values() for m in p.members if m.spot == member.far), None)
    return member.far is not None and leads != bundle.peer
