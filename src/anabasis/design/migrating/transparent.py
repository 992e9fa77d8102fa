"""A transparent firewall becomes a gateway, and the other way round."""

from __future__ import annotations

from ipaddress import ip_address, ip_interface

from anabasis.design.edits import Tree
from anabasis.design.migrating.parts import (
    ROUTED,
    Work,
    clear,
    drop_empty,
    forget,
    interface_in,
    interfaces,
    line_of,
    main_of,
    net_of,
)
from anabasis.design.migrating.plans import ToBridged, ToRouted
from anabasis.design.modes import BRIDGED
from anabasis.design.whereabouts import device_entry
from anabasis.errors import InputRefused, Problem
from anabasis.facts import Left, Noted, Took


def to_routed(work: Work, plan: ToRouted) -> None:
    _, device = device_entry(work.tree, plan.device)
    _, upstream = device_entry(work.tree, plan.gateway)
    if device["kind"] != "firewall":
        raise InputRefused([Problem("/device", "only a firewall is transparent", plan.device, "a firewall")])
    outer, inner = line_of(device, plan.outer, "/outer"), line_of(device, plan.inner, "/inner")
    net, link = net_of("/subnet", plan.subnet), net_of("/transit", plan.transit)
    wanted = "inline" if plan.kind == "inline-to-routed" else "bridged"
    for key, line in (("/outer", outer), ("/inner", inner)):
        if line.get("mode") != wanted:
            raise InputRefused([Problem(key, f"it is not {wanted}", line["name"], f"a port whose mode is {wanted}")])
    held = interface_in(upstream, net)
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
        clear(line, (*BRIDGED, "zone", "subinterfaces"))
        line["mode"] = "routed"
        settings: Tree = {"addresses": [address]} | ({"zone": zone} if zone else {})
        if plan.tag:
            line["subinterfaces"] = [{"tag": plan.tag, **settings}]
        else:
            line |= settings
        if not zone:
            work.open.append(Noted(Left.NO_ZONE, {"line": line["name"], "device": plan.device}))
    for interface in [
        i
        for i in interfaces(device)
        if i.vlan is not None
        and i.name.startswith("vlan")
        and any(ip_interface(a).network == net for a in i.settings.get("addresses", []))
    ]:
        interface.drop()
        forget(device, interface.name)
    own = f"{inner['name']}.{plan.tag}" if plan.tag else inner["name"]
    for lease in [x for x in upstream.get("dhcp", []) if x["interface"] == held.name]:
        upstream["dhcp"].remove(lease)
        device.setdefault("dhcp", []).append(lease | {"interface": own})
    drop_empty(upstream, "dhcp")
    held.settings["addresses"] = [
        f"{first}/{link.prefixlen}" if a == gateway else a for a in held.settings["addresses"]
    ]
    main_of(upstream).setdefault("routes", []).append({"to": str(net), "via": str(second)})
    routes = main_of(device).setdefault("routes", [])
    if not any(r["to"] == "0.0.0.0/0" for r in routes):
        routes.append({"to": "0.0.0.0/0", "via": str(first)})
    work.assumed += [
        Noted(
            Took.GATEWAY_GIVES_UP,
            {"gateway": plan.gateway, "address": gateway, "own": f"{first}/{link.prefixlen}", "interface": held.name},
        ),
        Noted(Took.GATEWAY_STAYS, {"address": str(ip_interface(gateway).ip), "device": plan.device}),
    ]
    if not any(a.get("name") for a in device.get("answers", [])):
        work.open.append(Noted(Left.NO_LISTS, {"device": plan.device}))


def to_bridged(work: Work, plan: ToBridged) -> None:
    _, device = device_entry(work.tree, plan.device)
    _, upstream = device_entry(work.tree, plan.gateway)
    outer, inner = line_of(device, plan.outer, "/outer"), line_of(device, plan.inner, "/inner")
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
    held = interface_in(upstream, net)
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
        clear(line, ROUTED)
        forget(device, name)
        line |= {"mode": "bridged", "pvid": plan.vlan, "untagged": [plan.vlan]} | ({"zone": zone} if zone else {})
    drop_empty(device, "dhcp")
    _rekind(device, zones, "bridged", (outer["name"], inner["name"]))
    held.settings["addresses"] = [gateway if ip_interface(a).network == net else a for a in held.settings["addresses"]]
    for box, lost in ((upstream, {str(inside)}), (device, {"0.0.0.0/0"})):
        for vrf in box.get("vrfs", []):
            vrf["routes"] = [
                r
                for r in vrf.get("routes", [])
                if not (r["to"] in lost and r.get("via") and ip_address(r["via"]) in net)
            ]
            drop_empty(vrf, "routes")
    plan_entry = next((v for v in work.tree.get("vlans", []) if v["id"] == plan.vlan), None)
    if plan_entry is None:
        work.tree.setdefault("vlans", []).append(
            {"id": plan.vlan, "name": f"vlan{plan.vlan}", "subnets": [str(inside)]}
        )
    work.assumed += [
        Noted(Took.GATEWAY_TAKES, {"gateway": plan.gateway, "address": gateway}),
        Noted(Took.LINK_GOES, {"subnet": str(net)}),
    ]
    if device.get("nat"):
        work.open.append(Noted(Left.TRANSLATIONS, {"device": plan.device}))


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
