"""Any thing of a document made anew: where it goes, and what it says to begin with, by the site's own pattern."""

from __future__ import annotations

import copy
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from ipaddress import ip_address, ip_interface, ip_network
from typing import Any

import jsonpointer

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.files import parse_design
from anabasis.design.making.devices import next_address
from anabasis.design.new_vlan import suggest_subnet
from anabasis.design.targets import interfaces_of
from anabasis.errors import InputRefused, Problem, UnknownPlace, nearest

Proposal = Callable[[Tree, Tree, str], Tree]
"""(document, owner, its pointer) -> what the new thing says to begin with."""


@dataclass(frozen=True)
class Kind:
    """One kind of thing that can be made."""

    title: str
    """As `items.py` calls it."""
    key: str
    """The list it stands in, of its owner; for a pair's settings, the key itself."""
    owners: tuple[str, ...]
    """`design`, kinds of devices, or what else may own one: `port`, `vrf`, `dhcp`, `interface`, `failover`."""
    propose: Proposal
    model: str
    """Its model, by the name in the published schema."""
    single: bool = False
    """There is one of it at most: it stands at the key itself, not in a list."""


@dataclass(frozen=True)
class NewThing:
    """What a person asks for."""

    kind: str
    at: str
    """The pointer of its owner; empty = the design."""
    value: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Fresh:
    """A thing as it is proposed, not made yet."""

    kind: str
    title: str
    model: str
    at: str
    value: dict[str, Any]


def fresh(raw: Tree, kind: str, at: str) -> Fresh:
    """Return what a new thing would say to begin with. Raises UnknownPlace where there is no such kind, or nothing of it can stand there."""
    known, owner = _owner(raw, kind, at)
    return Fresh(kind, known.title, known.model, at, known.propose(raw, owner, at))


def make(raw: Tree, wanted: NewThing) -> Patch:
    """Return the edit that makes a thing. Raises UnknownPlace as `fresh` does; the document is checked when the edit is applied."""
    known, _ = _owner(raw, wanted.kind, wanted.at)
    tree: Tree = copy.deepcopy(raw)
    owner = jsonpointer.resolve_pointer(tree, wanted.at)
    value = {k: v for k, v in wanted.value.items() if v not in (None, "", [])}
    if known.single:
        owner[known.key] = value
    elif wanted.kind == "route" and "vrfs" not in owner and wanted.at.count("/") == 2 and owner["kind"] != "outside":
        owner["vrfs"] = [{"name": "main", "routes": [value]}]
    else:
        owner.setdefault(known.key, []).append(value)
    return difference(raw, tree)


def _owner(raw: Tree, kind: str, at: str) -> tuple[Kind, Tree]:
    if kind not in KINDS:
        close = nearest(kind, list(KINDS))
        raise UnknownPlace([Problem("/kind", "there is no such kind", repr(kind), ", ".join(KINDS), close)])
    known = KINDS[kind]
    owner = jsonpointer.resolve_pointer(raw, at, None)
    if not isinstance(owner, dict) or not _may_own(known, owner, at):
        raise UnknownPlace(
            [Problem(at, f"no {known.title.lower()} can stand here", repr(at), " or ".join(known.owners))]
        )
    return known, owner


def _may_own(kind: Kind, owner: Tree, at: str) -> bool:
    steps = at.split("/")[1:]
    if not steps:
        return "design" in kind.owners
    if len(steps) == 2 and steps[0] == "devices":
        return str(owner.get("kind")) in kind.owners
    inside = {
        "ports": "port",
        "lags": "port",
        "vrfs": "vrf",
        "dhcp": "dhcp",
        "filters": "filter",
        "mac_vrfs": "mac-vrf",
        "rules": "rule",
    }.get(steps[-2], "")
    inside = "ospf" if steps[-1] == "ospf" else inside
    interface = steps[-2] in ("ports", "lags", "subinterfaces", "vlan_interfaces", "loopbacks")
    return inside in kind.owners or ("interface" in kind.owners and interface)


def _free(names: Iterator[str] | list[str], base: str) -> str:
    taken = set(names)
    return next(n for n in (base, *(f"{base}-{k}" for k in range(2, 10_000))) if n not in taken)


def _names(owner: Tree, *keys: str) -> list[str]:
    return [x["name"] for k in keys for x in owner.get(k, [])]


def _named(base: str, key: str, **more: Any) -> Proposal:
    return lambda raw, owner, at: {"name": _free(_names(owner, key), base), **copy.deepcopy(more)}


def _vlan(raw: Tree, owner: Tree, at: str) -> Tree:
    ids = [v["id"] for v in raw.get("vlans", [])]
    step = 10 if all(i % 10 == 0 for i in ids) else 1
    start = (max(ids) // step + 1) * step if ids else 10
    number = next((n for n in (*range(start, 4095, step), *range(1, 4095)) if n not in ids and n != 1), 2)
    subnet = suggest_subnet(parse_design(raw), number)
    return {"id": number, "name": "", "subnets": [subnet] if subnet else []}


def _port(raw: Tree, owner: Tree, at: str) -> Tree:
    names = _names(owner, "ports")
    numbers = [int(n) for n in names if n.isascii() and n.isdigit()]
    return {"name": str(max(numbers, default=0) + 1)} if len(numbers) == len(names) else {"name": ""}


def _ssid(raw: Tree, owner: Tree, at: str) -> Tree:
    """In the first VLAN of visitors without one here, else in the first without."""
    taken = {s["vlan"] for s in owner.get("ssids", [])}
    free = [v for v in raw.get("vlans", []) if v["id"] not in taken]
    vlan = next((v for v in free if v.get("purpose") == "visitors"), free[0] if free else None)
    name = _free(_names(owner, "ssids", "ports"), str(vlan["name"]) if vlan else "air")
    visiting = vlan is not None and vlan.get("purpose") == "visitors"
    return {"name": name, "vlan": vlan["id"] if vlan else 0, "isolated": visiting, "security": "own"}


def _vlans_here(raw: Tree, taken: set[int]) -> Iterator[Tree]:
    """Yield the VLANs that nobody has an interface in, those with a subnet first."""
    yield from sorted(
        (v for v in raw.get("vlans", []) if v["id"] not in taken), key=lambda v: (not v.get("subnets"), v["id"])
    )


def _interface_of(raw: Tree, device: Tree, key: str, taken: set[int], neighbours: list[Tree]) -> Tree:
    """An interface in the first VLAN without one: the gateway's usual place, and the zone of its neighbours."""
    vlan = next(_vlans_here(raw, taken), None)
    out: Tree = {key: vlan["id"] if vlan else 0}
    if vlan is not None and vlan.get("subnets"):
        out["addresses"] = [a for n in vlan["subnets"] if (a := gateway_place(raw, n))]
    zones = [x["zone"] for x in neighbours if x.get("zone")] or [
        z["name"] for z in device.get("zones", []) if z.get("kind", "routed") == "routed"
    ]
    if device["kind"] == "firewall" and zones:
        out["zone"] = zones[-1]
    lists = [x["answers"] for x in neighbours if x.get("answers")]
    return out | ({"answers": Counter(lists).most_common(1)[0][0]} if lists else {})


def gateway_place(raw: Tree, subnet: str) -> str | None:
    """Return the address that gateways of this site have in their subnets, first or last, if it is free, else the next that is."""
    lasts = firsts = 0
    for device in raw.get("devices", []):
        for entry in _interfaces(device) if device["kind"] != "endpoint" else []:
            for text in entry.get("addresses", []):
                own = ip_interface(text)
                if own.version == 4 and own.network.prefixlen < 31:
                    firsts += own.ip == own.network[1]
                    lasts += own.ip == own.network[-2]
    return next_address(raw, subnet, from_top=lasts > firsts)


def _interfaces(device: Tree) -> Iterator[Tree]:
    for key in ("ports", "lags"):
        for base in device.get(key, []):
            yield base
            yield from base.get("subinterfaces", [])
    for key in ("vlan_interfaces", "loopbacks"):
        yield from device.get(key, [])


def _subinterface(raw: Tree, owner: Tree, at: str) -> Tree:
    device = jsonpointer.resolve_pointer(raw, "/".join(at.split("/")[:3]))
    taken = {s["tag"] for key in ("ports", "lags") for p in device.get(key, []) for s in p.get("subinterfaces", [])}
    if owner.get("mode") == "bridged":
        tags = [*owner.get("tagged", []), *owner.get("untagged", [])]
        free = [t for t in tags if t not in {s["tag"] for s in owner.get("subinterfaces", [])}]
        return {"tag": free[0] if free else 0}
    return _interface_of(raw, device, "tag", taken, owner.get("subinterfaces", []))


def _vlan_interface(raw: Tree, owner: Tree, at: str) -> Tree:
    taken = {v["vlan"] for v in owner.get("vlan_interfaces", [])}
    return _interface_of(raw, owner, "vlan", taken, owner.get("vlan_interfaces", []))


def _route(raw: Tree, owner: Tree, at: str) -> Tree:
    """The default route, where there is none: to whoever routes on a link of the box, an outside first."""
    device = jsonpointer.resolve_pointer(raw, "/".join(at.split("/")[:3]))
    routes = [r["to"] for v in device.get("vrfs", []) for r in v.get("routes", [])] + [r["to"] for r in device.get("routes", [])]  # fmt: skip
    nets = [ip_interface(a).network for e in _interfaces(device) for a in e.get("addresses", [])]
    others: list[tuple[bool, str]] = []
    for box in raw.get("devices", []):
        routing = box["kind"] in ("router", "firewall", "outside") or box.get("routing")
        for entry in _interfaces(box) if box is not device and routing else []:
            others += [
                (box["kind"] not in ("outside", "router"), str(own.ip))
                for own in map(ip_interface, entry.get("addresses", []))
                if any(own.ip in n for n in nets) and own.version == 4
            ]
    hop = min(others, default=(True, ""))[1]
    return {"to": "0.0.0.0/0" if "0.0.0.0/0" not in routes else "", "via": hop}


def _in_vrf(raw: Tree, at: str) -> list[tuple[str, Tree]]:
    """Return (name, settings) of the interfaces of the VRF that a pointer leads to or into, those with an address."""
    steps = at.split("/")
    device = jsonpointer.resolve_pointer(raw, "/".join(steps[:3]))
    vrf = jsonpointer.resolve_pointer(raw, "/".join(steps[:5]))["name"]
    found = [(n, jsonpointer.resolve_pointer(raw, p)) for n, p in interfaces_of(device, "/".join(steps[:3]))]
    return [(n, e) for n, e in found if e.get("addresses") and e.get("vrf", "main") == vrf]


def _towards_routers(raw: Tree, entry: Tree) -> bool:
    """Tell whether another box that routes has an address in a subnet of an interface."""
    nets = [ip_interface(a).network for a in entry.get("addresses", [])]
    others = [
        ip_interface(a)
        for box in raw.get("devices", [])
        if box["kind"] in ("router", "firewall") or box.get("routing")
        for e in _interfaces(box)
        if e is not entry
        for a in e.get("addresses", [])
    ]
    return any(o.ip in n for o in others for n in nets if o.version == n.version)


def _ospf(raw: Tree, owner: Tree, at: str) -> Tree:
    """Every interface of the VRF in the backbone: it speaks where another router stands, and is passive where none does."""
    interfaces = [
        {"interface": n, "area": "0", "cost": 10, "passive": not _towards_routers(raw, e)} for n, e in _in_vrf(raw, at)
    ]
    own = [ip_interface(a) for _, e in _in_vrf(raw, at) for a in e["addresses"]]
    ids = [str(a.ip) for a in own if a.version == 4]
    return ({"router_id": ids[-1]} if ids else {}) | {"interfaces": interfaces, "announce_default": "never"}


def _ospf_interface(raw: Tree, owner: Tree, at: str) -> Tree:
    """The first interface of the VRF that takes no part yet."""
    taken = {x["interface"] for x in owner.get("interfaces", [])}
    name, entry = next(((n, e) for n, e in _in_vrf(raw, at) if n not in taken), ("", {}))
    area = next((x.get("area", "0") for x in owner.get("interfaces", [])), "0")
    return {"interface": name, "area": area, "cost": 10, "passive": not _towards_routers(raw, entry)}


def _redistribute(raw: Tree, owner: Tree, at: str) -> Tree:
    told = {x["from"] for x in owner.get("redistribute", [])}
    return {"from": "static" if "static" not in told else "connected", "metric": 20, "type": 2}


def _stub_area(raw: Tree, owner: Tree, at: str) -> Tree:
    known = {x["area"] for x in owner.get("stub", [])}
    areas = [x.get("area", "0") for x in owner.get("interfaces", [])]
    return {"area": next((a for a in areas if a not in known and a not in ("0", "0.0.0.0")), ""), "default_cost": 1}


def _rule(raw: Tree, owner: Tree, at: str) -> Tree:
    zones = [z["name"] for z in owner.get("zones", [])] or ["any"]
    ends = {"from": [zones[0]], "to": [zones[-1]]}
    return {"name": _free(_names(owner, "rules"), f"{zones[0]}-{zones[-1]}"), **ends, "services": ["any"], "action": "permit"}  # fmt: skip


def _translation(raw: Tree, owner: Tree, at: str) -> Tree:
    if owner["kind"] == "firewall":
        names = [z["name"] for z in owner.get("zones", [])]
    else:
        names = [n for n, _ in interfaces_of(owner, at)]
    inside, out = names[:-1] or ["any"], names[-1:] or ["any"]
    base = {"name": _free(_names(owner, "nat"), f"hide-to-{out[0]}"), "from": inside, "to": out}
    return base | {"sources": ["any"], "source_to": "interface"}


def _lease(raw: Tree, owner: Tree, at: str) -> Tree:
    """The first interface with an IPv4 address and no server: the middle of its subnet, itself as the gateway."""
    return lease_on(raw, owner, at) or {"interface": "", "ranges": []}


def lease_on(raw: Tree, owner: Tree, at: str, pointer: str | None = None) -> Tree | None:
    """Return the server that an interface would have (`pointer`; None = the first without one); None where it cannot have one."""
    serving = {x["interface"] for x in owner.get("dhcp", [])}
    for name, where in interfaces_of(owner, at):
        if pointer not in (None, where):
            continue
        entry = jsonpointer.resolve_pointer(raw, where)
        own = next((ip_interface(a) for a in entry.get("addresses", []) if "." in a), None)
        if own is None or name in serving or own.network.num_addresses < 8:
            continue
        net = ip_network(own.network)
        low, high = net[net.num_addresses * 2 // 5], net[net.num_addresses * 4 // 5]
        return {"interface": name, "ranges": [f"{low}-{high}"], "gateway": str(own.ip), "lease_s": 86400}
    return None


def _reservation(raw: Tree, owner: Tree, at: str) -> Tree:
    return {"name": "", "address": ""}


def _wire(raw: Tree, owner: Tree, at: str) -> Tree:
    used = {e for w in owner.get("wires", []) for e in w["ends"]}
    free = [p["name"] for p in owner.get("ports", []) if p.get("mode") == "inline" and p["name"] not in used]
    return {"name": _free(_names(owner, "wires"), "line"), "ends": free[:2], "tags": "any"}


def _unit(raw: Tree, owner: Tree, at: str) -> Tree:
    taken = _names(owner, "units")
    if len(taken) >= 2:
        raise InputRefused([Problem(at + "/units", "a firewall has two units at most", ", ".join(taken))])
    letter = "ab"[len(taken)]
    return {"name": f"{owner['name']}-{letter}", "priority": (150, 100)[len(taken)]}


def _failover(raw: Tree, owner: Tree, at: str) -> Tree:
    beats = [p["name"] for p in owner.get("ports", []) if p.get("mode") == "heartbeat"]
    lags = _names(owner, "lags")
    watch = [p["name"] for p in owner.get("ports", []) if p.get("mode") in ("routed", "bridged", "inline")] + lags
    return {"mode": "standby", "heartbeats": beats, "watch": watch, "preempt": False, "sync_sessions": True}


def _expectation(raw: Tree, owner: Tree, at: str) -> Tree:
    ends = {"from": "", "to": "", "services": ["any"]}
    return {"name": _free(_names(raw, "expectations"), "expectation"), **ends, "expect": "open"}


def _schedule(raw: Tree, owner: Tree, at: str) -> Tree:
    """Working hours, of a week that has gone by: what matters is how they repeat."""
    return {"start": "2026-01-05T08:00", "duration": "PT10H", "repeat": "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR"}


def _loopback(raw: Tree, owner: Tree, at: str) -> Tree:
    return {"name": _free(_names(owner, "loopbacks", "ports", "lags"), "lo"), "addresses": []}


def _bundle(raw: Tree, owner: Tree, at: str) -> Tree:
    return {"name": _free(_names(owner, "lags", "ports"), "bundle"), "protocol": "lacp-active"}


def _vrrp(raw: Tree, owner: Tree, at: str) -> Tree:
    own = next((ip_interface(a) for a in owner.get("addresses", []) if "." in a), None)
    place = next_address(raw, str(own.network)) if own is not None else None
    return {"id": len(owner.get("vrrp", [])) + 1, "addresses": [place.partition("/")[0]] if place else []}


def _filter_entry(raw: Tree, owner: Tree, at: str) -> Tree:
    return {"sources": ["any"], "destinations": ["any"], "services": ["any"], "action": "permit"}


def _uplink(owner: Tree) -> tuple[str, str]:
    """Return the interface by which a box is most likely spoken to from outside, and its address: where its default route leads, else the first."""
    held = [(p["name"], ip_interface(a)) for p in owner.get("ports", []) for a in p.get("addresses", [])]
    hops = [r.get("via") for v in owner.get("vrfs", []) for r in v.get("routes", []) if r.get("to") == "0.0.0.0/0"]
    near = [(n, a) for n, a in held for h in hops if h and ip_address(h) in a.network]
    return next(((n, str(a.ip)) for n, a in near or held), ("", ""))


def _zone_of_tunnels(owner: Tree) -> Tree:
    """Return the zone of the tunnels there are; else none: a person chooses."""
    zones = [t["zone"] for k in ("tunnels", "remote_access") for t in owner.get(k, []) if t.get("zone")]
    return {"zone": zones[0]} if zones else {}


def _tunnel(raw: Tree, owner: Tree, at: str) -> Tree:
    name = _free(_names(owner, "tunnels", "remote_access", "ports", "lags", "loopbacks"), "tunnel")
    said = {"name": name, "protocol": "ipsec", "local": _uplink(owner)[1], "peer": "any", "secret": "own"}
    return said | _zone_of_tunnels(owner)


def _remote_access(raw: Tree, owner: Tree, at: str) -> Tree:
    name = _free(_names(owner, "tunnels", "remote_access", "ports", "lags", "loopbacks"), "dial-in")
    said = {"name": name, "protocol": "ipsec", "interface": _uplink(owner)[0], "pool": "", "routes": "all"}
    return said | _zone_of_tunnels(owner)


def _offer(raw: Tree, owner: Tree, at: str) -> Tree:
    """Take what the site's tunnels speak; what lies behind it a person has to say."""
    spoken = [t.get("protocol", "ipsec") for d in raw.get("devices", []) for t in d.get("tunnels", [])]
    return {"name": _free(_names(owner, "offers"), "offer"), "protocol": next(iter(spoken), "ipsec"), "prefixes": []}


def _mac_vrf(raw: Tree, owner: Tree, at: str) -> Tree:
    """Name a tenant's VLANs as the box's other instances do; the source is its loopback."""
    known = [m for d in raw.get("devices", []) for m in d.get("mac_vrfs", [])]
    loopbacks = _names(owner, "loopbacks")
    source = next((m["source"] for m in owner.get("mac_vrfs", [])), next(iter(loopbacks), ""))
    target = f"65000:{10 * (len({m['name'] for m in known}) + 1)}"
    said = {"vlans": [], "import": [target], "export": [target], "source": source}
    return {"name": _free(_names(owner, "mac_vrfs"), "tenant"), **said}


def _stretched(raw: Tree, owner: Tree, at: str) -> Tree:
    """Stretch a VLAN of the box that is not yet; by the VNI that other boxes have for it, else a free one."""
    device = raw["devices"][int(at.split("/")[2])] if at.count("/") > 1 else {}
    held = {s["vlan"] for m in device.get("mac_vrfs", []) for s in m.get("vlans", [])}
    gateways = [i["vlan"] for i in device.get("vlan_interfaces", [])]
    known = [s for d in raw.get("devices", []) for m in d.get("mac_vrfs", []) for s in m.get("vlans", [])]
    vlan = next((v for v in (*gateways, *(x["id"] for x in raw.get("vlans", []))) if v not in held), 1)
    vni = next((s["vni"] for s in known if s["vlan"] == vlan), max((s["vni"] for s in known), default=10_000) + 1)
    return {"vlan": vlan, "vni": vni, **({"irb": vlan} if vlan in gateways else {})}


BRIDGING = ("switch", "router", "firewall")
KINDS: dict[str, Kind] = {
    "vlan": Kind("VLAN", "vlans", ("design",), _vlan, "Vlan"),
    "addresses": Kind("Address set", "addresses", ("design",), _named("set", "addresses", members=[]), "AddressSet"),
    "services": Kind("Service set", "services", ("design",), _named("set", "services", members=[]), "ServiceSet"),
    "expectation": Kind("Expectation", "expectations", ("design",), _expectation, "Expectation"),
    "port": Kind("Port", "ports", (*BRIDGING, "hub", "access-point", "endpoint", "outside"), _port, "Port"),
    "ssid": Kind("SSID", "ssids", ("access-point",), _ssid, "Ssid"),
    "bundle": Kind("Bundle", "lags", BRIDGING, _bundle, "Lag"),
    "subinterface": Kind("Subinterface", "subinterfaces", ("port",), _subinterface, "Subinterface"),
    "vlan-interface": Kind("VLAN interface", "vlan_interfaces", BRIDGING, _vlan_interface, "VlanInterface"),
    "loopback": Kind("Loopback", "loopbacks", BRIDGING, _loopback, "Loopback"),
    "vrrp": Kind("Redundant gateway", "vrrp", ("interface",), _vrrp, "RedundantGateway"),
    "vrf": Kind("VRF", "vrfs", BRIDGING, _named("vrf", "vrfs"), "Vrf"),
    "route": Kind("Route", "routes", ("vrf", "outside", *BRIDGING), _route, "Route"),
    "ospf": Kind("OSPF", "ospf", ("vrf",), _ospf, "Ospf", single=True),
    "ospf-interface": Kind("OSPF interface", "interfaces", ("ospf",), _ospf_interface, "OspfInterface"),
    "redistribute": Kind("Redistribution", "redistribute", ("ospf",), _redistribute, "Redistribute"),
    "stub-area": Kind("Stub area", "stub", ("ospf",), _stub_area, "StubArea"),
    "zone": Kind("Zone", "zones", ("firewall",), _named("zone", "zones", kind="routed"), "Zone"),
    "rule": Kind("Rule", "rules", ("firewall",), _rule, "Rule"),
    "when": Kind("Hours", "when", ("rule",), _schedule, "Schedule", single=True),
    "translation": Kind("Translation", "nat", BRIDGING, _translation, "Nat"),
    "filter": Kind(
        "Filter", "filters", BRIDGING, _named("filter", "filters", entries=[{"action": "permit"}]), "Filter"
    ),
    "filter-entry": Kind("Filter entry", "entries", ("filter",), _filter_entry, "FilterEntry"),
    "tunnel": Kind("Tunnel", "tunnels", BRIDGING, _tunnel, "Tunnel"),
    "remote-access": Kind("Remote access", "remote_access", BRIDGING, _remote_access, "RemoteAccess"),
    "offer": Kind("Tunnel it takes", "offers", ("outside",), _offer, "Offer"),
    "mac-vrf": Kind("MAC-VRF", "mac_vrfs", ("switch",), _mac_vrf, "MacVrf"),
    "stretched": Kind("VLAN on the overlay", "vlans", ("mac-vrf",), _stretched, "Stretched"),
    "answers": Kind("Answers", "answers", BRIDGING, _named("ping-only", "answers", services=["ping"]), "Answers"),
    "lease": Kind("DHCP", "dhcp", BRIDGING, _lease, "Dhcp"),
    "reservation": Kind("Reservation", "reservations", ("dhcp",), _reservation, "Reservation"),
    "inline-pair": Kind("Inline pair", "wires", ("firewall",), _wire, "Wire"),
    "unit": Kind("Unit", "units", ("firewall",), _unit, "Unit"),
    "failover": Kind("Failover pair", "failover", ("firewall",), _failover, "Failover", single=True),
}
