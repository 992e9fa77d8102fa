"""Whether boxes of an overlay reach each other's source, there and back: by the walk, on udp/4789 (RFC 7348 section 5)."""

from __future__ import annotations

from anabasis.design.notation import Address
from anabasis.design.overlay import Side, overlay_ends, sides
from anabasis.facts import Cause, Layer, Values, Wrong, because
from anabasis.policy import VXLAN
from anabasis.routing import L3Interface
from anabasis.site import Site, own_place, receiver
from anabasis.trace import walk

End = tuple[str, str]


def overlay_links(site: Site) -> tuple[dict[End, End], dict[End, Cause]]:
    """Return by virtual port the one it leads to, while the boxes reach each other; and why the others are down. Cost: two walks a pair of boxes."""
    known = {s.device: s for s in sides(site.design)}
    found: dict[frozenset[str], Cause | None] = {}
    up: dict[End, End] = {}
    causes: dict[End, Cause] = {}
    for device, ends in overlay_ends(site.design).items():
        for end in ends:
            pair = frozenset((device, end.far[0]))
            if pair not in found:
                one, two = known[device], known[end.far[0]]
                found[pair] = _lost(site, one, two) or _lost(site, two, one)
            cause = found[pair]
            if cause is None:
                up[device, end.port.name] = end.far
            else:
                causes[device, end.port.name] = cause
    return up, causes


def _lost(site: Site, one: Side, two: Side) -> Cause | None:
    """Send what one box sends another. Return what stops it."""
    own = next(
        ((i, a, b) for i, a in sources(site, one) for _, b in sources(site, two) if a.version == b.version), None
    )
    if own is None:
        bare = one if not sources(site, one) else two
        values: Values = {"device": bare.device, "source": bare.source, "far": (two if bare is one else one).device}
        held = site.net.by_name.get((bare.device, bare.source))
        guilty = (held.pointer if held is not None else "", bare.source_at, bare.at)
        return because(Layer.UNDERLAY, Wrong.UNDERLAY_SOURCE, *guilty, values=values)
    interface, source, target = own
    went = walk(site, own_place(site, interface, source), receiver(site, target), VXLAN)
    if went.outcome != "stopped" or went.way_back is not None:
        return None  # nobody answers it: what the other sends is a packet of its own
    said: Values = {"device": one.device, "far": two.device, "source": str(target)}
    return because(Layer.UNDERLAY, Wrong.UNDERLAY_LOST, two.source_at, under=went.cause, values=said)


def sources(site: Site, side: Side) -> list[tuple[L3Interface, Address]]:
    """Return the addresses that a box may send from on the overlay: those of its source, while that is up."""
    held = (i for i in site.net.interfaces if (i.device, i.name) == (side.device, side.source) and i.up)
    return [(i, a.ip) for i in held for a in i.addresses]
