"""Migrations: a firewall, a gateway or a subnet from one state to another as one edit, leftovers taken out, and what it had to assume said.

What cannot be known is asked for: addresses, the way on. The rest follows from what is there.
"""

from __future__ import annotations

import copy
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from ipaddress import ip_address, ip_interface, ip_network
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from anabasis.design.edits import Patch, Tree, difference, patched
from anabasis.design.files import parse_design
from anabasis.design.making.pairs import MakePair, make_pair
from anabasis.design.modes import BRIDGED
from anabasis.design.readdressing import Net, Readdressed
from anabasis.design.whereabouts import device_entry
from anabasis.errors import InputRefused, Problem, nearest

ROUTED = ("addresses", "vrf", "answers", "vrrp", "filter_in", "filter_out")


class _Plan(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Renumber(_Plan):
    """A subnet gets other addresses; every host keeps its number in it."""

    kind: Literal["renumber"]
    subnet: str = Field(description="The subnet as it is: 10.64.130.0/24.")
    to: str = Field(description="The subnet as it is to be.")


class MoveGateway(_Plan):
    """The gateway of a VLAN moves to another box, its addresses, answers and leases with it."""

    kind: Literal["move-gateway"]
    vlan: int
    device: str = Field(description="The box that is to be the gateway.")
    line: str | None = Field(
        default=None,
        description="Its routed port or bundle that carries the VLAN as a tag; left out = its own VLAN interface.",
    )
    zone: str | None = Field(default=None, description="Of a firewall: the zone it is to be in.")
    answers: str | None = Field(
        default=None, description="What it answers there; left out = the list of that name, where it has one."
    )
    via: str | None = Field(
        default=None,
        description="The address of the new box by which the old one reaches the VLAN; left out = on a subnet both are in.",
    )


class ToRouted(_Plan):
    """A transparent firewall, inline or bridged, becomes the gateway of who stands behind it."""

    kind: Literal["inline-to-routed", "bridged-to-routed"]
    device: str
    outer: str = Field(description="Its port towards the gateway as it is now.")
    inner: str = Field(description="Its port towards the hosts.")
    subnet: str = Field(description="The subnet that goes across it now.")
    gateway: str = Field(description="The box that is the gateway now.")
    transit: str = Field(
        description="A subnet for the link between the two: its first address for that box, the second for the firewall."
    )
    tag: int | None = Field(default=None, description="The VLAN as a tag on both ports; left out = without.")


class ToBridged(_Plan):
    """A firewall that routes between two of its ports becomes transparent between them; the box on the other side of the link becomes the gateway."""

    kind: Literal["routed-to-bridged"]
    device: str
    outer: str
    inner: str
    vlan: int = Field(description="The VLAN that it bridges between the two.")
    gateway: str = Field(description="The box that is to be the gateway.")


class ToPair(_Plan):
    """One unit becomes a pair."""

    kind: Literal["single-to-pair"]
    device: str
    first: str | None = None
    second: str | None = None


Plan = Annotated[Renumber | MoveGateway | ToRouted | ToBridged | ToPair, Field(discriminator="kind")]
KINDS = ("renumber", "move-gateway", "inline-to-routed", "bridged-to-routed", "routed-to-bridged", "single-to-pair")


@dataclass(frozen=True)
class Migration:
    """The edit, what was taken for granted, and what it leaves to be decided."""

    patch: Patch
    assumed: list[str] = field(default_factory=list)
    open: list[str] = field(default_factory=list)


@dataclass
class _Work:
    tree: Tree
    assumed: list[str] = field(default_factory=list)
    open: list[str] = field(default_factory=list)


def read_plan(value: Any) -> list[Plan]:
    """Return the plan of a mapping, or the plans of a list of them. Raises InputRefused with the place and what is allowed."""
    entries = value if isinstance(value, list) else [value]
    out: list[Plan] = []
    for k, entry in enumerate(entries):
        at = f"/{k}" if isinstance(value, list) else ""
        kind = entry.get("kind") if isinstance(entry, dict) else None
        if kind not in KINDS:
            raise InputRefused(
                [
                    Problem(
                        f"{at}/kind",
                        "there is no such migration",
                        repr(kind),
                        ", ".join(KINDS),
                        nearest(str(kind), KINDS),
                    )
                ]
            )
        try:
            out.append(TypeAdapter[Plan](Plan).validate_python(entry))
        except ValidationError as error:
            problems = []
            for wrong in error.errors():
                place = "/".join(str(x) for x in wrong["loc"][1:])
                problems.append(Problem(f"{at}/{place}", wrong["msg"].lower(), repr(wrong["input"])[:60]))
            raise InputRefused(problems) from None
    return out


def migrate(raw: Tree, plans: list[Plan]) -> Migration:
    """Return the one edit of all plans in their order. Raises InputRefused where one cannot be, or leads to no design."""
    work = _Work(copy.deepcopy(raw))
    for plan in plans:
        MAKERS[plan.kind](work, plan)
    parse_design(work.tree)
    return Migration(difference(raw, work.tree), work.assumed, work.open)


# --- a subnet gets other addresses


def _renumber(work: _Work, plan: Renumber) -> None:
    old, new = _net("/subnet", plan.subnet), _net("/to", plan.to)
    if old.version != new.version:
        raise InputRefused([Problem("/to", "another address family", plan.to, f"IPv{old.version}")])
    held = [s for v in work.tree.get("vlans", []) for s in v.get("subnets", [])]
    others = [
        s for s in held if ip_network(s) != old and ip_network(s).version == new.version and ip_network(s).overlaps(new)
    ]
    if others:
        raise InputRefused(
            [Problem("/to", "it overlaps another subnet of the plan", plan.to, f"none of {', '.join(others)}")]
        )
    wider = [
        f"the set {s['name']} holds {plan.subnet} by {m}, and {plan.to} not"
        for s in work.tree.get("addresses", [])
        for m in s.get("members", [])
        if "/" in m and (net := _read_net(m)) is not None and net != old and _inside(old, net) and not _inside(new, net)
    ]
    work.open += wider
    moved = Readdressed(old, new)
    work.tree = moved.value(work.tree)
    if not moved.count:
        raise InputRefused(
            [
                Problem(
                    "/subnet",
                    "nothing has an address of this subnet",
                    plan.subnet,
                    ", ".join(held[:12]),
                    nearest(plan.subnet, held),
                )
            ]
        )


# --- a gateway moves


def _move_gateway(work: _Work, plan: MoveGateway) -> None:
    _, target = device_entry(work.tree, plan.device)
    found = [
        (d, i)
        for d in work.tree.get("devices", [])
        for i in _interfaces(d)
        if i.vlan == plan.vlan and i.settings.get("addresses")
    ]
    old = next(((d, i) for d, i in found if d is not target and not i.settings.get("management")), None)
    if old is None:
        raise InputRefused(
            [Problem("/vlan", "no other box has an address in this VLAN", str(plan.vlan), "a VLAN with a gateway")]
        )
    was, interface = old
    settings = {k: v for k, v in interface.settings.items() if k in ("addresses", "note", "announce")}
    if target["kind"] == "firewall":
        settings["zone"] = _zone(target, plan.zone, "routed", "/zone")
    answers = plan.answers or interface.settings.get("answers")
    if answers in [a["name"] for a in target.get("answers", [])]:
        settings["answers"] = answers
    elif target["kind"] == "firewall":
        work.open.append(f"{plan.device} answers nothing there: {answers or 'no list'} is none of its lists")
    name = _place(target, plan, settings)
    leases = [x for x in was.get("dhcp", []) if x["interface"] == interface.name]
    interface.drop()
    _forget(was, interface.name)
    for lease in leases:
        target.setdefault("dhcp", []).append(lease | {"interface": name})
    nets = [ip_interface(a).network for a in settings["addresses"]]
    _ways(work, was, target, [n for n in nets if not n.is_link_local], plan.via)


def _place(target: Tree, plan: MoveGateway, settings: Tree) -> str:
    if plan.line is None:
        if target["kind"] == "switch":
            target["routing"] = True
        held = target.setdefault("vlan_interfaces", [])
        if any(i["vlan"] == plan.vlan for i in held):
            raise InputRefused(
                [Problem("/device", "it has an interface in this VLAN already", plan.device, "a box without one")]
            )
        held.append({"vlan": plan.vlan, **settings})
        return f"vlan{plan.vlan}"
    line = _line(target, plan.line, "/line")
    if line.get("mode") not in (None, "routed", "off"):
        raise InputRefused(
            [Problem("/line", "it is not routed", plan.line, "a routed port or bundle, or one that says nothing yet")]
        )
    line["mode"] = "routed"
    if any(s["tag"] == plan.vlan for s in line.get("subinterfaces", [])):
        raise InputRefused([Problem("/line", "it has this tag already", plan.line, "another line")])
    line.setdefault("subinterfaces", []).append({"tag": plan.vlan, **settings})
    return f"{plan.line}.{plan.vlan}"


def _ways(work: _Work, was: Tree, target: Tree, nets: list[Net], via: str | None) -> None:
    """Have the box that was the gateway find the subnets behind the new one, and the new one a way to the rest."""
    for net in nets:
        hop, back = _shared(was, target, net.version)
        hop = via if via is not None and ip_address(via).version == net.version else hop
        if hop is None:
            work.open.append(f"a route to {net} on {was['name']}: it shares no subnet with {target['name']}")
            continue
        speaks = all((_main(d).get("ospf") or {}).get("interfaces") for d in (was, target))
        if speaks and net.version == 4:
            names = [
                i.name
                for i in _interfaces(target)
                if any(ip_interface(a).network == net for a in i.settings.get("addresses", []))
            ]
            _main(target)["ospf"]["interfaces"] += [{"interface": n, "passive": True} for n in names]
            work.assumed.append(f"{target['name']} tells of {net} by OSPF")
            continue
        _main(was).setdefault("routes", []).append({"to": str(net), "via": hop})
        work.assumed.append(f"{was['name']} reaches {net} by {hop}")
        every = "0.0.0.0/0" if net.version == 4 else "::/0"
        routes = _main(target).setdefault("routes", [])
        if back is not None and not any(r["to"] == every for r in routes):
            routes.append({"to": every, "via": back})
            work.assumed.append(f"{target['name']} reaches everything else by {back}")
    main = _main(target)
    if main.get("routes") == []:
        del main["routes"]


def _shared(one: Tree, two: Tree, version: int) -> tuple[str | None, str | None]:
    """Return the addresses of the second and the first box on a subnet that both are in."""
    mine = [(ip_interface(a), a) for i in _interfaces(one) for a in i.settings.get("addresses", [])]
    for i in _interfaces(two):
        for a in i.settings.get("addresses", []):
            own = ip_interface(a)
            far = next(
                (
                    x
                    for x, _ in mine
                    if x.version == own.version == version and x.network == own.network and x.ip != own.ip
                ),
                None,
            )
            if far is not None:
                return str(own.ip), str(far.ip)
    return None, None


# --- a transparent firewall becomes a gateway, and the other way round


def _to_routed(work: _Work, plan: ToRouted) -> None:
    _, device = device_entry(work.tree, plan.device)
    _, upstream = device_entry(work.tree, plan.gateway)
    if device["kind"] != "firewall":
        raise InputRefused([Problem("/device", "only a firewall is transparent", plan.device, "a firewall")])
    outer, inner = _line(device, plan.outer, "/outer"), _line(device, plan.inner, "/inner")
    net, link = _net("/subnet", plan.subnet), _net("/transit", plan.transit)
    wanted = "inline" if plan.kind == "inline-to-routed" else "bridged"
    for key, line in (("/outer", outer), ("/inner", inner)):
        if line.get("mode") != wanted:
            raise InputRefused([Problem(key, f"it is not {wanted}", line["name"], f"a port whose mode is {wanted}")])
    held = next(
        (
            i
            for i in _interfaces(upstream)
            if any(ip_interface(a).network == net for a in i.settings.get("addresses", []))
        ),
        None,
    )
    if held is None:
        raise InputRefused(
            [Problem("/gateway", f"it has no address in {net}", plan.gateway, "the box that is the gateway")]
        )
    first, second = list(link.hosts())[:2]
    gateway = next(a for a in held.settings["addresses"] if ip_interface(a).network == net)
    zones = [_zone_of(x, plan.tag) for x in (outer, inner)]
    for wire in [w for w in device.get("wires", []) if {outer["name"], inner["name"]} & set(w["ends"])]:
        device["wires"].remove(wire)
    _rekind(device, zones, "routed", (outer["name"], inner["name"]))
    for line, zone, address in ((outer, zones[0], f"{second}/{link.prefixlen}"), (inner, zones[1], gateway)):
        _clear(line, (*BRIDGED, "zone", "subinterfaces"))
        line["mode"] = "routed"
        settings: Tree = {"addresses": [address]} | ({"zone": zone} if zone else {})
        if plan.tag:
            line["subinterfaces"] = [{"tag": plan.tag, **settings}]
        else:
            line |= settings
        if not zone:
            work.open.append(f"a routed zone for {line['name']} of {plan.device}")
    for interface in [
        i
        for i in _interfaces(device)
        if i.vlan is not None
        and i.name.startswith("vlan")
        and any(ip_interface(a).network == net for a in i.settings.get("addresses", []))
    ]:
        interface.drop()
        _forget(device, interface.name)
    own = f"{inner['name']}.{plan.tag}" if plan.tag else inner["name"]
    for lease in [x for x in upstream.get("dhcp", []) if x["interface"] == held.name]:
        upstream["dhcp"].remove(lease)
        device.setdefault("dhcp", []).append(lease | {"interface": own})
    _drop_empty(upstream, "dhcp")
    held.settings["addresses"] = [
        f"{first}/{link.prefixlen}" if a == gateway else a for a in held.settings["addresses"]
    ]
    _main(upstream).setdefault("routes", []).append({"to": str(net), "via": str(second)})
    routes = _main(device).setdefault("routes", [])
    if not any(r["to"] == "0.0.0.0/0" for r in routes):
        routes.append({"to": "0.0.0.0/0", "via": str(first)})
    work.assumed += [
        f"{plan.gateway} gives up {gateway} and has {first}/{link.prefixlen} on {held.name}",
        f"hosts keep their gateway {ip_interface(gateway).ip}: {plan.device} has it now",
    ]
    if not any(a.get("name") for a in device.get("answers", [])):
        work.open.append(f"what {plan.device} answers on its new addresses: it has no list")


def _to_bridged(work: _Work, plan: ToBridged) -> None:
    _, device = device_entry(work.tree, plan.device)
    _, upstream = device_entry(work.tree, plan.gateway)
    outer, inner = _line(device, plan.outer, "/outer"), _line(device, plan.inner, "/inner")
    for key, line in (("/outer", outer), ("/inner", inner)):
        if line.get("mode") != "routed" or not line.get("addresses"):
            raise InputRefused(
                [
                    Problem(
                        key,
                        "it is not routed, or has no address of its own",
                        line["name"],
                        "a routed port with an address",
                    )
                ]
            )
    link, gateway = outer["addresses"][0], inner["addresses"][0]
    net = ip_interface(link).network
    held = next(
        (
            i
            for i in _interfaces(upstream)
            if any(ip_interface(a).network == net for a in i.settings.get("addresses", []))
        ),
        None,
    )
    if held is None:
        raise InputRefused(
            [
                Problem(
                    "/gateway", f"it has no address in {net}", plan.gateway, f"the box at the other end of {plan.outer}"
                )
            ]
        )
    zones = [x.get("zone") for x in (outer, inner)]
    inside = ip_interface(gateway).network
    for line, zone in ((outer, zones[0]), (inner, zones[1])):
        name = line["name"]
        leases = [x for x in device.get("dhcp", []) if x["interface"] == name]
        for lease in leases:
            device["dhcp"].remove(lease)
            if line is inner:
                upstream.setdefault("dhcp", []).append(lease | {"interface": held.name})
        _clear(line, ROUTED)
        _forget(device, name)
        line |= {"mode": "bridged", "pvid": plan.vlan, "untagged": [plan.vlan]} | ({"zone": zone} if zone else {})
    _drop_empty(device, "dhcp")
    _rekind(device, zones, "bridged", (outer["name"], inner["name"]))
    held.settings["addresses"] = [gateway if ip_interface(a).network == net else a for a in held.settings["addresses"]]
    for box, lost in ((upstream, {str(inside)}), (device, {"0.0.0.0/0"})):
        for vrf in box.get("vrfs", []):
            vrf["routes"] = [
                r
                for r in vrf.get("routes", [])
                if not (r["to"] in lost and r.get("via") and ip_address(r["via"]) in net)
            ]
            _drop_empty(vrf, "routes")
    plan_entry = next((v for v in work.tree.get("vlans", []) if v["id"] == plan.vlan), None)
    if plan_entry is None:
        work.tree.setdefault("vlans", []).append(
            {"id": plan.vlan, "name": f"vlan{plan.vlan}", "subnets": [str(inside)]}
        )
    work.assumed += [f"{plan.gateway} has {gateway} now: hosts keep their gateway", f"the link {net} goes"]
    if device.get("nat"):
        work.open.append(f"translations of {plan.device}: a bridge translates nothing")


def _rekind(device: Tree, zones: list[str | None], kind: str, lines: tuple[str, str]) -> None:
    """Have zones of another kind. Raises InputRefused where other interfaces are in them as well: a zone is of one kind."""
    for line in (*device.get("ports", []), *device.get("lags", [])):
        if (
            line["name"] not in lines
            and zones
            and {line.get("zone"), *(s.get("zone") for s in line.get("subinterfaces", []))} & set(zones) - {None}
        ):
            shared = ", ".join(z for z in zones if z)
            raise InputRefused(
                [Problem("/device", f"{line['name']} is in the zone as well", shared, "ports in zones of their own")]
            )
    for zone in device.get("zones", []):
        if zone["name"] in zones:
            zone["kind"] = kind


def _zone_of(line: Tree, tag: int | None) -> str | None:
    subs = [s for s in line.get("subinterfaces", []) if s["tag"] == tag]
    return subs[0].get("zone") if subs else line.get("zone")


def _to_pair(work: _Work, plan: ToPair) -> None:
    made = make_pair(work.tree, MakePair(plan.device, plan.first, plan.second))
    work.tree = copy.deepcopy(patched(work.tree, made.patch))
    work.open += made.missing


# --- what they share


@dataclass
class _Interface:
    name: str
    vlan: int | None
    settings: Tree
    drop: Callable[[], None]


def _interfaces(device: Tree) -> Iterator[_Interface]:
    """Yield the layer-3 interfaces of a box."""
    for key in ("ports", "lags"):
        for line in device.get(key, []):
            if not isinstance(line, dict):
                continue
            yield _Interface(line["name"], line.get("pvid"), line, lambda x=line: _clear(x, ROUTED))  # type: ignore[misc]
            for sub in list(line.get("subinterfaces", [])):

                def drop(x: Tree = line, s: Tree = sub) -> None:
                    x["subinterfaces"] = [o for o in x["subinterfaces"] if o is not s]
                    _drop_empty(x, "subinterfaces")

                yield _Interface(f"{line['name']}.{sub['tag']}", sub["tag"], sub, drop)
    for own in list(device.get("vlan_interfaces", [])):

        def gone(s: Tree = own) -> None:
            device["vlan_interfaces"] = [o for o in device["vlan_interfaces"] if o is not s]
            _drop_empty(device, "vlan_interfaces")

        yield _Interface(f"vlan{own['vlan']}", own["vlan"], own, gone)


def _clear(part: Tree, keys: tuple[str, ...]) -> None:
    for key in keys:
        part.pop(key, None)


def _drop_empty(part: Tree, key: str) -> None:
    if part.get(key) == []:
        del part[key]


def _forget(device: Tree, name: str) -> None:
    """Take out what leaned on an interface: its leases, routes out by it, its place in OSPF and on the watch list."""
    device["dhcp"] = [x for x in device.get("dhcp", []) if x["interface"] != name]
    _drop_empty(device, "dhcp")
    for vrf in device.get("vrfs", []):
        if "routes" in vrf:
            vrf["routes"] = [r for r in vrf["routes"] if r.get("interface") != name]
        if vrf.get("ospf") and "interfaces" in vrf["ospf"]:
            vrf["ospf"]["interfaces"] = [i for i in vrf["ospf"]["interfaces"] if i["interface"] != name]
    pair = device.get("failover")
    if pair and name in pair.get("watch", []):
        pair["watch"].remove(name)


def _main(device: Tree) -> Tree:
    vrfs = device.setdefault("vrfs", [])
    found = next((v for v in vrfs if v["name"] == "main"), None)
    if found is None:
        found = {"name": "main"}
        vrfs.insert(0, found)
    return found


def _line(device: Tree, name: str, at: str) -> Tree:
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


def _zone(device: Tree, wanted: str | None, kind: str, at: str) -> str:
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


def _inside(net: Net, other: Net) -> bool:
    return net.version == other.version and net.prefixlen >= other.prefixlen and net.network_address in other


def _read_net(text: str) -> Net | None:
    try:
        return ip_network(text)
    except ValueError:
        return None


def _net(at: str, text: str) -> Net:
    try:
        return ip_network(text)
    except ValueError as error:
        raise InputRefused(
            [Problem(at, "badly written", repr(text), f"a subnet such as 10.64.130.0/24 ({error})")]
        ) from None


MAKERS: dict[str, Callable[[_Work, Any], None]] = {
    "renumber": _renumber,
    "move-gateway": _move_gateway,
    "inline-to-routed": _to_routed,
    "bridged-to-routed": _to_routed,
    "routed-to-bridged": _to_bridged,
    "single-to-pair": _to_pair,
}
