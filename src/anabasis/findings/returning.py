"""Findings about replies that do not come back."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from anabasis.design import Patch
from anabasis.design.notation import parse_prefix
from anabasis.findings.catalogue import Finding
from anabasis.findings.mends import first_that_helps
from anabasis.reach import Site, Verdict, Verdicts
from anabasis.reach.verdicts import Shown


def check(verdicts: Verdicts) -> Iterator[Finding]:
    """One finding a place that loses replies, with the pairs it harms; transit segments, where no host stands, aside."""
    site = verdicts.sweep.site
    transit = {s.name for s in site.segments.all if s.kind == "transit"}
    harmed: dict[str, list[Verdict]] = defaultdict(list)
    for verdict in verdicts.lost:
        if verdict.layer == "return" and not {verdict.source, verdict.target} & transit:
            harmed[verdict.decided_by[0] if verdict.decided_by else ""].append(verdict)
    for place, pairs in harmed.items():
        one = pairs[0]
        more = f", and {len(pairs) - 1} more pairs" if len(pairs) > 1 else ""
        by_name = site.segments.by_name
        shown = verdicts.show(by_name[one.source], by_name[one.target], stopped=True)
        mend = first_that_helps(site, list(routes_back(site, shown)), shown) if shown else None
        said = f"From {one.source} to {one.target}{more}: {one.reason}."
        yield Finding("return-missing", said, (place,) if place else (), mend)


def routes_back(site: Site, shown: Shown) -> Iterator[Patch]:
    """Yield routes for the box that lost the reply, towards whoever handed it the packet: a default route, else one to the subnet."""
    back = shown.walk.way_back
    if back is None or not back.hops or back.hops[-1].stage != "route":
        return
    lost = back.hops[-1].device
    if "routing loop" in back.reason:  # the box that knows the least about the address sends it the wrong way
        ways = [(parse_prefix(h.label).prefixlen, h.device) for h in back.hops[:-1] if h.stage == "route"]
        lost = min(ways)[1] if ways else lost
    entered = [h for h in shown.walk.hops if h.stage == "interface"]
    at = next((k for k, h in enumerate(entered) if h.device == lost), None)
    came_by = site.net.by_name.get((lost, entered[at].label)) if at is not None else None
    before = entered[:at]
    if came_by is None or not before:
        return
    version = shown.source.address.version
    hop = next(
        (
            str(a.ip)
            for i in site.net.interfaces
            if i.device == before[-1].device
            for a in i.addresses
            if a.version == version and came_by.subnet_of(a.ip)
        ),
        None,
    )
    d = next(k for k, x in enumerate(site.design.devices) if x.name == lost)
    group = shown.source.group
    prefixes = ["0.0.0.0/0" if version == 4 else "::/0", *([str(group.subnet)] if group else [])]
    for to in prefixes if hop else ():
        yield _add_route(site, d, came_by.vrf, {"to": to, "via": hop})


def _add_route(site: Site, d: int, vrf: str, route: dict[str, object]) -> Patch:
    device = site.design.devices[d]
    at = f"/devices/{d}"
    if device.kind == "outside":
        known = "routes" in device.model_fields_set
        return [{"op": "add", "path": f"{at}/routes" + ("/-" if known else ""), "value": route if known else [route]}]
    vrfs = list(getattr(device, "vrfs", []))
    for v, entry in enumerate(vrfs):
        if entry.name == vrf:
            has = "routes" in entry.model_fields_set
            value = route if has else [route]
            return [{"op": "add", "path": f"{at}/vrfs/{v}/routes" + ("/-" if has else ""), "value": value}]
    table = {"name": vrf, "routes": [route]}
    written = "vrfs" in device.model_fields_set
    return [{"op": "add", "path": f"{at}/vrfs" + ("/-" if written else ""), "value": table if written else [table]}]
