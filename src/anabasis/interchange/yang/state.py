"""What the boxes of a site say of themselves while it runs: their settings, and the state that is computed of them (RFC 8342)."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.climb import Climb
from anabasis.design import Tree
from anabasis.design.devices import AccessPoint, Device, Endpoint, Firewall, Hub
from anabasis.fabric import PhysicalPort
from anabasis.interchange.yang.files import SYSTEM, box_data, shared
from anabasis.interchange.yang.names import (
    BRIDGES,
    INSTANCES,
    INTERFACE,
    INTERFACES,
    LLDP,
    MAIN,
    ROUTING,
    UNICAST,
    VRF_ROOT,
)
from anabasis.policy import Terms
from anabasis.routing import Table, TableRoute

NEAREST_BRIDGE = "01-80-C2-00-00-0E"
"""Where LLDP is sent (IEEE 802.1AB table 7-1)."""
CAPABILITY = {
    "switch": "bridge",
    "router": "router",
    "firewall": "bridge router",
    "access-point": "wlan-access-point",
    "endpoint": "station-only",
    "outside": "router",
}
ORIGINS = {"connected": "ietf-routing:direct", "local": "ietf-routing:direct", "static": "ietf-routing:static"}
Heard = dict[str, list[tuple[str, str, str]]]
"""Port -> (box, port there, kind) that it hears."""


def site_data(climb: Climb, tree: Tree) -> dict[str, Tree]:
    """Return box, or unit of a pair -> its data. Hubs have nothing to say."""
    terms, plan = Terms(climb.design), tree.get("vlans", [])
    ports = _ports(climb)
    learned = _learned(climb)
    out: dict[str, Tree] = {}
    for device, said in zip(climb.design.devices, tree.get("devices", []), strict=True):
        if isinstance(device, Hub):
            continue
        units = [u.name for u in device.units] if isinstance(device, Firewall) and device.units else [device.name]
        for unit in units:
            data = box_data(said, plan, terms)
            data |= {SYSTEM: {"hostname": unit}} | shared(tree)
            _interfaces(climb, device.name, {p.port.name: p for p in ports.values() if p.box == unit}, data)
            _ribs(climb, device.name, data)
            data[LLDP] = {"port": list(_lldp(_heard(climb, ports, unit)))}
            if BRIDGES in data and unit in learned:
                table = data[BRIDGES]["bridge"][0]["component"][0].setdefault("filtering-database", {})
                table["filtering-entry"] = learned[unit]
            out[unit] = data
    return out


def _ports(climb: Climb) -> dict[tuple[str, str], PhysicalPort]:
    lines = (line for line in climb.site.fabric.ports.values() if not line.virtual)
    return {p.spot: p for line in lines for p in line.members}


def _interfaces(climb: Climb, device: str, ports: dict[str, PhysicalPort], data: Tree) -> None:
    """Say of each interface whether it is up (RFC 8343, oper-status)."""
    layer3 = {i.name: i.up for i in climb.site.net.of_device[device]}
    lines = {
        line.settings.name: line.cause is None for line in climb.site.fabric.ports.values() if line.device == device
    }
    for k, interface in enumerate(data.get(INTERFACES, {}).get(INTERFACE, []), 1):
        name = interface["name"]
        held = ports.get(name)
        free = held is not None and held.free
        up = held.cause is None and not free if held is not None else layer3.get(name, lines.get(name, True))
        interface["oper-status"] = "up" if up else "down"
        interface["if-index"] = k


def _ribs(climb: Climb, device: str, data: Tree) -> None:
    """Add the tables: what is in force, by VRF and family (RFC 8349 section 5.2)."""
    instances = {i["name"]: i for i in data.get(INSTANCES, {}).get("network-instance", [])}
    for (box, vrf), table in climb.site.net.tables.items():
        ribs = list(_rib(table, vrf)) if box == device else []
        if ribs:
            holder = data if vrf == MAIN else instances.get(vrf, {}).setdefault(VRF_ROOT, {})
            holder.setdefault(ROUTING, {})["ribs"] = {"rib": ribs}


def _rib(table: Table, vrf: str) -> Iterator[Tree]:
    for version in (4, 6):
        routes = [r for r in table.routes if r.to.version == version and r.active and r.next_vrf is None]
        if routes:
            family = f"ietf-routing:ipv{version}"
            yield {
                "name": f"{vrf}-ipv{version}",
                "address-family": family,
                "routes": {"route": [_route(r, version) for r in routes]},
            }


def _route(route: TableRoute, version: int) -> Tree:
    module = UNICAST[version].partition(":")[0]
    hop: Tree = {"outgoing-interface": route.interface} if route.interface else {}
    hop |= {f"{module}:next-hop-address": str(route.hop)} if route.hop is not None else {}
    return {
        "route-preference": route.preference,
        "source-protocol": ORIGINS.get(route.origin, "ietf-ospf:ospfv2"),
        "active": [None],
        f"{module}:destination-prefix": str(route.to),
        "next-hop": {"special-next-hop": "blackhole"} if route.discard else hop,
    }


def _heard(climb: Climb, ports: dict[tuple[str, str], PhysicalPort], box: str) -> Heard:
    """Return who each port hears: the far end of its cable, or whoever stands beyond a hub, which repeats what it hears."""
    kinds = {p.box: climb.site.net.devices[p.device] for p in ports.values()}
    out: Heard = {}
    for port in ports.values():
        if port.box != box or (isinstance(kinds[box], AccessPoint) and _in_the_air(kinds[box], port)):
            continue
        seen, todo = {port.spot}, [port.far] if port.far is not None and port.cause is None else []
        while todo:
            spot = todo.pop()
            far = ports.get(spot)
            if far is None or spot in seen or far.cause is not None:
                continue
            seen.add(spot)
            holder = kinds[far.box]
            if isinstance(holder, Hub):
                others = [p for p in ports.values() if p.box == far.box and p.spot != spot]
                todo += [p.far for p in others if p.far is not None and p.cause is None]
            elif not _in_the_air(holder, far):
                out.setdefault(port.port.name, []).append((far.box, far.port.name, holder.kind))
    return out


def _in_the_air(device: Device, port: PhysicalPort) -> bool:
    return isinstance(device, AccessPoint) and port.port.name not in {p.name for p in device.ports}


def _lldp(heard: Heard) -> Iterator[Tree]:
    for port, far in heard.items():
        remote = [
            {
                "time-mark": 0,
                "remote-index": k,
                "chassis-id-subtype": "local",
                "chassis-id": box,
                "port-id-subtype": "interface-name",
                "port-id": name,
                "system-name": box,
                "system-capabilities-enabled": CAPABILITY[kind],
            }
            for k, (box, name, kind) in enumerate(far, 1)
        ]
        yield {"name": port, "dest-mac-address": NEAREST_BRIDGE, "remote-systems-data": remote}


def _learned(climb: Climb) -> dict[str, list[Tree]]:
    """Return box -> what its bridge has learnt: the port that each host's frames came in by, on their way to its gateway (IEEE 802.1Q clause 8.7)."""
    out: dict[str, list[Tree]] = {}
    site = climb.site
    for group in site.net.hosts:
        device = site.net.devices.get(group.endpoint or "")
        if not isinstance(device, Endpoint) or group.gateway is None or group.attachment is None:
            continue
        vlans = site.segments.all[site.segments.of(group.attachment)].vlan_ids
        for step in climb.walk(device.name, str(group.gateway), "ping").steps:
            if step.kind == "received":
                break
            if step.kind == "cable" and vlans:
                box, _, port = step.far.partition(":")
                where = {"port-ref": port}
                mac = (device.hardware or hardware_of(device.name)).upper().replace(":", "-")
                entry = {"database-id": 0, "address": mac, "vids": str(min(vlans)), "entry-type": "dynamic"}
                known = out.setdefault(box, [])
                if entry | {"port-map": [where]} not in known:  # a host of two families is one host
                    known.append(entry | {"port-map": [where]})
    return out


def hardware_of(name: str) -> str:
    """Return a hardware address of our own making for a host that has none written down: local, and the same each time."""
    value = sum(byte * 257**k for k, byte in enumerate(name.encode())) % 2**40
    return ":".join(f"{byte:02x}" for byte in bytes((2, *value.to_bytes(5, "big"))))
