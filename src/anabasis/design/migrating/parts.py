"""The parts of a document that migrations move: layer-3 interfaces with what leans on them, lines, zones, subnets."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from ipaddress import ip_interface, ip_network

from anabasis.design.edits import Tree
from anabasis.design.readdressing import Net
from anabasis.errors import InputRefused, Problem, nearest
from anabasis.facts import Noted

ROUTED = ("addresses", "vrf", "answers", "vrrp", "filter_in", "filter_out")


@dataclass
class Work:
    tree: Tree
    assumed: list[Noted] = field(default_factory=list)
    open: list[Noted] = field(default_factory=list)


@dataclass
class Interface:
    name: str
    vlan: int | None
    settings: Tree
    drop: Callable[[], None]


def interfaces(device: Tree) -> Iterator[Interface]:
    """Yield the layer-3 interfaces of a box."""
    for key in ("ports", "lags"):
        for line in device.get(key, []):
            if not isinstance(line, dict):
                continue
            yield Interface(line["name"], line.get("pvid"), line, lambda x=line: clear(x, ROUTED))  # type: ignore[misc]
            for sub in list(line.get("subinterfaces", [])):

                def drop(x: Tree = line, s: Tree = sub) -> None:
                    x["subinterfaces"] = [o for o in x["subinterfaces"] if o is not s]
                    drop_empty(x, "subinterfaces")

                yield Interface(f"{line['name']}.{sub['tag']}", sub["tag"], sub, drop)
    for own in list(device.get("vlan_interfaces", [])):

        def gone(s: Tree = own) -> None:
            device["vlan_interfaces"] = [o for o in device["vlan_interfaces"] if o is not s]
            drop_empty(device, "vlan_interfaces")

        yield Interface(f"vlan{own['vlan']}", own["vlan"], own, gone)


def interface_in(device: Tree, net: Net) -> Interface | None:
    """Return the first interface of a box that has an address in a subnet."""
    return next(
        (i for i in interfaces(device) if any(ip_interface(a).network == net for a in i.settings.get("addresses", []))),
        None,
    )


def clear(part: Tree, keys: tuple[str, ...]) -> None:
    for key in keys:
        part.pop(key, None)


def drop_empty(part: Tree, key: str) -> None:
    if part.get(key) == []:
        del part[key]


def forget(device: Tree, name: str) -> None:
    """Take out what leaned on an interface: its leases, routes out by it, its place in OSPF and on the watch list."""
    device["dhcp"] = [x for x in device.get("dhcp", []) if x["interface"] != name]
    drop_empty(device, "dhcp")
    for vrf in device.get("vrfs", []):
        if "routes" in vrf:
            vrf["routes"] = [r for r in vrf["routes"] if r.get("interface") != name]
        if vrf.get("ospf") and "interfaces" in vrf["ospf"]:
            vrf["ospf"]["interfaces"] = [i for i in vrf["ospf"]["interfaces"] if i["interface"] != name]
    pair = device.get("failover")
    if pair and name in pair.get("watch", []):
        pair["watch"].remove(name)


def main_of(device: Tree) -> Tree:
    vrfs = device.setdefault("vrfs", [])
    found = next((v for v in vrfs if v["name"] == "main"), None)
    if found is None:
        found = {"name": "main"}
        vrfs.insert(0, found)
    return found


def line_of(device: Tree, name: str, at: str) -> Tree:
    lines = {p["name"]: p for key in ("lags", "ports") for p in device.get(key, [])}
    if name not in lines:
        raise InputRefused(
            [
                Problem(
                    at,
                    f"{device['name']} has no such port or bundle",
                    repr(name),
                    ", ".join(list(lines)[:14]),
                    nearest(name, list(lines)),
                )
            ]
        )
    return lines[name]  # type: ignore[no-any-return]


def zone_of_kind(device: Tree, wanted: str | None, kind: str, at: str) -> str:
    zones = [z["name"] for z in device.get("zones", []) if z.get("kind", "routed") == kind]
    if wanted not in zones:
        raise InputRefused(
            [
                Problem(
                    at,
                    f"a zone of kind {kind} has to be named",
                    repr(wanted),
                    ", ".join(zones) or "none yet",
                    nearest(wanted or "", zones),
                )
            ]
        )
    return wanted  # type: ignore[return-value]


def inside(net: Net, other: Net) -> bool:
    return net.version == other.version and net.prefixlen >= other.prefixlen and net.network_address in other


def read_net(text: str) -> Net | None:
    try:
        return ip_network(text)
    except ValueError:
        return None


def net_of(at: str, text: str) -> Net:
    try:
        return ip_network(text)
    except ValueError as error:
        raise InputRefused(
            [Problem(at, "badly written", repr(text), f"a subnet such as 10.64.130.0/24 ({error})")]
        ) from None
