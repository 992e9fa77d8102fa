"""One box of a document as configuration data of the standards' modules (RFC 7951)."""

from __future__ import annotations

from ipaddress import ip_interface, ip_network
from typing import Any

from anabasis.design import Tree
from anabasis.design.devices import DEFAULT_MODE
from anabasis.design.notation import looks_like_address
from anabasis.interchange.yang.filters import write_acls
from anabasis.interchange.yang.names import (
    ACCEPT,
    ACLS,
    BRIDGE,
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
    NAT,
    OF_INSTANCE,
    OSPF,
    OSPF_V2,
    PARENT,
    ROUTING,
    STATIC,
    TYPES,
    UNICAST,
    VRF_ROOT,
    VRRP,
)
from anabasis.interchange.yang.translation import write_nat
from anabasis.policy import Terms

ADDRESSED = ("name", "note", "enabled", "addresses", "vrf", "vrrp", "filter_in", "filter_out")
"""What an interface of any kind may say that the standards' modules can."""


def write_device(device: Tree, plan: list[Tree], terms: Terms) -> Tree:
    """Return what the standards' modules can say of a box. `plan`: the VLANs of the document."""
    interfaces, layer3 = _interfaces(device)
    out: Tree = {INTERFACES: {INTERFACE: interfaces}} if interfaces else {}
    bridge = _bridge(device, plan)
    if bridge is not None:
        out[BRIDGES] = {"bridge": [bridge]}
    main = _routing(device, _vrf(device, MAIN))
    if main:
        out[ROUTING] = main
    others = [
        {"name": v["name"], VRF_ROOT: {ROUTING: _routing(device, v)} if _routing(device, v) else {}}
        for v in device.get("vrfs", [])
        if v["name"] != MAIN
    ]
    if others:
        out[INSTANCES] = {"network-instance": others}
    acls = write_acls(device, layer3, terms)
    if acls is not None:
        out[ACLS] = acls
    nat = write_nat(device, layer3, terms)
    if nat is not None:
        out[NAT] = nat
    return out


def mode_of(device: Tree, line: Tree) -> str:
    """Return what a port or a bundle is for."""
    return str(line.get("mode") or DEFAULT_MODE[device["kind"]])


def zones_of(device: Tree) -> dict[str, str]:
    """Return interface -> zone, of those that are in one."""
    return {name: settings["zone"] for name, settings in _interfaces(device)[1] if settings.get("zone")}


def _vrf(device: Tree, name: str) -> Tree:
    return next((v for v in device.get("vrfs", []) if v["name"] == name), {"name": name})


def _interfaces(device: Tree) -> tuple[list[Tree], list[tuple[str, Tree]]]:
    """Return the interfaces, and the names and settings of those that packets are filtered at."""
    out: list[Tree] = []
    layer3: list[tuple[str, Tree]] = []
    routes = device["kind"] in ("router", "firewall") or bool(device.get("routing"))

    def add(name: str, kind: str, settings: Tree, **more: Any) -> None:
        said: Tree = {"name": name, "type": TYPES[kind]}
        said |= {"description": settings["note"]} if settings.get("note") else {}
        said |= {"enabled": False} if settings.get("enabled") is False else {}
        said |= {k: v for k, v in more.items() if v is not None}
        if settings.get("vrf") not in (None, MAIN):
            said[OF_INSTANCE] = settings["vrf"]
        said |= _addresses(settings, routes)
        out.append(said)
        layer3.append((name, settings))

    for kind, key in (("port", "ports"), ("lag", "lags")):
        for line in device.get(key, []):
            bridged = mode_of(device, line) == "bridged"
            stack: Tree = {"higher-layer-if": [line["lag"]]} if line.get("lag") and kind == "port" else {}
            if kind == "lag":
                members = [p["name"] for p in device.get("ports", []) if p.get("lag") == line["name"]]
                stack = {"lower-layer-if": members} if members else {}
            add(line["name"], kind, line, **({BRIDGE_PORT: _bridge_port(line)} if bridged else {}), **stack)
            for sub in line.get("subinterfaces", []):
                tag: Tree = {"tag-type": "ieee802-dot1q-types:c-vlan", "vlan-id": sub["tag"]}
                where = {PARENT: line["name"], ENCAPSULATION: {DOT1Q: {"outer-tag": tag}}}
                add(f"{line['name']}.{sub['tag']}", "subinterface", sub, **where)
    for interface in device.get("vlan_interfaces", []):
        tag = {"tag-type": "ieee802-dot1q-types:c-vlan", "vlan-id": interface["vlan"]}
        where = {PARENT: BRIDGE, ENCAPSULATION: {DOT1Q: {"outer-tag": tag}}}
        add(f"vlan{interface['vlan']}", "vlan_interface", interface, **where)
    for kind, key in (("loopback", "loopbacks"), ("tunnel", "tunnels")):
        for interface in device.get(key, []):
            add(interface["name"], kind, {k: v for k, v in interface.items() if k in ADDRESSED})
    if device["kind"] == "endpoint" and not device.get("ports"):
        add("1", "port", {"addresses": device.get("addresses", [])})
    return out, layer3


def _addresses(settings: Tree, forwarding: bool) -> Tree:
    out: Tree = {}
    for text in settings.get("addresses", []):
        address = ip_interface(text)
        member = IPV4 if address.version == 4 else IPV6
        held = out.setdefault(member, {"forwarding": True} if forwarding else {})
        held.setdefault("address", []).append({"ip": str(address.ip), "prefix-length": address.network.prefixlen})
    for gateway in settings.get("vrrp", []):
        for version, member in ((4, IPV4), (6, IPV6)):
            mine = [a for a in gateway["addresses"] if ip_interface(a).version == version]
            if mine and member in out:
                said: Tree = {"vrid": gateway["id"], "version": "ietf-vrrp:vrrp-v3"}
                said |= {"priority": gateway["priority"]} if "priority" in gateway else {}
                said |= {"accept-mode": gateway["accept_mode"]} if "accept_mode" in gateway else {}
                name = f"virtual-ipv{version}-address"
                said[f"{name}es"] = {name: [{f"ipv{version}-address": a} for a in mine]}
                out[member].setdefault(VRRP, {}).setdefault("vrrp-instance", []).append(said)
    return out


def _bridge_port(line: Tree) -> Tree:
    out: Tree = {"bridge-name": BRIDGE, "component-name": BRIDGE}
    out |= {"pvid": line["pvid"]} if line.get("pvid") is not None else {}
    out |= {"acceptable-frame": ACCEPT[line["accept"]]} if line.get("accept") else {}
    out |= {"enable-ingress-filtering": line["ingress_check"]} if "ingress_check" in line else {}
    if line.get("translate"):
        pairs = [{"local-vid": int(a), "relay-vid": int(b)} for a, b in line["translate"].items()]
        out |= {"enable-vid-translation-table": True, "vid-translations": pairs}
    return out


def _bridge(device: Tree, plan: list[Tree]) -> Tree | None:
    lines = [line for key in ("ports", "lags") for line in device.get(key, []) if mode_of(device, line) == "bridged"]
    if not lines or device["kind"] in ("hub", "endpoint", "outside"):
        return None
    names = {v["id"]: v["name"] for v in plan}
    table = device.get("vlans")
    held = list(names) if table is None else table
    members: dict[int, list[Tree]] = {}
    for line in lines:
        for how in ("untagged", "tagged"):
            for vlan in line.get(how, []):
                said = {"registrar-admin-control": "fixed-new-ignored", "vlan-transmitted": how}
                entry = {"port-ref": line["name"], "static-vlan-registration-entries": said}
                members.setdefault(vlan, []).append(entry)
    entries = [
        {"database-id": 0, "vids": str(vlan), "entry-type": "static", "port-map": ports}
        for vlan, ports in sorted(members.items())
    ]
    component: Tree = {"name": BRIDGE, "type": "ieee802-dot1q-bridge:c-vlan-component"}
    component["bridge-vlan"] = {"vlan": [{"vid": v, **({"name": names[v]} if v in names else {})} for v in held]}
    if entries:
        component["filtering-database"] = {"vlan-registration-entry": entries}
    kind = "ieee802-dot1q-bridge:customer-vlan-bridge"
    return {"name": BRIDGE, "bridge-type": kind, "component": [component]}


def _routing(device: Tree, vrf: Tree) -> Tree:
    """Return the static routes and OSPF of one VRF (RFC 8349, RFC 9129)."""
    protocols: list[Tree] = []
    routes = [r for r in vrf.get("routes", []) if plain(r)]
    if device["kind"] == "endpoint" and isinstance(device.get("gateway"), str | list) and vrf["name"] == MAIN:
        given = device["gateway"]
        hops = [g for g in (given if isinstance(given, list) else [given]) if g != "none"]
        routes = [{"to": "0.0.0.0/0" if ip_interface(g).version == 4 else "::/0", "via": g} for g in hops]
    if routes:
        static: Tree = {}
        for version in (4, 6):
            to = list(dict.fromkeys(r["to"] for r in routes if ip_network(r["to"]).version == version))
            if to:
                written = [_route([r for r in routes if r["to"] == prefix]) for prefix in to]
                static[UNICAST[version]] = {"route": written}
        protocols.append({"type": STATIC, "name": "static", "static-routes": static})
    if vrf.get("ospf") is not None:
        protocols.append({"type": OSPF_V2, "name": "ospf", OSPF: _ospf(vrf["ospf"])})
    return {"control-plane-protocols": {"control-plane-protocol": protocols}} if protocols else {}


def plain(route: Tree) -> bool:
    """Tell whether the standards' static routes can say a route: of one prefix, in force, by its destination alone."""
    tried_first = any(route.get(k) for k in ("sources", "services", "entered"))
    odd = any(route.get(k) for k in ("vrf", "learned", "preference"))
    return looks_like_address(route["to"]) and not tried_first and not odd and route.get("enabled", True) is not False


def _route(same: list[Tree]) -> Tree:
    hops: list[Tree] = []
    for route in same:
        hop: Tree = {"outgoing-interface": route["interface"]} if route.get("interface") else {}
        hops.append(hop | ({"next-hop-address": route["via"]} if route.get("via") else {}))
    out: Tree = {"destination-prefix": same[0]["to"]}
    out |= {"description": same[0]["note"]} if same[0].get("note") else {}
    if same[0].get("discard"):
        return out | {"next-hop": {"special-next-hop": "blackhole"}}
    if len(hops) == 1:
        return out | {"next-hop": hops[0]}
    listed = [{"index": str(k), **hop} for k, hop in enumerate(hops, 1)]
    return out | {"next-hop": {"next-hop-list": {"next-hop": listed}}}


def _ospf(said: Tree) -> Tree:
    areas: dict[str, list[Tree]] = {}
    for interface in said.get("interfaces", []):
        areas.setdefault(dotted(interface.get("area", "0")), []).append(_ospf_interface(interface))
    stubs = {dotted(s["area"]): s for s in said.get("stub", [])}
    out: Tree = {"explicit-router-id": said["router_id"]} if said.get("router_id") else {}
    listed: list[Tree] = []
    for area in [*areas, *(a for a in stubs if a not in areas)]:
        one: Tree = {"area-id": area}
        if area in stubs:
            one |= {"area-type": "ietf-ospf:stub-area"}
            one |= {"default-cost": stubs[area]["default_cost"]} if "default_cost" in stubs[area] else {}
        if area in areas:
            one["interfaces"] = {"interface": areas[area]}
        listed.append(one)
    return out | ({"areas": {"area": listed}} if listed else {})


def _ospf_interface(said: Tree) -> Tree:
    pairs = (("cost", "cost"), ("passive", "passive"), ("hello_s", "hello-interval"), ("dead_s", "dead-interval"))
    out: Tree = {"name": said["interface"]}
    out |= {"interface-type": said["network"]} if "network" in said else {}
    return out | {leaf: said[key] for key, leaf in (*pairs, ("priority", "priority")) if key in said}


def dotted(area: str) -> str:
    """Write an area as four numbers with dots, as RFC 9129 has it."""
    return area if "." in area else ".".join(str(int(area) >> shift & 255) for shift in (24, 16, 8, 0))
