"""Whether the hosts of one segment exchange frames with each other: isolated ports and wireless clients keep them apart."""

from __future__ import annotations

from itertools import combinations
from typing import Literal

from anabasis.fabric.flow import Attachment, Fabric
from anabasis.fabric.segments import Segment

Inside = Literal["all", "some", "none", "alone"]
"""All pairs of hosts, some, none; `alone`: there is place for one at most."""


def inside(fabric: Fabric, segment: Segment) -> Inside:
    """Return which hosts of a segment hear each other, both ways. Hosts on ports of one box that are isolated alike are alike.

    Cost: linear in hosts, and a frame followed for each pair of kinds of ports.
    """
    kinds: dict[tuple[str, bool, bool], list[Attachment]] = {}
    for attachment in sorted(segment.attachments, key=lambda t: t.index):
        if attachment.kind in ("edge", "endpoint"):
            near = _near(fabric, attachment)
            kinds.setdefault(near, []).append(attachment)
    pairs = [(of[0], of[1]) for of in kinds.values() if len(of) > 1]
    pairs += [(one[0], two[0]) for one, two in combinations(kinds.values(), 2)]
    heard = {fabric.delivers(a, b) and fabric.delivers(b, a) for a, b in pairs}
    if not heard:
        return "alone"
    return "some" if len(heard) > 1 else "all" if True in heard else "none"


def _near(fabric: Fabric, attachment: Attachment) -> tuple[str, bool, bool]:
    """Return (box, isolated, whether frames pass) of the port that frames of a host enter."""
    line = fabric.ports.get((attachment.box, attachment.port or ""))
    port = line if attachment.kind == "edge" or line is None or line.peer is None else fabric.ports.get(line.peer)
    if port is None:
        return attachment.box, False, True
    return port.box, port.settings.isolated, port.up
