"""Findings about bundles (IEEE 802.1AX)."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Patch
from anabasis.design.ports import Lag
from anabasis.fabric import LinkPort
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
    """Where only the protocols disagree: set this end to what the other end has, or to lacp-active where both only listen."""
    far = site.fabric.ports.get(bundle.peer) if bundle.peer else None
    if far is None or not isinstance(far.settings, Lag) or not bundle.blame.endswith("/protocol"):
        return None
    theirs = far.settings.protocol
    return [{"op": "add", "path": bundle.blame, "value": "lacp-active" if theirs == "lacp-passive" else theirs}]


def _places(site: Site, bundle: LinkPort) -> tuple[str, ...]:
    far = site.fabric.ports.get(bundle.peer) if bundle.peer else None
    return tuple(dict.fromkeys(p for p in (bundle.blame, bundle.pointer, far.pointer if far else "") if p))
