"""Data of the standards' modules (RFC 7951) as one box of a document."""

from __future__ import annotations

from dataclasses import dataclass, field
from ipaddress import IPv4Interface, IPv6Interface, ip_interface

from anabasis.design import Tree
from anabasis.design.base import Part
from anabasis.design.devices import (
    DEFAULT_MODE,
    AccessPoint,
    Endpoint,
    Firewall,
    Hub,
    Outside,
    Router,
    Switch,
)
from anabasis.interchange.yang.filters import attached, read_acls
from anabasis.interchange.yang.names import (
    ACCEPT,
    BRIDGE_PORT,
    BRIDGES,
    DOT1Q,
    ENCAPSULATION,
    INSTANCES,
    INTERFACE,
    INTERFACES,
    IPV4,
    IPV6,
    MAIN,
    OF_INSTANCE,
    OSPF,
    PARENT,
    ROUTING,
    TYPES,
    UNICAST,
    VRF_ROOT,
    VRRP,
)
from anabasis.interchange.yang.translation import read_nat
from anabasis.interchange.yang.walking import at, flag, items, number, spans, text, values

MODELS: dict[str, type[Part]] = {
    "switch": Switch,
    "router": Router,
    "firewall": Firewall,
    "hub": Hub,
    "access-point": AccessPoint,
    "endpoint": Endpoint,
    "outside": Outside,
}
HIGHEST = 4094
"""The last VLAN (IEEE 802.1Q-2022 table 9-2)."""
HOW = {"tagged": "tagged", "untagged": "untagged"}
KIND_OF = {leaf.partition(":")[2]: kind for kind, leaf in TYPES.items()}
ACCEPTED = {leaf: word for word, leaf in ACCEPT.items()}
Members = dict[str, dict[str, list[int]]]
"""Port -> tagged, untagged -> VLANs."""


@dataclass
class Known:
    """What the data of one box say."""

    device: Tree
    """As the document has it; without a name."""
    vlans: dict[int, str] = field(default_factory=dict)
    """VLAN -> name, empty where it has none."""
    down: set[str] = field(default_factory=set)
    """Interfaces that are meant to be up, and are not (RFC 8343, oper-status)."""
    lost: list[str] = field(default_factory=list)
    """Interfaces, and lists, that the document has no place for in such a box."""


def read_device(data: Tree, kind: str | None = None) -> Known:
    """Return what the standards' modules say of a box. `kind`: what it is, where our own module says so; else it is guessed."""
    known, told_kind = Known({}), kind is not None
    listed = items(data, INTERFACES, INTERFACE)
    device = known.device
    device["kind"] = kind = kind or _guess(data, listed)
    if kind == "switch" and not told_kind and _forwards(listed):
        device["routing"] = True
    members = _members(data, known, device)
    placed = attached(data)
    bundles = {text(i, "name"): values(i, "lower-layer-if") for i in listed if _type(i) == "lag"}
    lags = {member: lag for lag, held in bundles.items() for member in held}
    for interface in listed:
        name = text(interface, "name")
        settings = _layer3(interface) | placed.get(name, {})
        if text(interface, "oper-status") in ("down", "lower-layer-down") and flag(interface, "enabled") is not False:
            known.down.add(name)
        match _type(interface):
            case "port" | "lag" as what:
                for over in values(interface, "higher-layer-if"):
                    lags |= {name: over} if over in bundles else {}
                line = {"name": name} | _line(interface, members.get(name, {}), kind, lags.get(name)) | settings
                device.setdefault("ports" if what == "port" else "lags", []).append(line)
            case "subinterface" | "vlan_interface":
                _tagged(device, interface, settings, known)
            case "loopback":
                device.setdefault("loopbacks", []).append({"name": name, **settings})
            case "tunnel":
                pass  # what it is made of, our own module says
            case _:
                known.lost.append(name)
    _tables(device, data)
    acls = read_acls(data)
    if acls:
        device["filters"] = acls
    nat, other = read_nat(data)
    known.lost += other
    if nat:
        device["nat"] = nat
    if kind == "endpoint":
        _as_host(device)
    allowed = MODELS[kind].model_fields
    known.lost += [key for key in device if key not in allowed and device[key]]
    known.device = {key: value for key, value in device.items() if key in allowed}
    return known


def _type(interface: Tree) -> str | None:
    return KIND_OF.get(text(interface, "type").rpartition(":")[2])


def _guess(data: Tree, interfaces: list[Tree]) -> str:
    """Return what a box most likely is: who bridges is a switch, who forwards packets a router, and who does neither a host."""
    if at(data, BRIDGES) is not None:
        return "switch"
    return "router" if _forwards(interfaces) else "endpoint"


def _forwards(interfaces: list[Tree]) -> bool:
    return any(flag(i, m, "forwarding") for i in interfaces for m in (IPV4, IPV6))


def _members(data: Tree, known: Known, device: Tree) -> Members:
    """Read the bridge: its VLANs, and which ports are in the member and untagged sets of each (IEEE 802.1Q clause 8.8.10)."""
    out: Members = {}
    for component in (c for b in items(data, BRIDGES, "bridge") for c in items(b, "component")):
        for vlan in items(component, "bridge-vlan", "vlan"):
            vid = number(vlan, "vid")
            if vid is not None and 0 < vid <= HIGHEST:
                known.vlans[vid] = text(vlan, "name")
                device.setdefault("vlans", []).append(vid)
        device.setdefault("vlans", [])
        for entry in items(component, "filtering-database", "vlan-registration-entry"):
            for port in items(entry, "port-map"):
                how = HOW.get(text(port, "static-vlan-registration-entries", "vlan-transmitted"))
                if how is not None:
                    held = out.setdefault(text(port, "port-ref"), {}).setdefault(how, [])
                    held += [v for v in spans(text(entry, "vids")) if v not in held and 0 < v <= HIGHEST]
    return out


def _line(interface: Tree, members: dict[str, list[int]], kind: str, lag: str | None) -> Tree:
    """Return the layer-2 side of a port or a bundle."""
    bridge = at(interface, BRIDGE_PORT)
    out: Tree = {}
    routed = any(at(interface, m, "address") for m in (IPV4, IPV6))
    mode = "lag" if lag else "bridged" if isinstance(bridge, dict) else "routed" if routed else "off"
    if mode == "off" and DEFAULT_MODE[kind] != "bridged":
        mode = DEFAULT_MODE[kind]
    if mode != DEFAULT_MODE[kind]:
        out["mode"] = mode
    out |= {"lag": lag} if lag else {}
    if isinstance(bridge, dict):
        pvid = number(bridge, "pvid")
        out |= {"pvid": pvid} if pvid is not None else {}
        out |= {how: vlans for how, vlans in members.items() if vlans}
        accept = ACCEPTED.get(text(bridge, "acceptable-frame"))
        out |= {"accept": accept} if accept else {}
        checks = flag(bridge, "enable-ingress-filtering")
        out |= {"ingress_check": checks} if checks is not None else {}
        pairs = [(text(t, "local-vid"), number(t, "relay-vid")) for t in items(bridge, "vid-translations")]
        out |= {"translate": dict(pairs)} if pairs else {}
    return out


def _layer3(interface: Tree) -> Tree:
    """Return what any interface may say: its note, whether it is switched on, addresses, VRF, redundant gateways."""
    out: Tree = {}
    out |= {"note": text(interface, "description")} if text(interface, "description") else {}
    out |= {"enabled": False} if flag(interface, "enabled") is False else {}
    addresses = [a for member in (IPV4, IPV6) for e in items(interface, member, "address") if (a := _address(e))]
    given = [str(a) for a in addresses if not (a.ip.is_link_local or a.ip.is_loopback)]
    out |= {"addresses": given} if given else {}
    vrf = text(interface, OF_INSTANCE)
    out |= {"vrf": vrf} if vrf else {}
    gateways: dict[int, Tree] = {}
    for version, member in ((4, IPV4), (6, IPV6)):
        for said in items(interface, member, VRRP, "vrrp-instance"):
            name, vrid = f"virtual-ipv{version}-address", number(said, "vrid") or 0
            one = gateways.setdefault(vrid, {"id": vrid, "addresses": []})
            one["addresses"] += [text(a, f"ipv{version}-address") for a in items(said, f"{name}es", name)]
            priority, accepts = number(said, "priority"), flag(said, "accept-mode")
            one |= {"priority": priority} if priority is not None else {}
            one |= {"accept_mode": accepts} if accepts is not None else {}
    return out | ({"vrrp": list(gateways.values())} if gateways else {})


def _address(entry: Tree) -> IPv4Interface | IPv6Interface | None:
    length = text(entry, "prefix-length") or text(entry, "netmask")
    try:
        return ip_interface(f"{text(entry, 'ip')}/{length}" if length else text(entry, "ip"))
    except ValueError:
        return None


def _tagged(device: Tree, interface: Tree, settings: Tree, known: Known) -> None:
    """Have an interface of one tag: of a port, or of the bridge."""
    name, parent = text(interface, "name"), text(interface, PARENT)
    tag = number(interface, ENCAPSULATION, DOT1Q, "outer-tag", "vlan-id")
    if tag is None:
        digits = name[len(name.rstrip("0123456789")) :]
        tag = int(digits) if digits and len(digits) < 5 and 0 < int(digits) <= 4094 else None
    lines = [line for key in ("ports", "lags") for line in device.get(key, []) if line["name"] == parent]
    if tag is None:
        known.lost.append(name)
    elif lines:
        lines[0].setdefault("subinterfaces", []).append({"tag": tag, **settings})
        if lines[0].get("mode") == "off":
            lines[0]["mode"] = "routed"
    else:
        device.setdefault("vlan_interfaces", []).append({"vlan": tag, **settings})


def _tables(device: Tree, data: Tree) -> None:
    """Have the VRFs with their static routes and OSPF."""
    instances = [(text(i, "name"), at(i, VRF_ROOT, ROUTING)) for i in items(data, INSTANCES, "network-instance")]
    for name, routing in [(MAIN, at(data, ROUTING)), *instances]:
        vrf: Tree = {"name": name}
        for protocol in items(routing, "control-plane-protocols", "control-plane-protocol"):
            for version in (4, 6):
                for entry in items(protocol, "static-routes", UNICAST[version], "route"):
                    vrf.setdefault("routes", []).extend(_routes(entry))
            if isinstance(protocol.get(OSPF), dict):
                vrf["ospf"] = _ospf(protocol[OSPF])
        if name != MAIN or len(vrf) > 1:
            device.setdefault("vrfs", []).append(vrf)


def _routes(entry: Tree) -> list[Tree]:
    to, hop = text(entry, "destination-prefix"), entry.get("next-hop", {})
    note = {"note": text(entry, "description")} if text(entry, "description") else {}
    if text(hop, "special-next-hop"):
        return [{"to": to, "discard": True, **note}]
    out: list[Tree] = []
    for one in items(hop, "next-hop-list", "next-hop") or [hop]:
        address = text(one, "next-hop-address") or next(
            (text(one, k) for k in one if k.endswith(":next-hop-address")), ""
        )
        via = {"via": address} if address else {}
        out.append({"to": to, **via, **({"interface": i} if (i := text(one, "outgoing-interface")) else {}), **note})
    return out


def _ospf(data: Tree) -> Tree:
    out: Tree = {"router_id": text(data, "explicit-router-id")} if text(data, "explicit-router-id") else {}
    for area in items(data, "areas", "area"):
        number_of = plain_area(text(area, "area-id"))
        if text(area, "area-type").endswith("stub-area"):
            cost = number(area, "default-cost")
            stub = {"area": number_of} | ({"default_cost": cost} if cost is not None else {})
            out.setdefault("stub", []).append(stub)
        for said in items(area, "interfaces", "interface"):
            one: Tree = {"interface": text(said, "name")} | ({"area": number_of} if number_of != "0" else {})
            one |= {"network": text(said, "interface-type")} if text(said, "interface-type") else {}
            one |= {"passive": flag(said, "passive")} if flag(said, "passive") is not None else {}
            for key, leaf in (("cost", "cost"), ("hello_s", "hello-interval"), ("dead_s", "dead-interval")):
                one |= {key: number(said, leaf)} if number(said, leaf) is not None else {}
            one |= {"priority": number(said, "priority")} if number(said, "priority") is not None else {}
            out.setdefault("interfaces", []).append(one)
    return out


def plain_area(dotted: str) -> str:
    """Write an area as a number where it is a small one, as people do."""
    parts = dotted.split(".")
    small = len(parts) == 4 and all(p.isdigit() for p in parts) and parts[:3] == ["0", "0", "0"]
    return parts[3] if small else dotted


def _as_host(device: Tree) -> None:
    """Have the addresses and the gateway of a host, which the document keeps beside its ports."""
    ports = device.get("ports", [])
    addresses = [a for p in ports for a in p.pop("addresses", [])]
    routes = [r for v in device.pop("vrfs", []) for r in v.get("routes", [])]
    hops = [r["via"] for r in routes if r["to"] in ("0.0.0.0/0", "::/0") and r.get("via")]
    device |= {"addresses": addresses} if addresses else {}
    device |= {"gateway": hops[0] if len(hops) == 1 else hops} if hops else {}
    if len(ports) == 1 and ports[0] == {"name": "1"}:
        del device["ports"]
