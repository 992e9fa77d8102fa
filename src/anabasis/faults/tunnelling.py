"""Faults of tunnels: ends that differ, what is carried, and what lies outside."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Tree
from anabasis.design.notation import pointer
from anabasis.faults.kinds import FaultKind, Look, Made, out, put


def _ends(look: Look) -> Iterator[tuple[str, Tree, tuple[str, ...]]]:
    """Yield (pointer, end, all that is to blame where ends differ) of each end of two that speak with each other."""
    known = [
        (pointer("devices", d, "tunnels", i), t)
        for d, x in enumerate(look.devices)
        for i, t in enumerate(x.get("tunnels", []))
    ]
    for at, tunnel in known:
        for other, far in known:
            if other != at and tunnel["peer"] == far["local"] and far["peer"] == tunnel["local"]:
                yield at, tunnel, (at, other)


def protocol(look: Look) -> Iterator[Made]:
    """The two ends speak different protocols."""
    for at, tunnel, guilty in _ends(look):
        yield put(at, "protocol", "gre" if tunnel.get("protocol", "ipsec") != "gre" else "ipsec"), guilty


def secret(look: Look) -> Iterator[Made]:
    """One end still has the maker's secret."""
    for at, _, guilty in _ends(look):
        yield put(at, "secret", "default"), guilty


def peer(look: Look) -> Iterator[Made]:
    """One end expects the other at an address that it has not."""
    for at, tunnel, guilty in _ends(look):
        head, _, last = tunnel["peer"].rpartition(".")
        yield put(at, "peer", f"{head}.{int(last) + 5}"), guilty


def off(look: Look) -> Iterator[Made]:
    """One end is switched off."""
    for at, _, guilty in _ends(look):
        yield put(at, "enabled", False), guilty


def carried(look: Look) -> Iterator[Made]:
    """One end does not take what the other sends."""
    for at, tunnel, guilty in _ends(look):
        if tunnel.get("here"):
            yield put(at, "here", ["10.83.0.0/24"]), guilty


def route(look: Look) -> Iterator[Made]:
    """The route into a tunnel is missing."""
    names = {(d, t["name"]) for d, x in enumerate(look.devices) for t in x.get("tunnels", [])}
    for d, owner, _, at, entry in look.routes():
        if (d, entry.get("interface")) in names:
            yield out(at), (owner, pointer("devices", d))


OUTER = ("udp/500", "udp/4500", "esp", "ah", "proto/47", "udp/4789")
"""What tunnels are made of outside."""


def outer(look: Look) -> Iterator[Made]:
    """A rule outside lets not all of what a tunnel is made of pass: udp/4500, say."""
    for d, device in look.firewalls():
        for i, rule in enumerate(device.get("rules", [])):
            services = rule.get("services", [])
            for closed in services if rule["action"] == "permit" and len(services) > 1 else []:
                if closed in OUTER:
                    at = pointer("devices", d, "rules", i)
                    guilty = at, pointer("devices", d, "rules"), pointer("devices", d, "between_zones")
                    yield put(at, "services", [s for s in services if s != closed]), (*guilty, pointer("devices", d))


FAMILY = (
    FaultKind(
        "tunnel-protocol", "the ends of a tunnel speak different protocols", "tunnel", "breaks", True, 3, protocol
    ),
    FaultKind("tunnel-secret", "one end of a tunnel has another secret", "tunnel", "breaks", True, 6, secret),
    FaultKind("tunnel-peer", "one end of a tunnel expects the other elsewhere", "tunnel", "breaks", True, 5, peer),
    FaultKind("tunnel-off", "one end of a tunnel is switched off", "tunnel", "breaks", True, 3, off),
    FaultKind("tunnel-selectors", "the ends of a tunnel do not carry the same", "tunnel", "breaks", True, 7, carried),
    FaultKind("tunnel-outer", "a rule outside lets not all of a tunnel pass", "rule", "breaks", True, 6, outer),
    FaultKind("tunnel-route", "the route into a tunnel is missing", "route", "breaks", True, 5, route),
)
