"""Whether a tunnel's own packets pass outside, there and back: by the walk, as any packets (docs/semantics.md, "Tunnels")."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from anabasis.design.devices import BridgingBox, Outside
from anabasis.design.notation import Address, parse_address, parse_prefix, pointer
from anabasis.design.tunnels import RemoteAccess, Tunnel
from anabasis.facts import Cause, Layer, Translates, Values, Wrong, because
from anabasis.policy import Service, outer_services
from anabasis.routing import L3Interface
from anabasis.site import Place, Site, host_place, own_place, receiver
from anabasis.trace import Walk, service_text, walk
from anabasis.tunnels.underlay import overlay_links

End = tuple[str, str]
"""(device, tunnel)."""


DISAGREE = (Wrong.TUNNEL_PROTOCOL, Wrong.TUNNEL_SECRET, Wrong.TUNNEL_PEER)


@dataclass(frozen=True)
class Links:
    """What a site lets be up."""

    up: Mapping[End, End | None]
    """By end the other end; None of what hosts dial in to."""
    causes: Mapping[End, Cause]
    """By end why it is not up."""


def links(site: Site) -> Links:
    """Return which tunnels the site lets be up, whatever is up now, and why the others are not. Cost: two walks an end."""
    ends = dict(_ends(site))
    up: dict[End, End | None] = {}
    causes: dict[End, Cause] = {}
    for end, (tunnel, at) in ends.items():
        if not tunnel.enabled:
            causes[end] = _off(end, at)
        elif isinstance(tunnel, RemoteAccess):
            found = _dialled(site, end, tunnel, at)
            up |= {end: None} if found is None else {}
            causes |= {end: found} if found is not None else {}
        elif tunnel.peer != "any" and end not in up:
            other = _reached(site, end, tunnel, at, ends, set(up))
            if isinstance(other, Cause):
                causes[end] = other
            elif other in ends:
                up[end], up[other] = other, end
            else:  # somebody else's network takes it
                up[end] = other
    for end in [e for e, c in causes.items() if c.wrong in DISAGREE]:  # both ends are to blame, and say the same
        if causes[end].wrong in DISAGREE:
            both = set(causes[end].guilty)
            causes |= {e: causes[end] for e, (_, at) in ends.items() if at in both and e not in up}
    for end, (_, at) in ends.items():
        if end not in up and end not in causes:
            causes[end] = _waiting(end, at, ends, causes)
    joined, apart = overlay_links(site)
    return Links({**up, **joined}, {e: c for e, c in {**causes, **apart}.items() if e not in up})


def meant(site: Site) -> dict[End, End]:
    """Return by end of a tunnel the other that its peer's address leads to, whatever keeps the two apart; one end to one."""
    ends = {e: t for e, (t, _) in _ends(site) if isinstance(t, Tunnel)}
    found: dict[End, End] = {}
    for end, tunnel in ends.items():
        held = site.net.holders(parse_address(tunnel.peer)) if tunnel.peer != "any" else []
        at = {(i.device, local) for i in held for local in (i.name, tunnel.peer)}
        other = next((e for e, t in ends.items() if (e[0], t.local) in at and e != end and e not in found), None)
        if other is not None and end not in found:
            found[end], found[other] = other, end
        elif end not in found and (offer := _meant_by(site, tunnel)) is not None:
            found[end] = offer
    return found


def _meant_by(site: Site, tunnel: Tunnel) -> End | None:
    """Return the tunnel that somebody else's network offers at a peer's address, the narrowest network first."""
    if tunnel.peer == "any":
        return None
    peer = parse_address(tunnel.peer)
    near = [
        (n.prefixlen, d.name, o.name)
        for d in site.design.devices
        if isinstance(d, Outside)
        for n in map(parse_prefix, d.prefixes)
        if n.version == peer.version and peer in n
        for o in d.offers
        if o.protocol == tunnel.protocol
    ]
    return max(near, key=lambda x: x[0])[1:] if near else None


def _ends(site: Site) -> Iterator[tuple[End, tuple[Tunnel | RemoteAccess, str]]]:
    for d, device in enumerate(site.design.devices):
        if isinstance(device, BridgingBox):
            for i, tunnel in enumerate(device.tunnels):
                yield (device.name, tunnel.name), (tunnel, pointer("devices", d, "tunnels", i))
            for i, access in enumerate(device.remote_access):
                yield (device.name, access.name), (access, pointer("devices", d, "remote_access", i))


Ends = Mapping[End, tuple[Tunnel | RemoteAccess, str]]


def _waiting(end: End, at: str, ends: Ends, causes: Mapping[End, Cause]) -> Cause:
    """An end that only answers: whoever would begin says why it does not; where nobody would, both wait."""
    mine = ends[end][0]
    others = [
        e for e, (t, _) in ends.items() if e[0] != end[0] and isinstance(t, Tunnel) and t.protocol == mine.protocol
    ]
    calling = [e for e in others if ends[e][0].peer != "any"]  # type: ignore[union-attr]
    known = next((causes[e] for e in calling if e in causes and at in causes[e].pointers), None)
    if known is not None:
        return known
    first = next((causes[e] for e in calling if e in causes), None)
    if first is not None and len(calling) == 1:
        return first
    two = next(iter(others), end)
    values: Values = {"one": _called(end), "two": _called(two)}
    return because(Layer.TUNNEL, Wrong.TUNNEL_WAITS, f"{at}/peer", f"{ends[two][1]}/peer", values=values)


def _off(end: End, at: str) -> Cause:
    return because(Layer.TUNNEL, Wrong.TUNNEL_OFF, f"{at}/enabled", at, values={"tunnel": end[1], "device": end[0]})


def _called(end: End) -> str:
    return f"{end[1]} of {end[0]}"


def _own(site: Site, device: str, local: str, version: int) -> tuple[L3Interface, Address] | None:
    """Return the interface and the address that a tunnel sends from; None where the box has none of them that is up."""
    for interface in (i for i in site.net.interfaces if i.device == device and i.up):
        for address in interface.addresses:
            if address.version == version and local in (interface.name, str(address.ip)):
                return interface, address.ip
    return None


def _reached(site: Site, end: End, tunnel: Tunnel, at: str, ends: Ends, taken: set[End]) -> End | Cause:
    """Send a tunnel's first packets to its peer. Return the end that takes them, or why there is none."""
    peer = parse_address(tunnel.peer)
    own = _own(site, end[0], tunnel.local, peer.version)
    said: Values = {"tunnel": end[1], "device": end[0]}
    if own is None:
        return because(Layer.TUNNEL, Wrong.TUNNEL_LOCAL, f"{at}/local", at, values=said | {"local": tunnel.local})
    source = own_place(site, *own)
    went = walk(site, source, receiver(site, peer), outer_services(tunnel.protocol, False)[0])
    if went.outcome == "stopped":
        near = _misfit(site, end, tunnel, at, ends, peer, went, _seen(went, source.address)[0])
        return near or _lost(end, at, peer, outer_services(tunnel.protocol, False)[0], went)
    there = went.receiver
    offered = _offered(site, end, tunnel, at, there) if there is not None and there.interface is None else None
    if isinstance(offered, Cause):
        return offered
    if offered is not None:
        return _all_pass(site, end, tunnel, at, source, went) or offered
    if there is None or there.interface is None:
        values = said | {"peer": str(peer), "far": there.label if there is not None else str(peer)}
        return because(Layer.TUNNEL, Wrong.TUNNEL_NOBODY, f"{at}/peer", at, values=values)
    seen, _ = _seen(went, source.address)
    waiting = list(_waiting_at(ends, there.interface, there.address, taken))
    fits = [e for e in waiting if _unfit(end, tunnel, e, ends, at, seen) is None]
    if not fits:
        if not waiting:
            values = said | {"peer": str(peer), "far": there.interface.device}
            return because(Layer.TUNNEL, Wrong.TUNNEL_NOBODY, f"{at}/peer", at, values=values)
        cause = _unfit(end, tunnel, waiting[0], ends, at, seen)
        assert cause is not None
        return cause
    exact = [e for e in fits if ends[e][0].peer != "any"]  # type: ignore[union-attr]
    return _all_pass(site, end, tunnel, at, source, went) or (exact or fits)[0]


def _all_pass(site: Site, end: End, tunnel: Tunnel, at: str, source: Place, first: Walk) -> Cause | None:
    """Return why what follows the first packet of a tunnel does not pass; None where all of it does."""
    peer = parse_address(tunnel.peer)
    for service in outer_services(tunnel.protocol, _seen(first, source.address)[1])[1:]:
        went = walk(site, source, receiver(site, peer), service)
        if went.outcome == "stopped":
            return _lost(end, at, peer, service, went)
    return None


def _offered(site: Site, end: End, tunnel: Tunnel, at: str, there: Place) -> End | Cause | None:
    """Return the tunnel that somebody else's network offers where the packets got to, or that it offers others alone; None where it offers none."""
    d, outside = next(
        (
            (d, x)
            for d, x in enumerate(site.design.devices)
            if isinstance(x, Outside) and there.group is not None and x.name == there.group.behind
        ),
        (0, None),
    )
    if outside is None or not outside.offers:
        return None
    fit = next((o for o in outside.offers if o.protocol == tunnel.protocol), None)
    if fit is not None:
        return outside.name, fit.name
    far = outside.offers[0]
    values: Values = {
        "one": _called(end),
        "two": f"{far.name} of {outside.name}",
        "mine": tunnel.protocol,
        "theirs": far.protocol,
    }
    where = pointer("devices", d, "offers", 0)
    return because(Layer.TUNNEL, Wrong.TUNNEL_PROTOCOL, f"{at}/protocol", f"{where}/protocol", at, where, values=values)


def _waiting_at(ends: Ends, own: L3Interface, address: Address, taken: set[End]) -> Iterator[End]:
    for end, (tunnel, _) in ends.items():
        here = isinstance(tunnel, Tunnel) and tunnel.local in (own.name, str(address))
        if here and end[0] == own.device and end not in taken:
            yield end


def _unfit(one: End, mine: Tunnel, two: End, ends: Ends, at: str, seen: Address) -> Cause | None:
    """Return in what two ends do not fit each other."""
    theirs, there = ends[two]
    assert isinstance(theirs, Tunnel)
    if not theirs.enabled:
        return _off(two, there)
    said: Values = {"one": _called(one), "two": _called(two)}
    for key, wrong in (("protocol", Wrong.TUNNEL_PROTOCOL), ("secret", Wrong.TUNNEL_SECRET)):
        here, far = getattr(mine, key), getattr(theirs, key)
        if here != far:
            values = said | {"mine": here, "theirs": far}
            return because(Layer.TUNNEL, wrong, f"{at}/{key}", f"{there}/{key}", at, there, values=values)
    if theirs.peer not in ("any", str(seen)):
        values = said | {"wanted": theirs.peer, "seen": str(seen)}
        return because(Layer.TUNNEL, Wrong.TUNNEL_PEER, f"{there}/peer", f"{at}/local", at, there, values=values)
    return None


def _misfit(
    site: Site, end: End, tunnel: Tunnel, at: str, ends: Ends, peer: Address, went: Walk, seen: Address
) -> Cause | None:
    """Where the far box does not answer since nothing there listens to just this: the end that was meant, and what differs."""
    if went.cause is None or went.cause.root.wrong not in (Wrong.ANSWERS_NOTHING, Wrong.NOT_ANSWERED):
        return None
    for holder in (i for i in site.net.interfaces if i.up and i.pointer in went.cause.pointers):
        for address in (a.ip for a in holder.addresses if a.version == peer.version):
            found = (_unfit(end, tunnel, e, ends, at, seen) for e in _waiting_at(ends, holder, address, set()))
            wrong = next((cause for cause in found if cause is not None), None)
            if wrong is not None:
                return wrong
    return None


def _lost(end: End, at: str, peer: Address, service: Service, went: Walk) -> Cause:
    values: Values = {"tunnel": end[1], "device": end[0], "peer": str(peer), "service": service_text(service)}
    lost = because(Layer.TUNNEL, Wrong.TUNNEL_LOST, at, under=went.cause, values=values)
    return lost


def _seen(went: Walk, source: Address) -> tuple[Address, bool]:
    """Return the source address as the receiver sees it, and whether a translation lies on the way."""
    seen, translated = source, False
    for step in went.steps:
        if isinstance(step, Translates):
            translated = True
            seen = next((parse_address(c.after) for c in step.changes if c.field == "source"), seen)
    return seen, translated


def _dialled(site: Site, end: End, access: RemoteAccess, at: str) -> Cause | None:
    """Dial in from every network outside. Return None where one of them gets there, else why none does."""
    first: Cause | None = None
    for place in _outside(site):
        own = _own(site, end[0], access.interface, place.address.version)
        if own is None:
            continue
        stopped = _dial(site, place, own[1], access.protocol)
        if stopped is None:
            return None
        first = first or stopped
    said: Values = {"tunnel": end[1], "device": end[0]}
    if first is not None:
        values = said | {"peer": access.interface, "service": service_text(outer_services(access.protocol, False)[0])}
        return because(Layer.TUNNEL, Wrong.TUNNEL_LOST, at, under=first, values=values)
    if all(_own(site, end[0], access.interface, v) is None for v in (4, 6)):
        return because(
            Layer.TUNNEL, Wrong.TUNNEL_LOCAL, f"{at}/interface", at, values=said | {"local": access.interface}
        )
    return because(Layer.TUNNEL, Wrong.TUNNEL_UNASKED, f"{at}/interface", at, values=said)


def _dial(site: Site, place: Place, to: Address, protocol: str) -> Cause | None:
    """Send what dialling in sends from one place; return what stops it."""
    went = walk(site, place, receiver(site, to), outer_services(protocol, False)[0])
    for service in outer_services(protocol, _seen(went, place.address)[1])[1:]:
        if went.outcome != "stopped":
            went = walk(site, place, receiver(site, to), service)
    return went.cause


def _outside(site: Site) -> Iterator[Place]:
    for segment in site.segments.all:
        if segment.kind == "outside":
            groups = [g for g in site.net.hosts if g.behind == segment.name]
            yield from (p for g in groups if (p := host_place(site, g)) is not None)
