"""A DHCP server drawn as a strip of its subnet: who has, keeps, may be handed, or may freely use which addresses."""

from __future__ import annotations

from dataclasses import dataclass

from anabasis.design.notation import Network, parse_address, parse_span
from anabasis.policy import LeaseServer, lease_servers
from anabasis.routing import Intervals, Network3, intersect, span_of, subtract

Spans = list[tuple[int, int, str, str]]
"""(first, last, kind, words), the first that holds an address names it."""


@dataclass(frozen=True)
class StripPart:
    """A run of addresses that are alike."""

    kind: str
    """`gateway`, `own`, `host`, `reserved`, `excluded`, `range`, `free` or `edge` (network and broadcast address)."""
    first: str
    last: str
    count: int
    words: str
    at: float
    """Where it begins, as a share of the subnet from 0 to 1."""
    width: float
    """How much of the subnet it is."""


@dataclass(frozen=True)
class Strip:
    """One subnet of an interface that serves DHCP."""

    device: str
    interface: str
    mode: str
    subnet: str
    pointer: str
    parts: list[StripPart]
    options: list[str]
    """What is handed out with an address, in words."""
    free_to_hand_out: int
    asks: list[str]
    """The servers a relay asks."""


def strips(net: Network3) -> list[Strip]:
    """Return a strip for every DHCP entry and IPv4 subnet of its interface, in document order; `off` ones aside."""
    out = []
    for server in lease_servers(net.segments.fabric.design):
        interface = net.by_name.get((server.device, server.interface))
        for own in (a for a in (interface.addresses if interface else ()) if a.version == 4):
            parts = _parts(net, server, own.network, int(own.ip))
            free = sum(p.count for p in parts if p.kind == "range")
            head = (server.device, server.interface, server.mode, str(own.network), server.pointer)
            out.append(Strip(*head, parts, _options(server), free, list(server.settings.servers)))
    return out


def _parts(net: Network3, server: LeaseServer, subnet: Network, own: int) -> list[StripPart]:
    settings = server.settings
    gateway = int(parse_address(settings.gateway)) if settings.gateway else None
    spans: Spans = []
    if gateway is not None:
        spans.append((gateway, gateway, "gateway", f"{server.label}: the gateway"))
    spans.append((own, own, "own", f"{server.label} itself"))
    spans += [(int(a), int(a), "own", "another box") for a in net.owned if a.version == 4]
    low, high = span_of(subnet)
    spans += [(low, low, "edge", "the subnet's own address"), (high, high, "edge", "broadcast")]
    for kept in settings.reservations:
        number = int(parse_address(kept.address))
        spans.append((number, number, "reserved", f"kept for {kept.name}"))
    spans += [
        (int(g.first), int(g.first), "host", g.endpoint) for g in net.hosts if g.endpoint and g.subnet.version == 4
    ]
    spans += [(int(a), int(b), "excluded", "excluded from every range") for a, b in map(parse_span, settings.exclude)]
    spans += [(int(a), int(b), "range", "handed out") for a, b in map(parse_span, settings.ranges)]
    spans.append((low, high, "free", "free for fixed addresses"))
    return _cut(subnet, spans)


def _cut(subnet: Network, spans: Spans) -> list[StripPart]:
    low, high = span_of(subnet)
    size = high - low + 1
    left: Intervals = [(low, high)]
    found: list[tuple[int, int, str, str]] = []
    for first, last, kind, words in spans:
        mine = intersect(left, [(first, last)])
        found += [(a, b, kind, words) for a, b in mine]
        left = subtract(left, mine)
    address = type(subnet.network_address)
    return [
        StripPart(kind, str(address(a)), str(address(b)), b - a + 1, words, (a - low) / size, (b - a + 1) / size)
        for a, b, kind, words in sorted(found)
    ]


def _options(server: LeaseServer) -> list[str]:
    s = server.settings
    given = {
        "gateway": s.gateway or "none",
        "DNS": ", ".join(s.dns),
        "NTP": ", ".join(s.ntp),
        "boot server": s.boot_server or "",
        "boot file": s.boot_file or "",
        "lease time": _time(s.lease_s) if s.lease_s else "",
    }
    out = [f"{k} {v}" for k, v in given.items() if v]
    return out + [f"option {k} {v}" for k, v in s.options.items()]


def _time(seconds: int) -> str:
    for size, word in ((86400, "day"), (3600, "hour"), (60, "minute")):
        if seconds % size == 0:
            count = seconds // size
            return f"{count} {word}" + ("s" if count > 1 else "")
    return f"{seconds} seconds"
