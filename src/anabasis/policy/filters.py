"""Stateless filters as policies of their own: what lets a packet pass, and what lets the reply to it pass, which nothing remembers (RFC 8519).

A filter has one crossing for packets that open a session (`THERE`), and one for the replies to them (`BACK`), written from the side of whoever
asked: its sources are those of the request. So a way there and back crosses both, and both have to permit the flow.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from anabasis.design import Design
from anabasis.design.devices import BridgingBox
from anabasis.design.filters import Filter, filter_key, tunnel_key
from anabasis.design.notation import PROTOCOLS, WITH_PORTS, parse_prefix, pointer
from anabasis.fabric import TunnelState
from anabasis.policy.firewalls import Policy
from anabasis.policy.rules import RuleLine
from anabasis.policy.terms import ANY_ADDRESS, ANY_SERVICE, ServiceSpan, Span, Terms

THERE, BACK = ("there", "there"), ("back", "back")
"""The crossings of a filter: of packets that open a session, and of replies."""
TCP, ICMP, ICMP6 = PROTOCOLS["tcp"], PROTOCOLS["icmp"], PROTOCOLS["icmpv6"]
ECHO = {(ICMP, 8): (ICMP, 0), (ICMP6, 128): (ICMP6, 129)}
"""Requests that have a reply of another type (RFC 792, RFC 4443)."""
EVERY_PORT = 65_535


def filter_policies(device: BridgingBox, d: int, terms: Terms) -> Iterator[tuple[str, Policy]]:
    """Yield (key, policy) for each filter of a box."""
    for i, one in enumerate(device.filters):
        at = pointer("devices", d, "filters", i)
        yield filter_key(device.name, one.name), stateless(device.name, at, _lines(one, at, terms))


def stateless(device: str, at: str, lines: Iterable[RuleLine]) -> Policy:
    """Return a filter of ordered lines; what none matches is dropped."""
    kinds = {"there": "filter", "back": "filter"}
    return Policy(device, at, kinds, dict.fromkeys(kinds, at), tuple(lines), (), {}, "drop", "drop", "never")


def _lines(one: Filter, at: str, terms: Terms) -> Iterator[RuleLine]:
    for i, entry in enumerate(one.entries):
        if entry.enabled:
            here, name = f"{at}/entries/{i}", f"{one.name} {i + 1}"
            sources, destinations = terms.addresses(entry.sources), terms.addresses(entry.destinations)
            services = terms.services(entry.services)
            if not entry.established:  # what opens a session is no reply of TCP
                yield RuleLine(name, here, *_zones(THERE), sources, destinations, services, entry.action)
            replies = replies_of(services, entry.established)
            if replies is None or replies:
                yield RuleLine(name, here, *_zones(BACK), destinations, sources, replies, entry.action)


def replies_of(services: frozenset[ServiceSpan] | None, established: bool) -> frozenset[ServiceSpan] | None:
    """Return the requests whose replies an entry for some services speaks of; None = all.

    A reply goes to the port that whoever asked has chosen, any at all: an entry for some ports speaks of none surely. It speaks of those of
    TCP where it says `established`, and of protocols all of whose ports, or which have none, it names.
    """
    if services is ANY_SERVICE:
        return frozenset({(TCP, 0, EVERY_PORT)}) if established else ANY_SERVICE
    every = {p for p, low, high in services if p in WITH_PORTS and low == 0 and high == EVERY_PORT}
    if established:
        return frozenset({(TCP, 0, EVERY_PORT)}) if any(p == TCP for p, _, _ in services) else frozenset()
    asked = {(p, 0, EVERY_PORT) for p in every}
    asked |= {s for s in services if s[0] not in WITH_PORTS and s[0] not in (ICMP, ICMP6)}
    told = {(p, t) for p, low, high in services if p in (ICMP, ICMP6) for t in range(low, high + 1)}
    asked |= {(p, t, t) for (p, t), reply in ECHO.items() if reply in told}
    asked |= {(p, t, t) for p, t in told if (p, t) not in ECHO and (p, t) not in ECHO.values()}
    return frozenset(asked)


def carried(design: Design, tunnels: Sequence[TunnelState]) -> Iterator[tuple[str, Policy]]:
    """Yield (key, policy) for each end of a tunnel that carries some traffic alone, and each way to dial in that takes some alone.

    A link carries what both ends agree on (RFC 7296 section 2.9: selectors are narrowed to what both have).
    """
    devices = {d.name: (k, d) for k, d in enumerate(design.devices)}
    for state in tunnels:
        d, device = devices[state.device]
        assert isinstance(device, BridgingBox)
        key = tunnel_key(state.device, state.name)
        mine = next(((i, t) for i, t in enumerate(device.tunnels) if t.name == state.name), None)
        if mine is None:  # who dials in, or another box of an overlay, which selects nothing
            i, access = next(((i, t) for i, t in enumerate(device.remote_access) if t.name == state.name), (0, None))
            if access is not None and access.routes != "all":
                at = pointer("devices", d, "remote_access", i, "routes")
                yield key, _selecting(device.name, state.name, at, (), _spans(access.routes))
        elif state.peer is not None:
            i, tunnel = mine
            far = devices[state.peer[0]][1]
            other = next((t for t in getattr(far, "tunnels", []) if t.name == state.peer[1]), None)
            theirs = (other.there, other.here) if other is not None else ((), ())
            here, there = _both(tunnel.here, theirs[0]), _both(tunnel.there, theirs[1])
            if here is not None or there is not None:
                yield key, _selecting(device.name, state.name, pointer("devices", d, "tunnels", i), here, there)


def _both(one: Sequence[str], two: Sequence[str]) -> list[Span] | None:
    """Return the addresses that both ends name; None = any: an end that names none takes all."""
    if not one or not two:
        return _spans(one or two) or None
    found = [(a, b) for a in map(parse_prefix, one) for b in map(parse_prefix, two) if a.version == b.version]
    inner = [a if a.prefixlen >= b.prefixlen else b for a, b in found if a.overlaps(b)]
    return _spans([str(n) for n in inner])


def _spans(prefixes: Sequence[str]) -> list[Span]:
    nets = [parse_prefix(p) for p in prefixes]
    return [(n.version, int(n.network_address), int(n.broadcast_address)) for n in nets]


def _selecting(device: str, name: str, at: str, here: Sequence[Span] | None, there: Sequence[Span] | None) -> Policy:
    """Return what passes from one side to the other, and the replies to what came from there; None or nothing named = any here."""
    mine = ANY_ADDRESS if here is None or here == () else frozenset(here)
    theirs = ANY_ADDRESS if there is None else frozenset(there)
    lines = (
        RuleLine(name, at, *_zones(THERE), mine, theirs, ANY_SERVICE, "permit"),
        RuleLine(name, at, *_zones(BACK), theirs, mine, ANY_SERVICE, "permit"),
    )
    return stateless(device, at, lines)


def _zones(crossing: tuple[str, str]) -> tuple[frozenset[str], frozenset[str]]:
    return frozenset(crossing[:1]), frozenset(crossing[1:])
