"""Exact sets written for people and for rules: addresses as prefixes, services by name."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from ipaddress import IPv4Address, IPv6Address, ip_network, summarize_address_range

from anabasis.classes.services import ALL_SERVICES, top_of
from anabasis.design.notation import FAMILY_OF, PROTOCOLS, Network
from anabasis.policy import ServiceSpan
from anabasis.routing import Interval, Intervals, intersect, merge, span_of, subtract

ServiceNames = Sequence[tuple[str, Sequence[ServiceSpan]]]
"""Names of services with the spans they stand for, the larger ones first."""


def prefix_cover(wanted: Sequence[Interval], hosts: Intervals, roots: Sequence[Network], family: int) -> list[str]:
    """Return few prefixes inside `roots` that hold all of `wanted` and no other host.

    Addresses no host can have (the box's own, network and broadcast) are free to fall in, so a whole subnet is written as one prefix.
    """
    others = subtract(hosts, wanted)
    found: list[Network] = []
    for root in roots:
        inside = intersect(wanted, [span_of(root)])
        if inside:
            _cover(root, inside, others, found)
    for low, high in subtract(wanted, [span_of(r) for r in roots]):  # of another state of the design
        kind = IPv4Address if family == 4 else IPv6Address
        found += summarize_address_range(kind(low), kind(high))
    return [str(n) if n.prefixlen < n.max_prefixlen else str(n.network_address) for n in found]


def readable_addresses(wanted: Sequence[Interval], hosts: Intervals, roots: Sequence[Network], family: int) -> str:
    """Write addresses for a person: as prefixes, or as `subnet except …` where that is shorter."""
    return _readable(tuple(wanted), tuple(hosts), tuple(roots), family)


@lru_cache(maxsize=5_000)
def _readable(
    wanted: tuple[Interval, ...], hosts_: tuple[Interval, ...], roots: tuple[Network, ...], family: int
) -> str:
    hosts = list(hosts_)
    plain = prefix_cover(wanted, hosts, roots, family)
    spoken_of = [r for r in roots if intersect(wanted, [span_of(r)])]
    left = subtract(intersect(hosts, [span_of(r) for r in spoken_of]), wanted)
    but = prefix_cover(left, hosts, spoken_of, family)
    outside = subtract(wanted, [span_of(r) for r in spoken_of])
    if outside or not spoken_of or len(plain) <= len(but) + len(spoken_of):
        return ", ".join(plain)
    return f"{', '.join(map(str, spoken_of))} except {', '.join(but)}"


def _cover(net: Network, wanted: Intervals, others: Intervals, found: list[Network]) -> None:
    if not wanted:
        return
    span = span_of(net)
    if not intersect(others, [span]):
        found.append(_shrink(net, wanted))
        return
    for half in net.subnets():
        edge = [span_of(half)]
        _cover(half, intersect(wanted, edge), intersect(others, edge), found)


def _shrink(net: Network, wanted: Intervals) -> Network:
    """Return the smallest prefix inside `net` that holds all of `wanted`."""
    low, high = wanted[0][0], wanted[-1][1]
    length = net.max_prefixlen - (low ^ high).bit_length()
    text = f"{type(net.network_address)(low)}/{max(length, net.prefixlen)}"
    return ip_network(text, strict=False)


_NAMES = {number: name for name, number in PROTOCOLS.items()}


def service_texts(spans: Sequence[ServiceSpan], family: int) -> list[str]:
    """Write services as the document does, exactly: `tcp/443`, `udp/53-60`, `icmp`, `proto/2-5`, or `any`."""
    if tuple(spans) == ALL_SERVICES[family]:
        return ["any"]
    out: list[str] = []
    bare: list[int] = []
    for protocol, low, high in spans:
        if protocol in _NAMES:
            full = (low, high) == (0, top_of(protocol))
            out.append(_NAMES[protocol] if full else f"{_NAMES[protocol]}/{low}" + (f"-{high}" if high > low else ""))
        else:
            bare.append(protocol)
    return out + [f"proto/{a}" + (f"-{b}" if b > a else "") for a, b in merge((p, p) for p in bare)]


def readable_services(spans: Sequence[ServiceSpan], family: int, names: ServiceNames) -> str:
    """Write services for a person: by name, and as `any except …` where that is shorter."""
    if tuple(spans) == ALL_SERVICES[family]:
        return "any"
    mine: dict[int, list[tuple[int, int]]] = {}
    for protocol, low, high in spans:
        mine.setdefault(protocol, []).append((low, high))
    left: list[ServiceSpan] = []
    for protocol, _, top in ALL_SERVICES[family]:
        if protocol not in mine:
            left.append((protocol, 0, top))
        elif mine[protocol] != [(0, top)]:
            left += [(protocol, low, high) for low, high in subtract([(0, top)], mine[protocol])]
    plain, but = _named_texts(spans, family, names), _named_texts(left, family, names)
    return ", ".join(plain) if len(plain) <= len(but) + 1 else "any except " + ", ".join(but)


def _named_texts(spans: Sequence[ServiceSpan], family: int, names: ServiceNames) -> list[str]:
    """Put names in the place of whole services, the larger first; what has no name stays as the document writes it."""
    left, out = dict.fromkeys(spans), []
    for name, members in names:
        if not all(m in left or FAMILY_OF.get(m[0], family) != family for m in members):
            continue
        able = {m for m in members if m in left}
        if able:
            out.append(name)
            left = dict.fromkeys(s for s in left if s not in able)
    return out + service_texts(list(left), family) if left else out
