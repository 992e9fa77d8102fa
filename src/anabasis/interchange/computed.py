"""What is computed of a design, as tables to take out; nothing reads them back."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from anabasis.climb import Climb
from anabasis.design.devices import Firewall
from anabasis.interchange.cells import written
from anabasis.views import drill_view, expectation_rows, routing_overview

Row = dict[str, str]


def _segments(climb: Climb) -> Iterator[Row]:
    for s in climb.site.segments.all:
        at = " ".join(f"{t.box}:{t.name}" for t in s.attachments)
        vlans = " ".join(map(str, sorted(s.vlan_ids)))
        yield {"segment": s.name, "kind": s.kind, "subnets": " ".join(s.subnets), "vlans": vlans, "stands_at": at}


def _routing(climb: Climb) -> Iterator[Row]:
    for device in routing_overview(climb.site.net):
        for table in device.vrfs:
            for r in table.routes:
                where = {"device": device.name, "vrf": table.name, "to": r.to, "goes_to": r.goes_to}
                by = {"interface": r.interface or "", "origin": r.origin, "learnt": r.learnt or ""}
                yield where | by | {"metric": str(r.metric), "state": r.state, "reason": r.reason}


def _standing(climb: Climb) -> Iterator[Row]:
    for device in routing_overview(climb.site.net):
        for i in device.interfaces:
            said = {"addresses": " ".join(i.addresses), "vrf": i.vrf, "zone": i.zone or "", "answers": i.answers or ""}
            state = {"state": "up" if i.up else "down", "reason": "" if i.up else i.reason}
            yield {"device": device.name, "interface": i.name} | said | {"segment": i.segment or ""} | state


def _decisions(climb: Climb) -> Iterator[Row]:
    for firewall in climb.policies():
        for k, r in enumerate(firewall.rules, 1):
            who = {"device": firewall.name, "place": str(k), "rule": r.name, "enabled": "yes" if r.enabled else "no"}
            sides = {"from": " ".join(r.from_zones), "to": " ".join(r.to_zones), "action": r.action}
            yield who | sides | {"decides": r.decides, "shadowed_by": " ".join(r.shadowed_by)}


def _judgements(climb: Climb) -> Iterator[Row]:
    for e in expectation_rows(climb.expectations):
        ends = {"expectation": e.name, "from": e.source, "to": e.target, "services": " ".join(e.services)}
        yield ends | {"expect": e.expect, "holds": "yes" if e.holds else "no", "reason": e.reason}


def _findings(climb: Climb) -> Iterator[Row]:
    for f in climb.findings:
        yield {"severity": f.kind.severity, "code": f.code, "sentence": f.sentence, "where": " ".join(f.pointers)}


def _drills(climb: Climb) -> Iterator[Row]:
    pairs = [d for d in climb.design.devices if isinstance(d, Firewall) and len(d.units) == 2]
    for pair in pairs:
        for k, step in enumerate(drill_view(climb.drill(pair.name)).steps, 1):
            told = {"active": " ".join(step.active), "within_ms": str(step.within_ms), "sessions": step.sessions}
            yield {"pair": pair.name, "step": str(k), "do": step.do} | told | {"lost": "; ".join(step.lost), "seen": ""}


COMPUTED: dict[str, tuple[tuple[str, ...], Callable[[Climb], Iterator[Row]]]] = {
    "segments": (("segment", "kind", "subnets", "vlans", "stands_at"), _segments),
    "standing": (("device", "interface", "addresses", "vrf", "zone", "answers", "segment", "state", "reason"), _standing),
    "routing": (("device", "vrf", "to", "goes_to", "interface", "origin", "learnt", "metric", "state", "reason"), _routing),
    "decisions": (("device", "place", "rule", "enabled", "from", "to", "action", "decides", "shadowed_by"), _decisions),
    "judgements": (("expectation", "from", "to", "services", "expect", "holds", "reason"), _judgements),
    "drills": (("pair", "step", "do", "active", "within_ms", "sessions", "lost", "seen"), _drills),
    "findings": (("severity", "code", "sentence", "where"), _findings),
}  # fmt: skip
"""Kind -> its columns, and what yields its rows."""


def write_computed(kind: str, climb: Climb) -> str:
    """Return a computed table as CSV (RFC 4180). Raises KeyError for a kind that is none."""
    columns, rows = COMPUTED[kind]
    return written(columns, rows(climb))
