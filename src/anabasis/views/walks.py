"""A walk as JSON (docs/command-line.md, `walk`)."""

from __future__ import annotations

from dataclasses import asdict

from anabasis.trace import Walk
from anabasis.wording import tell


def walk_as_dict(walk: Walk) -> dict[str, object]:
    """Return a walk, there and back, with every step in words."""
    return {
        "outcome": walk.outcome,
        "layer": walk.layer,
        "reason": walk.reason,
        "decided_by": list(walk.decided_by),
        "hops": [asdict(tell(s)) for s in walk.steps],
        "way_back": walk_as_dict(walk.way_back) if walk.way_back else None,
    }
