"""What a box says by SNMP, as data of YANG modules, there and back: one reading for both protocols.

Objects: IF-MIB (RFC 2863), BRIDGE-MIB (RFC 4188), Q-BRIDGE-MIB (RFC 4363), IP-MIB (RFC 4293, and the older ipAddrTable), IP-FORWARD-MIB (RFC 4292),
LLDP-MIB (IEEE 802.1AB annex), IEEE8023-LAG-MIB (IEEE 802.1AX annex), SNMPv2-MIB (RFC 3418). An object is its number, from 1 on; a value is a
number, octets, or the number of another object.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from ipaddress import IPv4Address, IPv6Address, ip_network

from anabasis.design import Tree
from anabasis.interchange.yang.names import (
    ACCEPT,
    BRIDGE,
    BRIDGE_PORT,
    BRIDGES,
    INTERFACE,
    INTERFACES,
    IPV4,
    IPV6,
    LLDP,
    PARENT,
    ROUTING,
    STATIC,
    TYPES,
    UNICAST,
)
from anabasis.interchange.yang.walking import at, flag, items, number, spans, text, values

Oid = tuple[int, ...]
Value = int | bytes | Oid
Objects = dict[Oid, Value]

MIB2: Oid = (1, 3, 6, 1, 2, 1)
SYSTEM_NAME: Oid = (*MIB2, 1, 5, 0)
IF_TABLE, IF_X_TABLE, IF_STACK = (*MIB2, 2, 2, 1), (*MIB2, 31, 1, 1, 1), (*MIB2, 31, 1, 2, 1, 3)
IP_ADDRESS, OLD_ADDRESS = (*MIB2, 4, 34, 1), (*MIB2, 4, 20, 1)
IP_FORWARDING: Oid = (*MIB2, 4, 1, 0)
ROUTES: Oid = (*MIB2, 4, 24, 7, 1)
BASE_PORT: Oid = (*MIB2, 17, 1, 4, 1, 2)
VLAN_STATIC, PORT_VLAN, LEARNED = (*MIB2, 17, 7, 1, 4, 3, 1), (*MIB2, 17, 7, 1, 4, 5, 1), (*MIB2, 17, 7, 1, 2, 2, 1)
LLDP_MIB: Oid = (1, 0, 8802, 1, 1, 2, 1)
LOCAL_PORT, REMOTE = (*LLDP_MIB, 3, 7, 1), (*LLDP_MIB, 4, 1, 1)
LAG_PORT: Oid = (1, 2, 840, 10006, 300, 43, 1, 2, 1, 1)
WALKED: tuple[Oid, ...] = (
    (*MIB2, 1), IF_TABLE, (*MIB2, 31, 1), IP_FORWARDING[:-1], IP_ADDRESS, OLD_ADDRESS, ROUTES, BASE_PORT, VLAN_STATIC, PORT_VLAN, LOCAL_PORT, REMOTE, LAG_PORT,
)  # fmt: skip
"""The subtrees a survey asks for."""
IF_TYPES = {6: "port", 161: "lag", 135: "subinterface", 136: "vlan_interface", 24: "loopback", 131: "tunnel"}
"""ifType (the numbers of RFC 7224's identities)."""
FRAMES = {1: "all", 2: "tagged"}
"""dot1qPortAcceptableFrameTypes: an access port's own kind has no number there."""
CAPABLE = ((2, "bridge"), (3, "wlan-access-point"), (4, "router"), (7, "station-only"))
"""Bits of LldpSystemCapabilitiesMap, from the first on."""
UNICAST_ADDRESS = 1
UP, DOWN, STATIC_ROUTE, LOCAL_ROUTE, OTHER_ROUTE = 1, 2, 3, 2, 1
TRUE, FALSE = 1, 2


def to_objects(data: Tree) -> Objects:
    """Return what an agent of a box answers."""
    out: Objects = {(*MIB2, 1, 1, 0): b"stand-in", SYSTEM_NAME: text(data, "ietf-system:system", "hostname").encode()}
    interfaces = items(data, INTERFACES, INTERFACE)
    index = {i["name"]: number(i, "if-index") or k for k, i in enumerate(interfaces, 1)}
    numbers = {leaf: n for n, kind in IF_TYPES.items() for k, leaf in TYPES.items() if k == kind}
    out[*MIB2, 2, 1, 0] = len(interfaces)
    out[IP_FORWARDING] = 1 if any(flag(i, m, "forwarding") for i in interfaces for m in (IPV4, IPV6)) else 2
    ports: dict[str, int] = {}
    for interface in interfaces:
        name, k = interface["name"], index[interface["name"]]
        out[*IF_TABLE, 1, k] = k
        out[*IF_TABLE, 2, k] = name.encode()
        out[*IF_TABLE, 3, k] = numbers.get(interface["type"], 1)
        out[*IF_TABLE, 7, k] = DOWN if interface.get("enabled") is False else UP
        out[*IF_TABLE, 8, k] = UP if interface.get("oper-status", "up") == "up" else DOWN
        out[*IF_X_TABLE, 1, k] = name.encode()
        out[*IF_X_TABLE, 18, k] = text(interface, "description").encode()[:64]
        if text(interface, PARENT) in index:
            out[*IF_STACK, k, index[text(interface, PARENT)]] = 1
        for over in values(interface, "higher-layer-if"):
            if over in index:
                out[*LAG_PORT, 12, k] = out[*LAG_PORT, 13, k] = index[over]
                out[*IF_STACK, index[over], k] = 1
        _addresses(out, interface, k)
        if isinstance(interface.get(BRIDGE_PORT), dict):
            ports[name] = len(ports) + 1
            _bridge_port(out, interface[BRIDGE_PORT], ports[name], k)
    _vlans(out, data, ports)
    _routes(out, data, index)
    _neighbours(out, data, index)
    return out


def _addresses(out: Objects, interface: Tree, k: int) -> None:
    for version, member in ((4, IPV4), (6, IPV6)):
        for address in items(interface, member, "address"):
            packed = (IPv4Address if version == 4 else IPv6Address)(address["ip"]).packed
            net = ip_network(f"{address['ip']}/{address['prefix-length']}", strict=False).network_address.packed
            where = (1 if version == 4 else 2, len(packed), *packed)
            prefix = (*MIB2, 4, 32, 1, 5, k, where[0], len(net), *net, address["prefix-length"])
            out[*IP_ADDRESS, 3, *where] = k
            out[*IP_ADDRESS, 4, *where] = 1
            out[*IP_ADDRESS, 5, *where] = prefix


def _bridge_port(out: Objects, said: Tree, port: int, k: int) -> None:
    out[*BASE_PORT, port] = k
    out[*PORT_VLAN, 1, port] = said.get("pvid", 0)
    out[*PORT_VLAN, 2, port] = 2 if said.get("acceptable-frame") == ACCEPT["tagged"] else 1
    out[*PORT_VLAN, 3, port] = FALSE if said.get("enable-ingress-filtering") is False else TRUE


def _vlans(out: Objects, data: Tree, ports: dict[str, int]) -> None:
    octets = max(1, -(-max(ports.values(), default=0) // 8))
    for component in (c for b in items(data, BRIDGES, "bridge") for c in items(b, "component")):
        sets: dict[int, dict[str, bytearray]] = defaultdict(
            lambda: {"tagged": bytearray(octets), "untagged": bytearray(octets)}
        )
        for entry in items(component, "filtering-database", "vlan-registration-entry"):
            for vid in spans(text(entry, "vids")):
                for port in items(entry, "port-map"):
                    how = text(port, "static-vlan-registration-entries", "vlan-transmitted")
                    n = ports[text(port, "port-ref")] - 1
                    sets[vid][how][n // 8] |= 0x80 >> n % 8
        names = {number(v, "vid") or 0: text(v, "name") for v in items(component, "bridge-vlan", "vlan")}
        for vid in dict.fromkeys((*names, *sets)):
            both = bytes(a | b for a, b in zip(sets[vid]["tagged"], sets[vid]["untagged"], strict=True))
            out[*VLAN_STATIC, 1, vid] = names.get(vid, "").encode()[:32]
            out[*VLAN_STATIC, 2, vid] = both
            out[*VLAN_STATIC, 4, vid] = bytes(sets[vid]["untagged"])
            out[*VLAN_STATIC, 5, vid] = 1 if vid in names else 3
        for entry in items(component, "filtering-database", "filtering-entry"):
            mac = bytes.fromhex(text(entry, "address").replace("-", ""))
            for port in items(entry, "port-map"):
                where = (number(entry, "vids") or 0, *mac)
                out[*LEARNED, 2, *where] = ports.get(text(port, "port-ref"), 0)
                out[*LEARNED, 3, *where] = 3


def _routes(out: Objects, data: Tree, index: dict[str, int]) -> None:
    for rib in items(data, ROUTING, "ribs", "rib"):
        version = 4 if text(rib, "address-family").endswith("ipv4") else 6
        module = UNICAST[version].partition(":")[0]
        for route in items(rib, "routes", "route"):
            net = ip_network(text(route, f"{module}:destination-prefix"))
            via = text(route, "next-hop", f"{module}:next-hop-address")
            packed = net.network_address.packed
            hop = (IPv4Address if version == 4 else IPv6Address)(via).packed if via else b""
            kind = 1 if version == 4 else 2
            key = (kind, len(packed), *packed, net.prefixlen, 2, 0, 0, kind if via else 0, len(hop), *hop)
            origin = text(route, "source-protocol")
            out[*ROUTES, 7, *key] = index.get(text(route, "next-hop", "outgoing-interface"), 0)
            out[*ROUTES, 8, *key] = 5 if text(route, "next-hop", "special-next-hop") else 4 if via else 3
            out[*ROUTES, 9, *key] = (
                STATIC_ROUTE if origin == STATIC else LOCAL_ROUTE if origin.endswith("direct") else 13
            )


def _neighbours(out: Objects, data: Tree, index: dict[str, int]) -> None:
    for port in items(data, LLDP, "port"):
        k = index.get(text(port, "name"), 0)
        out[*LOCAL_PORT, 2, k], out[*LOCAL_PORT, 3, k] = 5, text(port, "name").encode()
        for far in items(port, "remote-systems-data"):
            key = (0, k, number(far, "remote-index") or 1)
            words = set(text(far, "system-capabilities-enabled").split())
            bits = sum(0x8000 >> bit for bit, word in CAPABLE if word in words)
            said = (
                (4, 7), (5, text(far, "chassis-id").encode()), (6, 5), (7, text(far, "port-id").encode()),
                (9, text(far, "system-name").encode()), (11, bits.to_bytes(2, "big")), (12, bits.to_bytes(2, "big")),
            )  # fmt: skip
            out |= {(*REMOTE, column, *key): value for column, value in said}


def from_objects(objects: Objects) -> Tree:
    """Return what a box said by SNMP as data of the modules; those it did not answer for are not there."""
    out: Tree = {}
    name = _text(objects.get(SYSTEM_NAME))
    if name:
        out["ietf-system:system"] = {"hostname": name}
    names = {k: _text(v) for k, v in _column(objects, IF_X_TABLE, 1)} or {
        k: _text(v) for k, v in _column(objects, IF_TABLE, 2)
    }
    if not names:
        return out
    forwards = objects.get(IP_FORWARDING) == 1
    interfaces = {k: _interface(objects, k, called) for k, called in names.items()}
    out[INTERFACES] = {INTERFACE: list(interfaces.values())}
    for (higher, lower), status in _rows(objects, IF_STACK):
        if status == 1 and higher in names and lower in names and interfaces[higher]["type"] == TYPES["subinterface"]:
            interfaces[higher][PARENT] = names[lower]
    for k, lag in _column(objects, LAG_PORT, 13):
        if isinstance(lag, int) and lag in names and k in names and lag != k:
            interfaces[k]["higher-layer-if"] = [names[lag]]
            interfaces[lag].setdefault("lower-layer-if", []).append(names[k])
    for k, member, address, length in _addresses_of(objects):
        if k in interfaces:
            held = interfaces[k].setdefault(member, {"forwarding": True} if forwards else {})
            held.setdefault("address", []).append({"ip": address, "prefix-length": length})
    bridge = _bridge_of(objects, names, interfaces)
    if bridge is not None:
        out[BRIDGES] = bridge
    routes = _routes_of(objects, names)
    if routes is not None:
        out[ROUTING] = routes
    near = list(_near(objects, names))
    if near or any(oid[: len(LOCAL_PORT)] == LOCAL_PORT for oid in objects):
        out[LLDP] = {"port": near}
    return out


def _interface(objects: Objects, k: int, name: str) -> Tree:
    kind = objects.get((*IF_TABLE, 3, k))
    out: Tree = {
        "name": name,
        "type": TYPES.get(IF_TYPES.get(kind if isinstance(kind, int) else 0, ""), "iana-if-type:other"),
        "if-index": k,
    }
    note = _text(objects.get((*IF_X_TABLE, 18, k)))
    out |= {"description": note} if note else {}
    out |= {"enabled": False} if objects.get((*IF_TABLE, 7, k)) == DOWN else {}
    status = objects.get((*IF_TABLE, 8, k))
    return out | {
        "oper-status": {UP: "up", DOWN: "down", 7: "lower-layer-down"}.get(
            status if isinstance(status, int) else 0, "unknown"
        )
    }


def _addresses_of(objects: Objects) -> Iterator[tuple[int, str, str, int]]:
    """Yield (interface, member, address, prefix length): of the table of both families, else of the older one."""
    known = False
    for key, k in _rows(objects, (*IP_ADDRESS, 3)):
        prefix = objects.get((*IP_ADDRESS, 5, *key))
        if objects.get((*IP_ADDRESS, 4, *key), UNICAST_ADDRESS) != UNICAST_ADDRESS:
            continue
        if (
            isinstance(k, int)
            and isinstance(prefix, tuple)
            and len(prefix) > 1
            and key[0] in (1, 2)
            and len(key) == 2 + key[1]
        ):
            packed = bytes(key[2:])
            address = str(IPv4Address(packed)) if key[0] == 1 else str(IPv6Address(packed))
            known = True
            yield k, IPV4 if key[0] == 1 else IPV6, address, prefix[-1]
    if not known:
        for key, k in _rows(objects, (*OLD_ADDRESS, 2)):
            mask = objects.get((*OLD_ADDRESS, 3, *key))
            if isinstance(k, int) and isinstance(mask, bytes) and len(key) == 4:
                yield k, IPV4, ".".join(map(str, key)), sum(b.bit_count() for b in mask)


def _bridge_of(objects: Objects, names: dict[int, str], interfaces: dict[int, Tree]) -> Tree | None:
    ports = {
        port: k for port, k in _column(objects, BASE_PORT[:-1], BASE_PORT[-1]) if isinstance(k, int) and k in names
    }
    if not ports:
        return None
    for port, k in ports.items():
        pvid, frames, checks = (objects.get((*PORT_VLAN, column, port)) for column in (1, 2, 3))
        said: Tree = {"bridge-name": BRIDGE, "component-name": BRIDGE}
        said |= {"pvid": pvid} if isinstance(pvid, int) and pvid else {}
        said |= {"acceptable-frame": ACCEPT["tagged"]} if frames == 2 else {}
        said |= {"enable-ingress-filtering": False} if checks == FALSE else {}
        interfaces[k][BRIDGE_PORT] = said
    listed: list[Tree] = []
    entries: list[Tree] = []
    for vid, held in _column(objects, VLAN_STATIC, 2):
        if objects.get((*VLAN_STATIC, 5, vid), 1) == 1:
            called = _text(objects.get((*VLAN_STATIC, 1, vid)))
            listed.append({"vid": vid} | ({"name": called} if called else {}))
        members, bare = (set(_bits(v)) for v in (held, objects.get((*VLAN_STATIC, 4, vid))))
        maps = [
            {
                "port-ref": names[ports[p]],
                "static-vlan-registration-entries": {"vlan-transmitted": "untagged" if p in bare else "tagged"},
            }
            for p in sorted(members)
            if p in ports
        ]
        entries += [{"database-id": 0, "vids": str(vid), "entry-type": "static", "port-map": maps}] if maps else []
    component = {"name": BRIDGE, "bridge-vlan": {"vlan": listed}}
    return {
        "bridge": [
            {"name": BRIDGE, "component": [component | {"filtering-database": {"vlan-registration-entry": entries}}]}
        ]
    }


def _bits(value: Value | None) -> Iterator[int]:
    for k, byte in enumerate(value if isinstance(value, bytes) else b""):
        yield from (8 * k + bit + 1 for bit in range(8) if byte & (0x80 >> bit))


def _routes_of(objects: Objects, names: dict[int, str]) -> Tree | None:
    """Return the static routes of the table; None where it does not answer for a table at all."""
    rows = list(_rows(objects, (*ROUTES, 9)))
    if not rows:
        return None
    held: dict[int, dict[str, list[Tree]]] = {4: {}, 6: {}}
    for key, origin in rows:
        read = _route_key(key)
        if origin != STATIC_ROUTE or read is None:
            continue
        version, to, via = read
        k, kind = (objects.get((*ROUTES, column, *key)) for column in (7, 8))
        hop: Tree = {"special-next-hop": "blackhole"} if kind == 5 else {}
        hop |= {"next-hop-address": via} if via and kind != 5 else {}
        if not hop:
            hop = {"outgoing-interface": names.get(k, "") if isinstance(k, int) else ""}
        held[version].setdefault(to, []).append(hop)
    static: Tree = {}
    for version, routes in held.items():
        written = [
            {"destination-prefix": to, "next-hop": hops[0]}
            if len(hops) == 1
            else {
                "destination-prefix": to,
                "next-hop": {"next-hop-list": {"next-hop": [{"index": str(i), **h} for i, h in enumerate(hops, 1)]}},
            }
            for to, hops in routes.items()
        ]
        static |= {UNICAST[version]: {"route": written}} if written else {}
    protocol = {"type": STATIC, "name": "static", "static-routes": static}
    return {"control-plane-protocols": {"control-plane-protocol": [protocol] if static else []}}


def _route_key(key: Oid) -> tuple[int, str, str] | None:
    """Return (family, prefix, next hop) of the index of inetCidrRouteTable (RFC 4292 section 6)."""
    try:
        size = key[1]
        packed, length, rest = bytes(key[2 : 2 + size]), key[2 + size], key[3 + size :]
        hop = rest[1 + rest[0] :]
        via = bytes(hop[2 : 2 + hop[1]])
        kind = {4: IPv4Address, 16: IPv6Address}[size]
        return 4 if size == 4 else 6, f"{kind(packed)}/{length}", str(kind(via)) if len(via) == size else ""
    except (IndexError, KeyError, ValueError):
        return None


def _near(objects: Objects, names: dict[int, str]) -> Iterator[Tree]:
    """Yield who each port hears, by the names both sides give their ports."""
    local = {k: _text(v) for k, v in _column(objects, LOCAL_PORT, 3)}
    held: dict[int, list[Tree]] = {}
    for key, name in _rows(objects, (*REMOTE, 9)):
        if len(key) == 3:
            port, bits = objects.get((*REMOTE, 7, *key)), objects.get((*REMOTE, 12, *key))
            able = int.from_bytes(bits[:2].ljust(2, b"\0"), "big") if isinstance(bits, bytes) else 0
            words = " ".join(word for bit, word in CAPABLE if able & (0x8000 >> bit))
            far = {"remote-index": key[2], "port-id": _text(port), "system-name": _text(name)}
            held.setdefault(key[1], []).append(far | {"system-capabilities-enabled": words})
    for k, far_ones in held.items():
        yield {"name": local.get(k) or names.get(k, str(k)), "remote-systems-data": far_ones}


def _text(value: Value | None) -> str:
    return value.decode("utf-8", "replace") if isinstance(value, bytes) else ""


def _rows(objects: Objects, column: Oid) -> Iterator[tuple[Oid, Value]]:
    size = len(column)
    return ((oid[size:], value) for oid, value in objects.items() if oid[:size] == column)


def _column(objects: Objects, table: Oid, column: int) -> Iterator[tuple[int, Value]]:
    """Yield (index, value) of a column whose rows have one number."""
    return ((key[0], value) for key, value in _rows(objects, (*table, column)) if len(key) == 1)


def joined(one: Tree, two: Tree) -> Tree:
    """Return what a box said by both protocols: what the first one says counts, and the second adds modules it did not speak of."""
    out = dict(one)
    for key, value in two.items():
        if key not in out or not at(out, key):
            out[key] = value
    return out
