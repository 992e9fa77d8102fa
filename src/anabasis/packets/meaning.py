"""What the words of a policy stand for, read from the document alone: sets of addresses, services, and which rule a packet meets."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv6Address, summarize_address_range
from typing import Any

from anabasis.design import Design
from anabasis.design.devices import Firewall
from anabasis.design.iana import iana_services
from anabasis.design.notation import FAMILY_OF, WITH_PORTS, WITH_TYPES, looks_like_address, parse_service, parse_span
from anabasis.design.rules import Rule
from anabasis.packets.wire import Frame

Spans = dict[int, list[tuple[int, int]]]
"""IP version -> (first, last) as numbers."""
Services = list[tuple[int, int, int]]
"""(protocol, first, last)."""


def address_of(version: int, number: int) -> IPv4Address | IPv6Address:
    """Return an address by its number."""
    return IPv4Address(number) if version == 4 else IPv6Address(number)


def prefixes_of(version: int, low: int, high: int) -> list[str]:
    """Return the prefixes that a span of addresses consists of."""
    ends: Any = address_of(version, low), address_of(version, high)
    return [str(n) for n in summarize_address_range(*ends)]


def speaks_of(rule: Rule, one: str, two: str) -> bool:
    """Tell whether a rule is in force, and stands between two zones."""
    return rule.stands and all("any" in named or z in named for named, z in ((rule.from_, one), (rule.to, two)))


class Words:
    """The named sets of a design."""

    def __init__(self, design: Design) -> None:
        self._addresses = {s.name: s.members for s in design.addresses}
        self._services = {s.name: s.members for s in design.services}

    def addresses(self, words: Iterable[str], seen: frozenset[str] = frozenset()) -> Spans | None:
        """Return what addresses are meant; None = any."""
        out: Spans = {4: [], 6: []}
        for word in words:
            if word == "any":
                return None
            if word in self._addresses and word not in seen:
                inside = self.addresses(self._addresses[word], seen | {word})
                if inside is None:
                    return None
                for version, spans in inside.items():
                    out[version] += spans
            elif looks_like_address(word):
                low, high = parse_span(word)
                out[low.version].append((int(low), int(high)))
        return out

    def services(self, words: Iterable[str], seen: frozenset[str] = frozenset()) -> Services | None:
        """Return what services are meant; None = any."""
        out: Services = []
        for word in words:
            if word == "any":
                return None
            if word in self._services and word not in seen:
                inside = self.services(self._services[word], seen | {word})
                if inside is None:
                    return None
                out += inside
            elif word in iana_services():
                out += iana_services()[word]
            else:
                out.append(parse_service(word))
        return out


@dataclass(frozen=True)
class Packet:
    """What rules look at."""

    version: int
    source: int
    target: int
    protocol: int
    number: int
    """The port it is for, or the type of message; 0 where the protocol has neither."""
    from_port: int = 0

    @property
    def flow(self) -> tuple[int, int, int, int, int]:
        """Return what tells its session from others."""
        return self.protocol, self.source, self.from_port, self.target, self.number

    @property
    def back(self) -> tuple[int, int, int, int, int]:
        """Return what its reply is told by."""
        return self.protocol, self.target, self.number, self.source, self.from_port


def within(spans: Spans | None, version: int, number: int) -> bool:
    """Tell whether an address is among some."""
    return spans is None or any(low <= number <= high for low, high in spans[version])


def among(services: Services | None, version: int, protocol: int, number: int) -> bool:
    """Tell whether a service is among some."""
    return services is None or any(
        p == protocol and low <= number <= high and FAMILY_OF.get(p, version) == version for p, low, high in services
    )


def permitted(words: Words, box: Firewall, zones: tuple[str, str], packet: Packet) -> bool:
    """Tell whether the first rule that matches permits a packet; where none does, the default of the box."""
    for rule in box.rules:
        if not speaks_of(rule, *zones):
            continue
        hit = within(words.addresses(rule.sources), packet.version, packet.source)
        hit = hit and within(words.addresses(rule.destinations), packet.version, packet.target)
        if hit and among(words.services(rule.services), packet.version, packet.protocol, packet.number):
            return rule.action == "permit"
    return (box.same_zone if zones[0] == zones[1] else box.between_zones) == "permit"


def read_packet(rest: bytes) -> Packet | None:
    """Read the packet in a frame, from its type field on (RFC 791, RFC 8200, RFC 792, RFC 4443); None where it is none."""
    kind = int.from_bytes(rest[:2], "big")
    if kind == 0x0800 and len(rest) >= 22:
        version, head, protocol = 4, (rest[2] & 15) * 4, rest[11]
        source, target = (int.from_bytes(rest[a : a + 4], "big") for a in (14, 18))
    elif kind == 0x86DD and len(rest) >= 42:
        version, head, protocol = 6, 40, rest[8]
        source, target = (int.from_bytes(rest[a : a + 16], "big") for a in (10, 26))
    else:
        return None
    inside = rest[2 + head :]
    if protocol in WITH_PORTS and len(inside) >= 4:
        return Packet(
            version, source, target, protocol, int.from_bytes(inside[2:4], "big"), int.from_bytes(inside[:2], "big")
        )
    if protocol in WITH_TYPES and len(inside) >= 6:
        return Packet(version, source, target, protocol, inside[0], int.from_bytes(inside[4:6], "big"))
    return Packet(version, source, target, protocol, 0)


REPLIES = {(1, 0): 8, (58, 129): 128}
"""(protocol, type) of the reply to an echo -> the type that asked."""
DISCOVERY = range(133, 138)
"""Types of ICMPv6 by which neighbours and routers are found (RFC 4861)."""


class UnseenFilter:
    """A firewall that frames cross, bridged or inline: zones, rules, and the sessions it knows. ARP and neighbour discovery pass."""

    def __init__(self, words: Words, box: Firewall, kind: str) -> None:
        """`kind`: bridged or inline: zones of another kind let nothing pass."""
        self.words, self.box = words, box
        self.zones = {z.name: z for z in box.zones if z.kind == kind}
        self.known: set[tuple[int, int, int, int, int]] = set()

    def __call__(self, one: str | None, two: str | None, frame: Frame) -> bool:
        """Tell whether a frame may pass between two zones; remember its session."""
        rest = frame.rest
        here, there = self.zones.get(one or ""), self.zones.get(two or "")
        packet = read_packet(rest)
        if here is None or there is None:
            return False
        if here is there and here.kind == "bridged" and not here.filter_inside and self.box.same_zone == "permit":
            return True
        if packet is None or (packet.protocol == 58 and packet.number in DISCOVERY):
            return int.from_bytes(rest[:2], "big") in (0x0806, 0x86DD)
        asked = REPLIES.get((packet.protocol, packet.number))
        if asked is not None:
            return (packet.protocol, packet.target, packet.from_port, packet.source, asked) in self.known
        if packet.back in self.known or packet.flow in self.known:
            return True
        if not permitted(self.words, self.box, (here.name, there.name), packet):
            return False
        self.known.add(packet.flow)
        return True
