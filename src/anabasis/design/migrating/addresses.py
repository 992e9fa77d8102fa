"""A subnet gets other addresses; a gateway moves to another box."""

from __future__ import annotations

from ipaddress import ip_address, ip_interface, ip_network

from anabasis.design.edits import Tree
from anabasis.design.migrating.parts import (
    Work,
    forget,
    inside,
    interfaces,
    line_of,
    main_of,
    net_of,
    read_net,
    zone_of_kind,
)
from anabasis.design.migrating.plans import MoveGateway, Renumber
from anabasis.design.notation import parse_end
from anabasis.design.readdressing import Net, Readdressed
from anabasis.design.whereabouts import device_entry
from anabasis.errors import InputRefused, Problem, nearest
from anabasis.facts import Left, Noted, Took


def renumber(work: Work, plan: Renumber) -> None:
    old, new = net_of("/subnet", plan.subnet), net_of("/to", plan.to)
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
        Noted(Left.SET_MISSES, {"set": s["name"], "was": plan.subnet, "member": m, "now": plan.to})
        for s in work.tree.get("addresses", [])
        for m in s.get("members", [])
        if "/" in m and (net := read_net(m)) is not None and net != old and inside(old, net) and not inside(new, net)
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


def move_gateway(work: Work, plan: MoveGateway) -> None:
    _, target = device_entry(work.tree, plan.device)
    found = [
        (d, i)
        for d in work.tree.get("devices", [])
        for i in interfaces(d)
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
        settings["zone"] = zone_of_kind(target, plan.zone, "routed", "/zone")
    answers = plan.answers or interface.settings.get("answers")
    if answers in [a["name"] for a in target.get("answers", [])]:
        settings["answers"] = answers
    elif target["kind"] == "firewall":
        work.open.append(Noted(Left.NO_ANSWERS, {"device": plan.device, "list": answers or "none"}))
    name = _place(target, plan, settings)
    if plan.line is not None:
        _carried(work, target, plan.line, plan.vlan)
    leases = [x for x in was.get("dhcp", []) if x["interface"] == interface.name]
    interface.drop()
    forget(was, interface.name)
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
    line = line_of(target, plan.line, "/line")
    if line.get("mode") not in (None, "routed", "off"):
        raise InputRefused(
            [Problem("/line", "it is not routed", plan.line, "a routed port or bundle, or one that says nothing yet")]
        )
    line["mode"] = "routed"
    if any(s["tag"] == plan.vlan for s in line.get("subinterfaces", [])):
        raise InputRefused([Problem("/line", "it has this tag already", plan.line, "another line")])
    line.setdefault("subinterfaces", []).append({"tag": plan.vlan, **settings})
    return f"{plan.line}.{plan.vlan}"


def _carried(work: Work, target: Tree, line: str, vlan: int) -> None:
    """Have the boxes at the other end of a line carry the VLAN on it, where they bridge it anywhere."""
    members = {p["name"] for p in target.get("ports", []) if p.get("lag") == line} | {line}
    own = {target["name"], *(u["name"] for u in target.get("units", []))}
    for cable in work.tree.get("cables", []):
        ends = [parse_end(e) for e in cable]
        for (box, port), (far, peer) in (ends, ends[::-1]):
            if box not in own or port not in members:
                continue
            there: Tree = next(
                (d for d in work.tree["devices"] if far in (d["name"], *(u["name"] for u in d.get("units", [])))), {}
            )
            entry: Tree = next((p for p in there.get("ports", []) if p["name"] == peer), {})
            held = next((x for x in there.get("lags", []) if x["name"] == entry.get("lag")), entry)
            bridged = any(
                vlan in (*x.get("tagged", []), *x.get("untagged", []))
                for k in ("ports", "lags")
                for x in there.get(k, [])
            )
            if bridged and held and vlan not in (*held.get("tagged", []), *held.get("untagged", [])):
                held.setdefault("tagged", []).append(vlan)
                held["tagged"].sort()
                work.assumed.append(Noted(Took.CARRIES, {"line": f"{there['name']}:{held['name']}", "vlan": str(vlan)}))


def _ways(work: Work, was: Tree, target: Tree, nets: list[Net], via: str | None) -> None:
    """Have the box that was the gateway find the subnets behind the new one, and the new one a way to the rest."""
    for net in nets:
        hop, back = _shared(was, target, net.version)
        hop = via if via is not None and ip_address(via).version == net.version else hop
        if hop is None:
            known = {"subnet": str(net), "device": was["name"], "other": target["name"]}
            work.open.append(Noted(Left.NO_WAY, known))
            continue
        speaks = all((main_of(d).get("ospf") or {}).get("interfaces") for d in (was, target))
        if speaks and net.version == 4:
            names = [
                i.name
                for i in interfaces(target)
                if any(ip_interface(a).network == net for a in i.settings.get("addresses", []))
            ]
            main_of(target)["ospf"]["interfaces"] += [{"interface": n, "passive": True} for n in names]
            work.assumed.append(Noted(Took.TELLS, {"device": target["name"], "subnet": str(net)}))
            continue
        main_of(was).setdefault("routes", []).append({"to": str(net), "via": hop})
        work.assumed.append(Noted(Took.REACHES, {"device": was["name"], "subnet": str(net), "hop": hop}))
        every = "0.0.0.0/0" if net.version == 4 else "::/0"
        routes = main_of(target).setdefault("routes", [])
        if back is not None and not any(r["to"] == every for r in routes):
            routes.append({"to": every, "via": back})
            work.assumed.append(Noted(Took.REACHES_ALL, {"device": target["name"], "hop": back}))
    main = main_of(target)
    if main.get("routes") == []:
        del main["routes"]


def _shared(one: Tree, two: Tree, version: int) -> tuple[str | None, str | None]:
    """Return the addresses of the second and the first box on a subnet that both are in."""
    mine = [(ip_interface(a), a) for i in interfaces(one) for a in i.settings.get("addresses", [])]
    for i in interfaces(two):
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
