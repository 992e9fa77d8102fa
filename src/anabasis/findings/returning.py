"""Findings about replies that do not come back."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from anabasis.findings.catalogue import Finding
from anabasis.reach import Verdicts


def check(verdicts: Verdicts) -> Iterator[Finding]:
    """One finding a place that loses replies, with the pairs it harms; transit segments, where no host stands, aside."""
    transit = {s.name for s in verdicts.sweep.site.segments.all if s.kind == "transit"}
    harmed: dict[str, list[tuple[str, str, str]]] = defaultdict(list)
    for verdict in verdicts.all:
        if verdict.layer == "return" and not {verdict.source, verdict.target} & transit:
            place = verdict.decided_by[0] if verdict.decided_by else ""
            harmed[place].append((verdict.source, verdict.target, verdict.reason))
    for place, pairs in harmed.items():
        source, target, reason = pairs[0]
        more = f", and {len(pairs) - 1} more pairs" if len(pairs) > 1 else ""
        yield Finding("return-missing", f"From {source} to {target}{more}: {reason}.", (place,) if place else ())
