"""Whom a survey asks, and with which credentials; those are never written anywhere."""

from __future__ import annotations

import os
from dataclasses import dataclass, field
from ipaddress import ip_address

from anabasis.errors import InputRefused, Problem

RESTCONF_PORT, SNMP_PORT = 443, 161
"""RFC 8040 section 2.1 and RFC 3417 section 3.1.1."""
MOST_TARGETS = 1_000


@dataclass(frozen=True)
class Target:
    """One box to ask. A port that is named is meant for both protocols."""

    text: str
    host: str
    port: int | None
    only: str = ""
    """`restconf` or `snmp`, where just one is to be asked."""

    @property
    def here(self) -> bool:
        """Tell whether it is this machine: only there RESTCONF is spoken without TLS (RFC 8040 section 2.1 asks for it)."""
        try:
            return ip_address(self.host).is_loopback
        except ValueError:
            return self.host == "localhost"


@dataclass(frozen=True)
class Credentials:
    """How a survey shows who asks. Read from the environment, or asked for; not shown, stored or logged."""

    community: str = field(default="public", repr=False)
    """SNMP v2c (RFC 3584)."""
    snmp_user: str = field(default="", repr=False)
    """SNMP v3 (RFC 3414): used instead of a community where it is given."""
    snmp_secret: str = field(default="", repr=False)
    snmp_privacy: str = field(default="", repr=False)
    user: str = field(default="", repr=False)
    """RESTCONF, HTTP Basic (RFC 7617)."""
    password: str = field(default="", repr=False)


NAMES = {
    "community": "ANABASIS_SNMP_COMMUNITY",
    "snmp_user": "ANABASIS_SNMP_USER",
    "snmp_secret": "ANABASIS_SNMP_SECRET",
    "snmp_privacy": "ANABASIS_SNMP_PRIVACY",
    "user": "ANABASIS_RESTCONF_USER",
    "password": "ANABASIS_RESTCONF_PASSWORD",
}


def from_environment() -> Credentials:
    """Return what the environment says."""
    return Credentials(**{key: os.environ[name] for key, name in NAMES.items() if os.environ.get(name)})


def parse_targets(texts: list[str]) -> list[Target]:
    """Read who is to be asked: `HOST`, `HOST:PORT`, `[2001:db8::1]:PORT`, each with `restconf://` or `snmp://` before it. Raises InputRefused."""
    if len(texts) > MOST_TARGETS:
        raise InputRefused([Problem("", "too many boxes for one survey", str(len(texts)), f"up to {MOST_TARGETS}")])
    return [_target(text.strip()) for text in dict.fromkeys(texts) if text.strip()]


def _target(text: str) -> Target:
    scheme, slashes, rest = text.partition("://")
    only = scheme.lower() if slashes else ""
    host, port = rest if slashes else text, ""
    if host.startswith("["):
        host, _, port = host[1:].partition("]")
        port = port.removeprefix(":")
    elif host.count(":") == 1:
        host, _, port = host.partition(":")
    good = only in ("", "restconf", "snmp") and host and all(c.isalnum() or c in ".-:_%" for c in host)
    if not good or (port and not (port.isascii() and port.isdigit() and 0 < int(port[:6]) < 65536)):
        allowed = "HOST, HOST:PORT, [2001:db8::1]:PORT, with restconf:// or snmp:// before it"
        raise InputRefused([Problem("", "this is nobody to ask", repr(text), allowed)])
    return Target(text, host, int(port) if port else None, only)
