"""Findings about bundles (IEEE 802.1AX)."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Patch, apply
from anabasis.design.ports import Lag
from anabasis.fabric import LinkPort, build_fabric
from anabasis.findings.catalogue import Finding
from anabasis.reach import Site


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
            yield Finding("bundle-down", f"{bundle.reason}.", _places(site, bundle), _same_protocol(site, bundle))
        elif bundle.up:
            out = [m for m in bundle.members if not m.up]
            if out:
                text = f"{bundle.label} runs on {len(bundle.members) - len(out)} of {len(bundle.members)} members: {out[0].reason}."
                yield Finding("bundle-short", text, (bundle.pointer, *(m.blame for m in out)))


def _same_protocol(site: Site, bundle: LinkPort) -> Patch | None:
    """Where only the protocols disagree: give one end what the other has; of the two ends the one that leaves fewer bundles down."""
    far = site.fabric.ports.get(bundle.peer) if bundle.peer else None
    if far is None or not isinstance(far.settings, Lag) or not isinstance(bundle.settings, Lag):
        return None
    if not bundle.blame.endswith("/protocol"):
        return None
    raw = site.design.model_dump(mode="json", by_alias=True, exclude_unset=True)
    tried: list[tuple[int, int, Patch]] = []
    for k, (end, other) in enumerate(((far, bundle.settings), (bundle, far.settings))):
        protocol = "lacp-active" if other.protocol == "lacp-passive" else other.protocol
        patch: Patch = [{"op": "add", "path": end.pointer + "/protocol", "value": protocol}]
        ports = build_fabric(apply(raw, patch)[1]).ports.values()
        tried.append((sum(isinstance(p.settings, Lag) and not p.up for p in ports), k, patch))
    return min(tried)[2]


def _places(site: Site, bundle: LinkPort) -> tuple[str, ...]:
    far = site.fabric.ports.get(bundle.peer) if bundle.peer else None
    return tuple(dict.fromkeys(p for p in (bundle.blame, bundle.pointer, far.pointer if far else "") if p))
