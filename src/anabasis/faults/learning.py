"""Faults of OSPF: neighbours that differ, an interface that keeps silent, a subnet that is told to nobody."""

from __future__ import annotations

from collections.abc import Iterator
from ipaddress import ip_interface

from anabasis.design import Tree
from anabasis.design.notation import pointer
from anabasis.faults.kinds import FaultKind, Look, Made, out, put


def _speakers(look: Look) -> Iterator[tuple[str, str, Tree, str, Tree]]:
    """Yield (pointer of the settings, of an entry, the entry, pointer of its interface, the interface)."""
    places = {(d, name): (at, entry) for d, at, entry, name in look.interfaces()}
    for d, device in enumerate(look.devices):
        for v, vrf in enumerate(device.get("vrfs", [])):
            at = pointer("devices", d, "vrfs", v, "ospf")
            for k, entry in enumerate(vrf.get("ospf", {}).get("interfaces", [])):
                place = places.get((d, entry["interface"]))
                if place is not None:
                    yield at, f"{at}/interfaces/{k}", entry, *place


def _pairs(look: Look) -> Iterator[tuple[str, Tree, tuple[str, ...]]]:
    """Yield (entry's pointer, entry, all that is to blame) of each end of two that are neighbours."""
    speaking = [s for s in _speakers(look) if not s[2].get("passive")]
    for at, here, entry, place, mine in speaking:
        for other, there, _, far, theirs in speaking:
            nets = [ip_interface(a).network for a in mine.get("addresses", [])]
            if other != at and any(ip_interface(a).network in nets for a in theirs.get("addresses", [])):
                yield here, entry, (here, there, place, far)


def area(look: Look) -> Iterator[Made]:
    """One end of a link is in another area."""
    for here, _, guilty in _pairs(look):
        yield put(here, "area", "7"), guilty


def passive(look: Look) -> Iterator[Made]:
    """One end of a link keeps silent."""
    for here, _, guilty in _pairs(look):
        yield put(here, "passive", True), guilty


def hello(look: Look) -> Iterator[Made]:
    """The ends of a link say hello at different intervals."""
    for here, entry, guilty in _pairs(look):
        yield put(here, "hello_s", entry.get("hello_s", 10) + 20), guilty


def auth(look: Look) -> Iterator[Made]:
    """One end of a link asks for a secret that the other does not give."""
    for here, entry, guilty in _pairs(look):
        yield put(here, "auth", "none" if entry.get("auth") == "own" else "own"), guilty


def link_kind(look: Look) -> Iterator[Made]:
    """One end takes the link for one between two, the other for a shared one."""
    for here, entry, guilty in _pairs(look):
        other = "broadcast" if entry.get("network") == "point-to-point" else "point-to-point"
        yield put(here, "network", other), guilty


def untold(look: Look) -> Iterator[Made]:
    """A router says nothing of a subnet of hosts it is connected to."""
    for at, here, entry, place, _ in _speakers(look):
        if entry.get("passive"):
            yield out(here), (at, place)


def default_untold(look: Look) -> Iterator[Made]:
    """A router with the way out does not tell the others of it."""
    for d, device in enumerate(look.devices):
        for v, vrf in enumerate(device.get("vrfs", [])):
            at = pointer("devices", d, "vrfs", v, "ospf")
            if vrf.get("ospf", {}).get("announce_default", "never") != "never":
                yield put(at, "announce_default", "never"), (f"{at}/announce_default", at)


FAMILY = (
    FaultKind("ospf-area", "one end of a link is in another OSPF area", "neighbour", "breaks", True, 5, area),
    FaultKind("ospf-passive", "one end of a link is passive by mistake", "neighbour", "breaks", True, 5, passive),
    FaultKind("ospf-hello", "the ends of a link have different OSPF timers", "neighbour", "breaks", True, 4, hello),
    FaultKind(
        "ospf-auth", "one end of a link asks for a secret, the other does not", "neighbour", "breaks", True, 3, auth
    ),
    FaultKind(
        "ospf-link-kind", "the ends of a link take it for different kinds", "neighbour", "breaks", True, 2, link_kind
    ),
    FaultKind("ospf-default", "the router with the way out tells nobody", "route", "breaks", True, 3, default_untold),
    FaultKind("ospf-untold", "a subnet of hosts is announced to nobody", "route", "breaks", True, 4, untold),
)
