"""Findings about what gets lost below the rules: one a cause, with the pairs it harms, and the route that mends it where one does."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from anabasis.design import Patch
from anabasis.design.notation import parse_address
from anabasis.fabric import is_edge
from anabasis.facts import Cause, Layer, Says, Wrong
from anabasis.findings.catalogue import Finding, finding
from anabasis.findings.mends import first_that_helps, switched_on
from anabasis.site import Site
from anabasis.verdicts import Shown, Verdict, Verdicts

LOST = {
    Layer.LINK: Says.FRAMES_LOST,
    Layer.VLAN: Says.FRAMES_LOST,
    Layer.ISOLATION: Says.FRAMES_LOST,
    Layer.GATEWAY: Says.GATEWAY_LOST,
    Layer.ROUTE: Says.ROUTE_MISSING,
    Layer.NEIGHBOUR: Says.ROUTE_MISSING,
    Layer.RETURN: Says.RETURN_MISSING,
    Layer.ANSWERS: Says.ANSWER_MISSING,
}
"""What is said of what is lost at a layer. What a zone, a rule or a translation stops has findings of its own."""


def check(verdicts: Verdicts) -> Iterator[Finding]:
    """One finding a cause, with the pairs it harms; transit segments, where no host stands, aside."""
    site = verdicts.sweep.site
    transit = {s.name for s in site.segments.all if s.kind == "transit"}
    harmed: dict[tuple[Wrong, tuple[str, ...]], list[Verdict]] = defaultdict(list)
    for verdict in verdicts.lost:
        cause = verdict.cause
        if cause is None or verdict.tone == "apart" or {verdict.source, verdict.target} & transit:
            continue
        if verdict.verdict == "some" and cause.layer in (Layer.ROUTE, Layer.ZONE, Layer.ANSWERS):
            continue  # some of a pair may be meant to be closed
        if cause.root.layer in LOST and cause.root.wrong != Wrong.HOST_WITHOUT and not _on_purpose(site, cause.root):
            harmed[cause.root.wrong, cause.root.guilty].append(verdict)
    for pairs in harmed.values():
        found = _finding(verdicts, pairs)
        if found is not None:
            yield found


def _on_purpose(site: Site, cause: Cause) -> bool:
    """Tell whether two hosts are kept apart by the ports they stand on, or by their tenants: no fault, wherever their segment has fallen apart besides."""
    if cause.wrong == Wrong.NOT_IMPORTED and cause.value("one") != cause.value("two"):
        return True  # two tenants: what is to be joined, a target says
    ports = [p for p in site.fabric.ports.values() if p.pointer in cause.guilty]
    return cause.wrong == Wrong.KEPT_APART and all(is_edge(p, site.fabric) for p in ports)


MOST_TRIED = 6
"""How many pairs a route into a tunnel is tried for."""


def _finding(verdicts: Verdicts, pairs: list[Verdict]) -> Finding | None:
    """Return what is said of pairs lost by one cause; None where a route into a tunnel is lacking, and policy would stop what it carried."""
    site, one = verdicts.sweep.site, pairs[0]
    assert one.cause is not None
    if _into_a_tunnel(site, one.cause.root):
        meant = next((v for v in pairs[:MOST_TRIED] if _would_pass(verdicts, v)), None)
        if meant is None:
            return None
        one = meant
    assert one.cause is not None
    root = one.cause.root
    only_back = all(v.layer == Layer.RETURN for v in pairs)
    says = Says.RETURN_MISSING if only_back and root.layer in (Layer.ROUTE, Layer.RETURN) else LOST[root.layer]
    by_name = site.segments.by_name
    shown = verdicts.show(by_name[one.source], by_name[one.target], stopped=True)
    mend = first_that_helps(site, [*switched_on(root), *routes_for(site, root, shown)], shown) if shown else None
    ends = {"source": one.source, "target": one.target, "more": len(pairs) - 1}
    return finding(says, *one.cause.pointers, mend=mend, cause=one.cause, values=ends)


def _into_a_tunnel(site: Site, cause: Cause) -> bool:
    """Tell whether a box lacks a route to who is behind the far end of a tunnel."""
    hop = cause.value("hop") if cause.wrong == Wrong.NO_ROUTE and "hop" in cause.known else ""
    return bool(hop) and any(i.kind == "tunnel" for i in site.net.holders(parse_address(str(hop))))


def _would_pass(verdicts: Verdicts, verdict: Verdict) -> bool:
    """Tell whether some packet of a pair would arrive, and its reply come back, had the box that lacks one a route."""
    site, by_name = verdicts.sweep.site, verdicts.sweep.site.segments.by_name
    shown = verdicts.show(by_name[verdict.source], by_name[verdict.target], stopped=True)
    if shown is None or verdict.cause is None:
        return False
    return first_that_helps(site, routes_for(site, verdict.cause.root, shown), shown, by_rules=False) is not None


def routes_for(site: Site, cause: Cause, shown: Shown | None) -> Iterator[Patch]:
    """Yield routes for the box that lacks one: to the subnet of who is not reached, else a default route."""
    root = cause.root
    hop = str(root.value("hop")) if root.wrong == Wrong.NO_ROUTE and "hop" in root.known else ""
    if not hop or shown is None:
        return
    device, vrf = str(root.value("device")), str(root.value("vrf"))
    address = parse_address(str(root.value("address")))
    d = next(k for k, x in enumerate(site.design.devices) if x.name == device)
    ends = [e.group for e in (shown.source, shown.target) if e.group is not None]
    inside = [g for g in ends if address.version == g.subnet.version and address in g.subnet and not g.behind]
    default = "0.0.0.0/0" if address.version == 4 else "::/0"
    table = site.net.tables.get((device, vrf))
    has_default = table is not None and any(
        r.to.prefixlen == 0 and r.to.version == address.version for r in table.routes
    )
    to = [default] if not has_default else []
    to += [str(g.subnet) for g in inside]
    for prefix in to:
        yield _add_route(site, d, vrf, {"to": prefix, "via": hop})


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
