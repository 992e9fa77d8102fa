"""Translation as an instance of RFC 8512 an entry, there and back.

That module knows one external interface and no zones, and IPv4 alone: what an entry says beyond it stands in our own module. A zone is the interfaces
it holds, a policy each. An entry is written where its instance says the same as it does, never more.
"""

from __future__ import annotations

from collections.abc import Iterator
from ipaddress import IPv4Address, ip_network, summarize_address_range
from itertools import pairwise

from anabasis.design import Tree
from anabasis.design.notation import PROTOCOLS, WITH_PORTS, parse_span
from anabasis.interchange.yang.names import NAT, NAT_TYPE
from anabasis.interchange.yang.walking import flag, items, number, text
from anabasis.policy import Terms

MOST_MAPPINGS = 100
"""How many mappings one entry may become; one that would be more is told by our module alone."""
TOP = 65535
EVERY = "0.0.0.0/0"
NAMES = {n: name for name, n in reversed(PROTOCOLS.items())}
Realms = dict[str, list[str]]
"""Zone -> the interfaces in it."""
Mapping = tuple[int | None, int, int]
"""(protocol, None for all; first and last port)."""


def write_nat(device: Tree, interfaces: list[tuple[str, Tree]], terms: Terms) -> Tree | None:
    """Return the translations of a box that the module can say. `interfaces`: (name of a layer-3 interface, its settings)."""
    zones: Realms = {}
    for name, settings in interfaces:
        if settings.get("zone"):
            zones.setdefault(settings["zone"], []).append(name)
    known = {name for name, _ in interfaces}
    out: list[Tree] = []
    for k, entry in enumerate(device.get("nat", []), 1):
        outer = entry.get("to" if entry.get("source_to") else "from", ["any"])
        names = [i for term in outer for i in ([term] if term in known else zones.get(term, []))]
        if "any" not in outer and not names:
            continue
        said = _instance(entry, [] if "any" in outer else list(dict.fromkeys(names)), terms)
        if said is not None:
            enabled = {"enable": False} if entry.get("enabled", True) is False else {}
            out.append({"id": k, "name": entry["name"], **enabled, **said})
    return {"instances": {"instance": out}} if out else None


def _instance(entry: Tree, realm: list[str], terms: Terms) -> Tree | None:
    source, destination = entry.get("source_to"), entry.get("destination_to")
    inner = entry.get("from" if source else "to", ["any"])
    if (source is not None) == (destination is not None) or "any" not in inner:
        return None
    said = _of_source(entry, source, terms) if source is not None else _of_destination(entry, str(destination), terms)
    if said is None:
        return None
    kind, policy, table = said
    where: list[Tree] = [{"external-realm": {"external-interface": name}} for name in realm] or [{}]
    more = {"mapping-table": {"mapping-entry": table}} if table else {}
    return {"type": kind, "policy": [{"id": k} | policy | one for k, one in enumerate(where, 1)]} | more


def _of_source(entry: Tree, onto: str, terms: Terms) -> tuple[str, Tree, list[Tree]] | None:
    inside = _prefixes(entry.get("sources", ["any"]), terms)
    if inside is None or "any" not in entry.get("destinations", ["any"]) or "any" not in entry.get("services", ["any"]):
        return None
    if entry.get("one_to_one"):
        outside = _span(onto)
        if len(inside) != 1 or len(outside or ()) != 1:
            return None
        pair = {"internal-src-address": inside[0], "external-src-address": (outside or [""])[0]}
        return NAT_TYPE["basic"], {}, [{"index": 1, "type": "static", **pair}]
    policy: Tree = {"subscriber-match": [{"match-id": k, "subnet": p} for k, p in enumerate(inside, 1)]}
    if onto != "interface":
        pool = _span(onto)
        if not pool:
            return None
        policy["external-ip-address-pool"] = [{"pool-id": k, "external-ip-pool": p} for k, p in enumerate(pool, 1)]
    return NAT_TYPE["napt"], policy, []


def _of_destination(entry: Tree, onto: str, terms: Terms) -> tuple[str, Tree, list[Tree]] | None:
    outside, inside = _prefixes(entry.get("destinations", ["any"]), terms), _span(onto)
    ports, to = _mappings(entry.get("services", ["any"]), terms), entry.get("service_to")
    onto_ports = _mappings([to], terms) if to else ports
    if outside is None or inside is None or len(outside) != 1 or len(inside) != 1:
        return None
    if "any" not in entry.get("sources", ["any"]) or not ports or not onto_ports:
        return None
    if len(ports) != len(onto_ports) or len(ports) > MOST_MAPPINGS:
        return None
    policy: Tree = {"dst-nat-enable": True}
    if ports == [(None, 0, TOP)]:
        return (
            NAT_TYPE["dst"],
            policy
            | {"dst-ip-address-pool": [{"pool-id": 1, "dst-in-ip-pool": outside[0], "dst-out-ip-pool": inside[0]}]},
            [],
        )
    table: list[Tree] = []
    for k, ((protocol, low, high), (same, first, last)) in enumerate(zip(ports, onto_ports, strict=True), 1):
        if protocol is None or protocol != same or last - first != high - low:
            return None
        one: Tree = {"index": k, "type": "static", "transport-protocol": protocol}
        one |= {"internal-dst-address": inside[0], "external-dst-address": outside[0]}
        if (low, high) != (0, TOP) or (first, last) != (0, TOP):
            one |= {"internal-dst-port": _port(first, last), "external-dst-port": _port(low, high)}
        table.append(one)
    return NAT_TYPE["dst"], policy, table


def _port(low: int, high: int) -> Tree:
    return {"start-port-number": low} | ({"end-port-number": high} if high != low else {})


def _prefixes(terms_of: list[str], terms: Terms) -> list[str] | None:
    """Return IPv4 prefixes; every one where any is meant. None where IPv6 is spoken of by name."""
    if "any" in terms_of:
        return [EVERY]
    spans = sorted(terms.addresses(terms_of))
    if any(family == 6 for family, _, _ in spans):
        return None
    return [str(n) for _, low, high in spans for n in summarize_address_range(IPv4Address(low), IPv4Address(high))]


def _span(onto: str) -> list[str] | None:
    low, high = parse_span(onto)
    if not (isinstance(low, IPv4Address) and isinstance(high, IPv4Address)):
        return None
    return [str(n) for n in summarize_address_range(low, high)]


def _mappings(services: list[str], terms: Terms) -> list[Mapping]:
    spans = terms.services(services)
    if spans is None:
        return [(None, 0, TOP)]
    return [(p, low, high) for p, low, high in sorted(spans)] if all(p in WITH_PORTS for p, _, _ in spans) else []


def read_nat(data: Tree) -> tuple[list[Tree], list[str]]:
    """Return the translations that a box's instances are, between interfaces; and the names of instances that are of a kind we have none of."""
    out: list[Tree] = []
    lost: list[str] = []
    for k, instance in enumerate(items(data, NAT, "instances", "instance"), 1):
        name = text(instance, "name") or f"translation-{text(instance, 'id') or k}"
        found = list(_entries(instance))
        enabled = {"enabled": False} if flag(instance, "enable") is False else {}
        if not found:
            lost.append(name)
        for n, entry in enumerate(found, 1):
            out.append({"name": name if n == 1 else f"{name}-{n}", **entry, **enabled})
    return out, lost


def _entries(instance: Tree) -> Iterator[Tree]:
    """Yield an entry for each way in which packets are changed; policies that differ by their interface alone are one."""
    by_rest: dict[str, tuple[Tree, list[str]]] = {}
    for policy in items(instance, "policy"):
        rest = {key: value for key, value in policy.items() if key not in ("id", "external-realm")}
        held = by_rest.setdefault(str(rest), (rest, []))
        interface = text(policy, "external-realm", "external-interface")
        held[1].extend([interface] if interface else [])
    kind = text(instance, "type").rpartition(":")[2]
    table = items(instance, "mapping-table", "mapping-entry")
    for policy, realm in by_rest.values():
        if kind == "napt44" or (kind == "basic-nat44" and items(policy, "external-ip-address-pool")):
            inside = [text(m, "subnet") for m in items(policy, "subscriber-match")]
            pools = [text(p, "external-ip-pool") for p in items(policy, "external-ip-address-pool")]
            span = _joined(pools) if pools else "interface"
            if span:
                yield _sided("to", realm) | _unless_every("sources", inside) | {"source_to": span}
        for pool in items(policy, "dst-ip-address-pool"):
            outside = [p for p in [text(pool, "dst-in-ip-pool")] if p]
            onto = _plain(text(pool, "dst-out-ip-pool"))
            yield _sided("from", realm) | _unless_every("destinations", outside) | {"destination_to": onto}
        if policy is next(iter(by_rest.values()))[0]:
            yield from _static(table, realm)


def _static(table: list[Tree], realm: list[str]) -> Iterator[Tree]:
    """Yield the static mappings: an address for an address, and ports of one address that go to another."""
    ports: dict[tuple[str, str], list[tuple[str, str]]] = {}
    for one in table:
        inside, outside = text(one, "internal-src-address"), text(one, "external-src-address")
        if text(one, "type") not in ("", "static"):
            continue
        if inside and outside and number(one, "internal-src-port", "start-port-number") is None:
            yield _sided("to", realm) | {"sources": [_plain(inside)], "source_to": _plain(outside), "one_to_one": True}
        met, onto = text(one, "external-dst-address"), text(one, "internal-dst-address")
        if met and onto:
            pair = _service(one, "external-dst-port"), _service(one, "internal-dst-port")
            ports.setdefault((met, onto), []).append(pair)
    for (met, onto), pairs in ports.items():
        base = _sided("from", realm) | _unless_every("destinations", [met])
        same = [a for a, b in pairs if a == b]
        every = {} if "any" in same else {"services": same}
        if same:
            yield base | every | {"destination_to": _plain(onto)}
        for a, b in pairs:
            if a != b:
                yield base | {"services": [a], "destination_to": _plain(onto), "service_to": b}


def _service(mapping: Tree, key: str) -> str:
    protocol = number(mapping, "transport-protocol")
    if protocol is None:
        return "any"
    named = NAMES.get(protocol, f"proto/{protocol}")
    low, high = number(mapping, key, "start-port-number"), number(mapping, key, "end-port-number")
    return named if low is None else f"{named}/{low}" if high in (None, low) else f"{named}/{low}-{high}"


def _sided(key: str, realm: list[str]) -> Tree:
    return {key: realm} if realm else {}


def _unless_every(key: str, prefixes: list[str]) -> Tree:
    return {} if not prefixes or EVERY in prefixes else {key: [_plain(p) for p in prefixes]}


def _plain(prefix: str) -> str:
    """Write a host as an address."""
    return prefix.removesuffix("/32") if "." in prefix else prefix.removesuffix("/128")


def _joined(prefixes: list[str]) -> str:
    """Return one span of prefixes that follow on each other; of others the first."""
    try:
        nets = sorted((ip_network(p) for p in prefixes), key=lambda n: (n.version, int(n.network_address)))
    except ValueError:
        return ""
    if len(nets) == 1:
        return _plain(str(nets[0]))
    gaps = [int(b.network_address) - int(a.broadcast_address) for a, b in pairwise(nets)]
    if any(g != 1 for g in gaps):
        return _plain(str(nets[0]))
    return f"{nets[0].network_address}-{nets[-1].broadcast_address}"


def by_zone(device: Tree, zones: dict[str, str]) -> Tree:
    """Return a box whose translations speak of zones. `zones`: interface -> zone, as the document has them; one without stays an interface."""
    if "nat" not in device:
        return device
    nat = [
        {k: list(dict.fromkeys(zones.get(i, i) for i in v)) if k in ("from", "to") else v for k, v in entry.items()}
        for entry in device["nat"]
    ]
    return device | {"nat": nat}
