"""How addresses, prefixes, ranges, services and cable ends are written in a document.

Pure text to value; every function raises ValueError with what is allowed, in words.
IPv4 and IPv6 text forms are those of RFC 4632 (prefixes) and RFC 4291 section 2.2.
"""

from __future__ import annotations

import re
from functools import lru_cache
from ipaddress import (
    IPv4Address,
    IPv4Interface,
    IPv4Network,
    IPv6Address,
    IPv6Interface,
    IPv6Network,
    ip_address,
    ip_interface,
    ip_network,
)
from unicodedata import normalize

Address = IPv4Address | IPv6Address
Network = IPv4Network | IPv6Network
Interface = IPv4Interface | IPv6Interface

PROTOCOLS = {
    "hopopt": 0,
    "icmp": 1,
    "igmp": 2,
    "tcp": 6,
    "udp": 17,
    "gre": 47,
    "esp": 50,
    "ah": 51,
    "icmpv6": 58,
    "ospf": 89,
    "pim": 103,
    "vrrp": 112,
    "sctp": 132,
}
"""Protocol numbers by name (IANA, Assigned Internet Protocol Numbers); others are written `proto/N`."""

WITH_PORTS = frozenset({6, 17, 132})
"""Protocols whose services are told apart by destination port."""
WITH_TYPES = frozenset({1, 58})
"""Protocols whose services are told apart by message type (RFC 792, RFC 4443)."""
FAMILY_OF = {PROTOCOLS["icmp"]: 4, PROTOCOLS["icmpv6"]: 6}
"""Protocols that go over one family only (RFC 792, RFC 4443)."""

LONGEST_NAME = 80
_SERVICE = re.compile(rf"^({'|'.join(sorted(PROTOCOLS))}|proto)/")
_CABLE = re.compile(r"^[^:]+:.+--[^:]+:.+$")


def parse_name(text: str) -> str:
    """Check a name: printable Unicode in NFC (UAX 15), no blanks around it, and nothing that reads as something else."""
    if not 1 <= len(text) <= LONGEST_NAME or text != text.strip() or not text.isprintable():
        raise ValueError(f"a name: 1 to {LONGEST_NAME} printable characters, no blanks around them")
    if normalize("NFC", text) != text:
        raise ValueError(f"a name in Unicode's composed form (NFC), here {normalize('NFC', text)!r}")
    meant = _reads_as(text)
    if meant:
        raise ValueError(f"a name that does not read as {meant}, such as {_another(text)!r}")
    return text


def parse_box_name(text: str) -> str:
    """Check the name of a device or unit: a name without `:`, which parts it from its port."""
    if ":" in text:
        raise ValueError(
            f"a name without ':', which stands between a device and its port, such as {text.replace(':', '-')!r}"
        )
    return parse_name(text)


def _reads_as(text: str) -> str:
    """Return what a text reads as where it is no name."""
    if text.lower() == "any":
        return "'any', which means everything"
    if _SERVICE.match(text):
        return "a service"
    if _CABLE.match(text):
        return "a cable"
    if looks_like_address(text):
        try:
            parse_span(text)
        except ValueError:
            return ""
        return "an address"
    return ""


def _another(text: str) -> str:
    return "the " + re.sub(r"[/:]+|--", " ", text).strip()


KEPT = 2**16
"""How many texts are remembered with what they mean: the same ones are read at every edit."""


@lru_cache(KEPT)
def parse_address(text: str) -> Address:
    """Read one address."""
    try:
        return ip_address(text)
    except ValueError:
        raise ValueError("an IPv4 or IPv6 address such as 10.64.110.1") from None


def parse_router_id(text: str) -> IPv4Address:
    """Read a router id: four numbers with dots (RFC 2328 appendix C.1)."""
    found = parse_address(text)
    if not isinstance(found, IPv4Address):
        raise ValueError("a router id: four numbers with dots, such as 10.64.255.1")
    return found


def parse_area(text: str) -> int:
    """Read an OSPF area: a number, or four with dots."""
    if text.isascii() and text.isdigit() and int(text) < 2**32:
        return int(text)
    try:
        return int(IPv4Address(text))
    except ValueError:
        raise ValueError("an area: a number such as 0, or four with dots such as 0.0.0.1") from None


def parse_target(text: str) -> str:
    """Read a route target or a distinguisher: two numbers, or an IPv4 address and a number (RFC 4364 section 4.2, RFC 4360 section 4)."""
    head, colon, tail = text.rpartition(":")
    wide = head.isascii() and head.isdigit() and int(head) < 2**32
    most = 2**32 if wide and int(head) < 2**16 else 2**16
    if not wide:
        try:
            IPv4Address(head)
        except ValueError:
            colon = ""
    if not (colon and tail.isascii() and tail.isdigit() and int(tail) < most):
        raise ValueError("two numbers such as 65000:10, or an address and a number such as 10.255.0.1:10")
    return text


@lru_cache(KEPT)
def parse_prefix(text: str) -> Network:
    """Read a prefix whose host bits are zero."""
    try:
        return ip_network(text, strict=True)
    except ValueError:
        try:
            wider = ip_network(text, strict=False)
        except ValueError:
            raise ValueError("a prefix such as 10.64.110.0/24") from None
        raise ValueError(f"a prefix with its host bits zero, here {wider}") from None


@lru_cache(KEPT)
def parse_interface(text: str) -> Interface:
    """Read an interface address with its prefix length."""
    if "/" not in text:
        raise ValueError("an address with its prefix length, such as 10.64.110.1/24")
    try:
        return ip_interface(text)
    except ValueError:
        raise ValueError("an address with its prefix length, such as 10.64.110.1/24") from None


PRIVATE = tuple(map(ip_network, ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "fc00::/7")))
"""RFC 1918 section 3 and RFC 4193 section 3.1."""


def is_private(address: Address) -> bool:
    """Tell whether an address is private."""
    return any(address in p for p in PRIVATE if p.version == address.version)


def parse_span(text: str) -> tuple[Address, Address]:
    """Read a host, a prefix or an `a-b` range; return its first and last address.

    Both ends are of one family and in order.
    """
    if "-" in text:
        first, _, last = text.partition("-")
        low, high = parse_address(first.strip()), parse_address(last.strip())
        if low.version != high.version or int(low) > int(high):
            raise ValueError("a range of one family, lower address first, such as 10.64.110.50-10.64.110.199")
        return low, high
    if "/" in text:
        net = parse_prefix(text)
        return net[0], net[-1]
    host = parse_address(text)
    return host, host


def looks_like_address(text: str) -> bool:
    """Tell whether a member of an address set is meant as an address rather than a name."""
    return bool(re.match(r"^[0-9]+\.[0-9.]|^[0-9a-fA-F]*:[0-9a-fA-F:.]*(/[0-9]+|-[0-9a-fA-F:.]+)?$", text))


def parse_service(text: str) -> tuple[int, int, int]:
    """Read `tcp/443`, `udp/2222-2230`, `icmp/8`, `icmp`, `gre` or `proto/47`.

    Returns (protocol number, first, last), where first and last are destination ports (0 to 65535) or message
    types (0 to 255), and 0, 0 for protocols that have neither.
    """
    kind, slash, rest = text.partition("/")
    if kind == "proto":
        number = _number(rest, 0, 255, "a protocol number from 0 to 255, as proto/47")
    elif kind in PROTOCOLS:
        number = PROTOCOLS[kind]
    else:
        raise ValueError(f"a protocol of {', '.join(sorted(PROTOCOLS))} or proto/N")
    top = 65535 if number in WITH_PORTS else 255 if number in WITH_TYPES else 0
    if kind == "proto" or not slash:
        return number, 0, top
    if top == 0:
        raise ValueError(f"{kind} alone: it has neither ports nor types")
    low, dash, high = rest.partition("-")
    what = "port" if top == 65535 else "type"
    first = _number(low, 0, top, f"a {what} from 0 to {top}")
    last = _number(high, 0, top, f"a {what} from 0 to {top}") if dash else first
    if last < first:
        raise ValueError(f"a range of {what}s with the lower one first")
    return number, first, last


def _number(text: str, low: int, high: int, allowed: str) -> int:
    if not text.isascii() or not text.isdigit() or not low <= int(text[:9]) <= high or len(text) > 9:
        raise ValueError(allowed)
    return int(text)


def end_asked(text: str) -> tuple[str, str]:
    """Split what somebody typed for a port; whether there is such a thing is for the asker to say."""
    box, _, port = text.partition(":")
    return box, port or "1"


def parse_end(text: str) -> tuple[str, str]:
    """Read one end of a cable, `device:port` or `unit:port`; the port of a one-port endpoint may be left out."""
    if not text.partition(":")[0]:
        raise ValueError("a cable end such as tank-sw:23 (a firewall's cables go to its units: gate-a:2)")
    return end_asked(text)


def pointer(*parts: str | int) -> str:
    """Write a JSON Pointer (RFC 6901 section 3) from its reference tokens."""
    return "".join("/" + str(p).replace("~", "~0").replace("/", "~1") for p in parts)
