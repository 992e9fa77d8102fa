"""Stateless filters as access control lists (RFC 8519), there and back.

An entry of such a list has one source, one destination and one service; ours may have several of each, so one becomes several in their order.
"""

from __future__ import annotations

from collections.abc import Iterator
from ipaddress import IPv4Address, IPv6Address, summarize_address_range
from itertools import product
from typing import Any

from anabasis.design import Tree
from anabasis.design.notation import PROTOCOLS, WITH_PORTS, WITH_TYPES
from anabasis.interchange.yang.names import ACLS
from anabasis.interchange.yang.walking import items, number, text
from anabasis.policy import Terms

MOST_ENTRIES = 1_000
"""How many entries one filter may become; one that would be more is told by our module alone."""
TCP = 6
ESTABLISHED = "ack rst"
NAMES = {n: name for name, n in reversed(PROTOCOLS.items())}
MIXED = "ietf-access-control-list:mixed-eth-ipv4-ipv6-acl-type"
PERMIT, DROP = "ietf-access-control-list:accept", "ietf-access-control-list:drop"
Network = tuple[int, str | None]
"""(family, prefix; None = any)."""


def write_acls(device: Tree, interfaces: list[tuple[str, Tree]], terms: Terms) -> Tree | None:
    """Return the lists of a box and where they stand. `interfaces`: (name of a layer-3 interface, its settings)."""
    acls = [acl for f in device.get("filters", []) for acl in _acl(f, terms)]
    if not acls:
        return None
    known = {acl["name"] for acl in acls}
    places = []
    for name, settings in interfaces:
        sides = {
            side: {"acl-sets": {"acl-set": [{"name": settings[key]}]}}
            for side, key in (("ingress", "filter_in"), ("egress", "filter_out"))
            if settings.get(key) in known
        }
        places += [{"interface-id": name, **sides}] if sides else []
    return {"acl": acls} | ({"attachment-points": {"interface": places}} if places else {})


def _acl(written: Tree, terms: Terms) -> Iterator[Tree]:
    entries = [e for e in written.get("entries", []) if e.get("enabled", True)]
    aces: list[Tree] = []
    for entry in entries:
        for matches in _matches(entry, terms):
            action = PERMIT if entry["action"] == "permit" else DROP
            aces.append({"name": str(len(aces) + 1), "matches": matches, "actions": {"forwarding": action}})
            if len(aces) > MOST_ENTRIES:
                return
    yield {"name": written["name"], "type": MIXED} | ({"aces": {"ace": aces}} if aces else {})


def _matches(entry: Tree, terms: Terms) -> Iterator[Tree]:
    sources, destinations = (_networks(entry.get(key, ["any"]), terms) for key in ("sources", "destinations"))
    spans = terms.services(entry.get("services", ["any"]))
    services: list[Any] = [None] if spans is None else sorted(spans)
    for (one, source), (two, destination), service in product(sources, destinations, services):
        family = one or two
        if one and two and one != two:
            continue
        protocol = service[0] if service is not None else TCP if entry.get("established") else None
        families = [family] if family else [4, 6] if protocol is not None else [0]
        for f in families:
            yield _ace(f, source, destination, protocol, service, bool(entry.get("established")))


def _ace(
    family: int, source: str | None, destination: str | None, protocol: int | None, service: Any, established: bool
) -> Tree:
    out: Tree = {}
    if family:
        said: Tree = {"protocol": protocol} if protocol is not None else {}
        said |= {f"source-ipv{family}-network": source} if source else {}
        said |= {f"destination-ipv{family}-network": destination} if destination else {}
        out[f"ipv{family}"] = said
    top = 65535 if protocol in WITH_PORTS else 255
    if service is not None and (service[1], service[2]) != (0, top) and protocol in (*WITH_PORTS, *WITH_TYPES):
        if protocol in WITH_TYPES:
            out["icmp"] = {"type": service[1]}
        elif protocol is not None and NAMES[protocol] in ("tcp", "udp"):
            out[NAMES[protocol]] = {"destination-port": {"lower-port": service[1], "upper-port": service[2]}}
    if established:
        out.setdefault("tcp", {})["flags"] = ESTABLISHED
    return out


def _networks(terms_of: list[str], terms: Terms) -> list[Network]:
    if "any" in terms_of:
        return [(0, None)]
    out: list[Network] = []
    for family, low, high in sorted(terms.addresses(terms_of)):
        if family == 4:
            out += [(4, str(n)) for n in summarize_address_range(IPv4Address(low), IPv4Address(high))]
        else:
            out += [(6, str(n)) for n in summarize_address_range(IPv6Address(low), IPv6Address(high))]
    return out


def read_acls(data: Tree) -> list[Tree]:
    """Return the filters that a box's access control lists are, an entry each of theirs."""
    return [
        {"name": text(acl, "name"), "entries": [_entry(ace) for ace in items(acl, "aces", "ace")]}
        for acl in items(data, ACLS, "acl")
    ]


def attached(data: Tree) -> dict[str, Tree]:
    """Return interface -> which filters stand there."""
    out: dict[str, Tree] = {}
    for place in items(data, ACLS, "attachment-points", "interface"):
        for side, key in (("ingress", "filter_in"), ("egress", "filter_out")):
            for held in items(place, side, "acl-sets", "acl-set")[:1]:
                out.setdefault(text(place, "interface-id"), {})[key] = text(held, "name")
    return out


def _entry(ace: Tree) -> Tree:
    matches = ace.get("matches", {})
    out: Tree = {}
    protocol = None
    for family in (4, 6):
        layer3 = matches.get(f"ipv{family}")
        if isinstance(layer3, dict):
            protocol = number(layer3, "protocol")
            for key in ("source", "destination"):
                given = layer3.get(f"{key}-ipv{family}-network")
                every = "0.0.0.0/0" if family == 4 else "::/0"
                out[f"{key}s"] = [str(given)] if given else [every]
    if isinstance(matches.get("tcp"), dict) and "flags" in matches["tcp"]:
        out["established"] = True
    out["services"] = [_service(matches, protocol)]
    out["action"] = "permit" if text(ace.get("actions", {}), "forwarding").endswith("accept") else "drop"
    return {k: v for k, v in out.items() if v != ["any"]}


def _service(matches: Tree, protocol: int | None) -> str:
    for name in ("tcp", "udp"):
        layer4 = matches.get(name)
        if isinstance(layer4, dict):
            held = layer4.get("destination-port", {})
            low, high = number(held, "lower-port"), number(held, "upper-port")
            low, high = (low, high) if low is not None else (number(held, "port"), None)
            span = "" if low is None else f"/{low}" if high in (None, low) else f"/{low}-{high}"
            return f"{name}{span}"
    kind = number(matches.get("icmp", {}), "type")
    if protocol is None and kind is None:
        return "any"
    if protocol in NAMES:
        return NAMES[protocol] + (f"/{kind}" if kind is not None else "")
    return f"proto/{protocol}" if protocol is not None else f"icmp/{kind}"
