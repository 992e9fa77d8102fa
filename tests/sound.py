"""Sound sites of an invented harbour, different for every seed: nothing breaks in them, and whoever should reach whom does.

They hold switches and bundles, subinterfaces and VLAN interfaces, bridged and inline ports, a multilayer switch behind the firewall, two
firewalls in series, translation once and twice, leases and clients, access points, routes learnt by OSPF, tunnels, and failover pairs; not every site all of them.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from random import Random
from typing import Any

from tests.sites import Tree, access, trunk

ACROSS = 10_000
"""From which seed on a site has a box across the bay, and a tunnel to it."""
ANY: Tree = {"services": ["any"], "action": "permit"}


@dataclass
class Sound:
    """A site while it is made."""

    rng: Random
    vlans: list[Tree] = field(default_factory=list)
    devices: list[Tree] = field(default_factory=list)
    cables: list[list[str]] = field(default_factory=list)
    expectations: list[Tree] = field(default_factory=list)
    of_vlan: dict[int, str] = field(default_factory=dict)
    """VLAN -> the switch its hosts stand on"""
    count: int = 0

    def vlan(self, name: str, purpose: str | None = None, subnet: bool = True) -> int:
        """Add a VLAN with its subnet to the plan."""
        number = 11 + len(self.vlans)
        entry: Tree = {"id": number, "name": name}
        entry |= {"subnets": [f"10.64.{number}.0/24"]} if subnet else {}
        self.vlans.append(entry | ({"purpose": purpose} if purpose else {}))
        return number

    def switch(self, name: str, **more: Any) -> Tree:
        """Add a switch."""
        made: Tree = {"name": name, "kind": "switch", "ports": [], "lags": [], **more}
        self.devices.append(made)
        return made

    def link(
        self, one: Tree, two: Tree, settings: tuple[Tree, Tree], boxes: tuple[str, str], wide: bool, protocol: str
    ) -> None:
        """Lay a cable, or a bundle of two, between two devices; each end as its settings say."""
        self.count += 1
        n = self.count
        for device, other, own in ((one, boxes[1], settings[0]), (two, boxes[0], settings[1])):
            name = (
                f"to-{other}"
                if not any(p["name"] == f"to-{other}" for p in (*device["ports"], *device["lags"]))
                else f"to-{other}-{n}"
            )
            if wide:
                device["lags"].append({"name": name, "protocol": protocol, **own})
                device["ports"] += [{"name": f"{n}{x}", "mode": "lag", "lag": name} for x in "ab"]
            else:
                device["ports"].append({"name": name, **own})
        ends = (
            [[f"{n}{x}" for x in "ab"], [f"{n}{x}" for x in "ab"]]
            if wide
            else [[one["ports"][-1]["name"]], [two["ports"][-1]["name"]]]
        )
        self.cables += [[f"{boxes[0]}:{a}", f"{boxes[1]}:{b}"] for a, b in zip(*ends, strict=True)]

    def host(self, switch: Tree, vlan: int, lease: bool, **more: Any) -> str:
        """Plug a host in, with an address of its own or a lease."""
        name = f"h{vlan}-{sum(d['kind'] == 'endpoint' for d in self.devices)}"
        port = f"p{len(switch['ports'])}"
        switch["ports"].append(access(port, vlan))
        own: Tree = (
            {"dhcp": True}
            if lease
            else {"addresses": [f"10.64.{vlan}.{20 + len(self.devices)}/24"], "gateway": f"10.64.{vlan}.1"}
        )
        self.devices.append({"name": name, "kind": "endpoint", **own, **more})
        self.cables.append([f"{switch['name']}:{port}", f"{name}:1"])
        return name

    def spare(self, switch: Tree, vlan: int) -> None:
        """Leave a port of a VLAN free, for somebody to plug in at."""
        switch["ports"].append(access(f"p{len(switch['ports'])}", vlan, note="Free on purpose"))


def sound_site(seed: int) -> Tree:
    """Return the tree of a sound site; the same for the same seed."""
    rng = Random(seed)
    s = Sound(rng)
    pair, bridge, inline, deck, inner = (rng.random() < x for x in (0.3, 0.4, 0.3, 0.6, 0.4))
    names = ["office", "crane", "shop"][: rng.randint(2, 3)]
    plain = [s.vlan(n) for n in names]
    protocols = ("static", "lacp-active")
    quay = s.switch("quay", stp_priority=4096)
    shed = s.switch("shed")
    rim = firewall(s, "rim", pair)
    outside(s)
    quay_side = rng.sample(plain, len(plain) - 1) if len(plain) > 2 else plain[:1]
    shed_side = [v for v in plain if v not in quay_side]
    style = rng.choice(("sub", "vlan", "sub"))
    gateways(s, rim, plain, style)
    transits: list[tuple[str, str]] = []
    uplink(s, rim, quay, plain, style, rng.random() < 0.5, rng.choice(protocols))
    native = rng.random() < 0.3
    carried = sorted(plain)
    s.link(quay, shed, *uplinks(carried, native), ("quay", "shed"), rng.random() < 0.5, rng.choice(protocols))
    for v, sw in [*((v, quay) for v in quay_side), *((v, shed) for v in shed_side), (plain[0], shed)]:
        s.host(sw, v, rng.random() < 0.4)
        s.spare(sw, v)
    if deck:
        transits.append(multilayer(s, rim, rng))
    if inner:
        transits.append(second_firewall(s, rim, rng))
    if bridge:
        transparent(s, quay, plain[0], rng)
    if inline:
        inline_pair(s, shed, plain[-1], rng)
    if pair:
        second_unit(s)
    more = Random(f"{seed}/ospf")
    if deck and more.random() < 0.5:
        learn(s, rim, more)
    air = Random(f"{seed}/air")
    if air.random() < 0.4:
        wireless(s, quay, plain, air)
    if seed >= ACROSS:
        across(s, rim, plain[0], Random(f"{seed}/bay"))

    expect(s, plain, bridge, inline)
    return {
        "anabasis": 1,
        "name": f"Harbour {seed}",
        "vlans": s.vlans,
        "addresses": [{"name": "inside", "members": ["10.64.0.0/16"]}],
        "devices": [{k: v for k, v in d.items() if v != []} for d in s.devices],
        "cables": s.cables,
        "expectations": s.expectations,
    }


def expect(s: Sound, plain: list[int], bridge: bool, inline: bool) -> None:
    """Say what the site is for: who gets out, who reaches whom, and that nobody comes in."""
    names = {v["id"]: v["name"] for v in s.vlans}
    inside = [v for v in s.vlans if v.get("purpose") is None and "subnets" in v]

    def open_(one: str, two: str, service: str, through: str = "") -> None:
        label = f"{one} to {two}{through}"
        s.expectations.append({"name": label, "from": one, "to": two, "services": [service], "expect": "open"})

    for vlan in inside:
        open_(vlan["name"], "internet", "https")
    open_(names[plain[0]], names[plain[1]], "ping")
    for name in {"lab", "store"} & set(names.values()):
        open_(names[plain[0]], name, "ssh")
    keep = next((d for d in s.devices if d["name"] == "keep"), None)
    if keep is not None and any(r["name"] == "in" for r in keep["rules"]):
        open_(names[plain[0]], "vault", "https", " inwards")
    if bridge:
        open_(f"10.64.{plain[0]}.77", "internet", "https")
    if inline:
        open_(f"10.64.{plain[-1]}.88", "internet", "https")
    s.expectations.append(
        {
            "name": "nobody from outside",
            "from": "internet",
            "to": inside[0]["name"],
            "services": ["ssh"],
            "expect": "closed",
        }
    )


def firewall(s: Sound, name: str, pair: bool = False) -> Tree:
    """Add a firewall that lets the house out and translates it."""
    made: Tree = {
        "name": name,
        "kind": "firewall",
        "zones": [{"name": "street"}, {"name": "house"}, {"name": "work"}],
        "vrfs": [{"name": "main", "routes": []}],
        "ports": [],
        "lags": [],
        "vlan_interfaces": [],
        "answers": [{"name": "pings", "services": ["ping"], "sources": ["inside"]}],
        "dhcp": [],
        "rules": [
            {"name": "out", "from": ["house", "work"], "to": ["street"], "sources": ["inside"], **ANY},
            {"name": "between", "from": ["house", "work"], "to": ["house", "work"], **ANY},
        ],
        "nat": [],
    }
    if pair:
        made["units"] = [
            {"name": f"{name}-a", "traits": {"model": "M1"}, "priority": 150},
            {"name": f"{name}-b", "traits": {"model": "M1"}},
        ]
        made["failover"] = {"heartbeats": ["hb1", "hb2"], "watch": [], "preempt": False, "sync_sessions": True, "secret": "own",
                            "drills": [{"at": "2026-03-02"}]}  # fmt: skip
    s.devices.append(made)
    return made


def box(device: Tree) -> str:
    """Return the box a device's cables go to first."""
    units = device.get("units")
    return str(units[0]["name"] if units else device["name"])


def outside(s: Sound) -> None:
    """Put the internet in front of the first firewall."""
    rim = next(d for d in s.devices if d["name"] == "rim")
    rim["ports"].append({"name": "s", "mode": "routed", "addresses": ["198.51.100.2/28"], "zone": "street"})
    rim["vrfs"][0]["routes"].append({"to": "0.0.0.0/0", "via": "198.51.100.1"})
    rim["nat"].append(
        {
            "name": "house-goes-out",
            "from": ["house", "work"],
            "to": ["street"],
            "sources": ["inside"],
            "source_to": "interface",
        }
    )
    if "units" in rim:
        ring = s.switch("ring")
        street = s.vlan("handover", "transit", subnet=False)
        ring["ports"] += [access(x, street) for x in ("a", "b", "up")]
        s.cables += [["ring:a", "rim-a:s"], ["ring:up", "internet:1"]]
    else:
        s.cables.append(["rim:s", "internet:1"])
    s.devices.append(
        {
            "name": "internet",
            "kind": "outside",
            "prefixes": ["0.0.0.0/0"],
            "ports": [{"name": "1", "addresses": ["198.51.100.1/28"]}],
        }
    )


def gateways(s: Sound, device: Tree, vlans: list[int], style: str) -> None:
    """Give a firewall the gateway and the lease of each VLAN."""
    for k, v in enumerate(vlans):
        own: Tree = {"addresses": [f"10.64.{v}.1/24"], "zone": ("house", "work")[k % 2], "answers": "pings"}
        lag = "to-quay"
        if style == "vlan":
            device["vlan_interfaces"].append({"vlan": v, **own})
        else:
            device.setdefault("_subs", []).append({"tag": v, **own})
        where = f"vlan{v}" if style == "vlan" else f"{lag}.{v}"
        device["dhcp"].append(
            {"interface": where, "ranges": [f"10.64.{v}.100-10.64.{v}.150"], "gateway": f"10.64.{v}.1", "lease_s": 3600}
        )


def uplink(s: Sound, device: Tree, switch: Tree, vlans: list[int], style: str, wide: bool, protocol: str) -> None:
    """Lead a firewall's VLANs to a switch: subinterfaces of a routed port, or a bridged port below VLAN interfaces."""
    if style == "vlan":
        device["zones"].append({"name": "floor", "kind": "bridged"})
        near: Tree = {"mode": "bridged", "tagged": list(vlans), "zone": "floor"}
    else:
        near = {"mode": "routed", "subinterfaces": device.pop("_subs")}
    s.link(device, switch, (near, {"tagged": list(vlans)}), (box(device), switch["name"]), wide, protocol)


def uplinks(vlans: list[int], native: bool) -> tuple[tuple[Tree, Tree]]:
    """Return both ends of a cable between switches: all tagged, or the first VLAN without a tag."""
    one: Tree = (
        {"tagged": list(vlans)} if not native else {"pvid": vlans[0], "untagged": [vlans[0]], "tagged": list(vlans[1:])}
    )
    return ((one, {k: list(v) if isinstance(v, list) else v for k, v in one.items()}),)


def multilayer(s: Sound, rim: Tree, rng: Random) -> tuple[str, str]:
    """Put a multilayer switch behind the firewall: two VLANs of its own, a transit link, routes both ways, a relay."""
    lab, store, way = s.vlan("lab"), s.vlan("store"), s.vlan("deck-link", "transit")
    deck: Tree = {
        "name": "deck", "kind": "switch", "routing": True, "ports": [], "lags": [],
        "vlan_interfaces": [
            {"vlan": lab, "addresses": [f"10.64.{lab}.1/24"]},
            {"vlan": store, "addresses": [f"10.64.{store}.1/24"]},
            {"vlan": way, "addresses": [f"10.64.{way}.2/24"]},
        ],
        "vrfs": [{"name": "main", "routes": [{"to": "0.0.0.0/0", "via": f"10.64.{way}.1"}]}],
        "dhcp": [{"interface": f"vlan{lab}", "ranges": [f"10.64.{lab}.100-10.64.{lab}.150"], "gateway": f"10.64.{lab}.1", "lease_s": 3600}],
    }  # fmt: skip
    s.devices.append(deck)
    near: Tree = {"mode": "routed", "addresses": [f"10.64.{way}.1/24"], "zone": "work", "answers": "pings"}
    s.link(rim, deck, (near, {"pvid": way, "untagged": [way]}), (box(rim), "deck"), rng.random() < 0.3, "lacp-active")
    rim["vrfs"][0]["routes"] += [{"to": f"10.64.{v}.0/24", "via": f"10.64.{way}.2"} for v in (lab, store)]
    s.host(deck, lab, rng.random() < 0.5)
    s.spare(deck, lab)
    s.host(deck, store, False)
    return "rim", "deck"


def second_firewall(s: Sound, rim: Tree, rng: Random) -> tuple[str, str]:
    """Put a second firewall in series: the first permits and translates once, this one as well or not at all."""
    vault, way = s.vlan("vault"), s.vlan("keep-link", "transit")
    keep = firewall(s, "keep")
    near: Tree = {"mode": "routed", "addresses": [f"10.64.{way}.1/24"], "zone": "work", "answers": "pings"}
    far: Tree = {"mode": "routed", "addresses": [f"10.64.{way}.2/24"], "zone": "street", "answers": "pings"}
    s.link(rim, keep, (near, far), (box(rim), "keep"), False, "static")
    keep["vrfs"][0]["routes"].append({"to": "0.0.0.0/0", "via": f"10.64.{way}.1"})
    if rng.random() < 0.5:
        keep["nat"].append(
            {
                "name": "vault-goes-out",
                "from": ["house"],
                "to": ["street"],
                "sources": [f"10.64.{vault}.0/24"],
                "source_to": "interface",
            }
        )
    else:
        rim["vrfs"][0]["routes"].append({"to": f"10.64.{vault}.0/24", "via": f"10.64.{way}.2"})
        keep["rules"].append(
            {
                "name": "in",
                "from": ["street"],
                "to": ["house"],
                "sources": ["inside"],
                "services": ["https", "ping"],
                "action": "permit",
            }
        )
    locker = s.switch("locker")
    own: Tree = {"addresses": [f"10.64.{vault}.1/24"], "zone": "house", "answers": "pings"}
    s.link(
        keep,
        locker,
        ({"mode": "routed", **own}, access("", vault) | {"name": ""})
        if False
        else ({"mode": "routed", "subinterfaces": [{"tag": vault, **own}]}, {"tagged": [vault]}),
        ("keep", "locker"),
        False,
        "static",
    )
    keep["dhcp"].append(
        {
            "interface": f"to-locker.{vault}",
            "ranges": [f"10.64.{vault}.100-10.64.{vault}.150"],
            "gateway": f"10.64.{vault}.1",
            "lease_s": 3600,
        }
    )
    keep["zones"] = [z for z in keep["zones"] if z["name"] != "work"]
    for rule in keep["rules"]:
        for key in ("from", "to"):
            rule[key] = [z for z in rule[key] if z != "work"]
    keep["rules"] = [r for r in keep["rules"] if r["name"] != "between"]
    s.host(locker, vault, rng.random() < 0.5)
    s.spare(locker, vault)
    return "rim", "keep"


def transparent(s: Sound, quay: Tree, vlan: int, rng: Random) -> None:
    """Put a transparent firewall between a switch and another: one VLAN on both sides, with another tag behind in half of the sites."""
    swapped = rng.random() < 0.5
    inside = s.vlan("slip", subnet=False) if swapped else vlan
    if swapped:
        s.vlans[-1]["purpose"] = "inside"
    veil: Tree = {
        "name": "veil", "kind": "firewall", "zones": [{"name": "near", "kind": "bridged"}, {"name": "far", "kind": "bridged"}],
        "ports": [], "lags": [],
        "rules": [{"name": "through", "from": ["near", "far"], "to": ["near", "far"], **ANY}],
    }  # fmt: skip
    s.devices.append(veil)
    slip = s.switch("slipway")
    s.link(
        quay,
        veil,
        ({"tagged": [vlan]}, {"mode": "bridged", "tagged": [vlan], "zone": "near"}),
        ("quay", "veil"),
        False,
        "static",
    )
    back: Tree = {"mode": "bridged", "tagged": [vlan], "zone": "far"} | (
        {"translate": {str(inside): vlan}} if swapped else {}
    )
    s.link(veil, slip, (back, {"tagged": [inside]}), ("veil", "slipway"), False, "static")
    s.devices.append(
        {
            "name": f"h{vlan}-slip",
            "kind": "endpoint",
            "addresses": [f"10.64.{vlan}.77/24"],
            "gateway": f"10.64.{vlan}.1",
        }
    )
    slip["ports"].append(access("p1", inside))
    s.cables.append(["slipway:p1", f"h{vlan}-slip:1"])


def inline_pair(s: Sound, shed: Tree, vlan: int, rng: Random) -> None:
    """Put an inline pair in front of one host."""
    guard: Tree = {
        "name": "guard", "kind": "firewall", "zones": [{"name": "front", "kind": "inline"}, {"name": "rear", "kind": "inline"}],
        "ports": [{"name": "1", "mode": "inline", "zone": "front"}, {"name": "2", "mode": "inline", "zone": "rear"}],
        "wires": [{"name": "line", "ends": ["1", "2"], "tags": rng.choice(("any", ["untagged"])), "follow_link": rng.random() < 0.5}],
        "rules": [{"name": "through", "from": ["front", "rear"], "to": ["front", "rear"], **ANY}],
    }  # fmt: skip
    s.devices.append(guard)
    shed["ports"].append(access("guarded", vlan))
    s.devices.append(
        {
            "name": f"h{vlan}-guarded",
            "kind": "endpoint",
            "addresses": [f"10.64.{vlan}.88/24"],
            "gateway": f"10.64.{vlan}.1",
        }
    )
    s.cables += [["shed:guarded", "guard:1"], ["guard:2", f"h{vlan}-guarded:1"]]


def learn(s: Sound, rim: Tree, rng: Random) -> None:
    """Let the firewall and the multilayer switch behind it learn from each other what they were told by hand."""
    deck = next(d for d in s.devices if d["name"] == "deck")
    names = {v["id"]: v["name"] for v in s.vlans}
    gone = [v for v in names if names[v] in ("lab", "store")]
    rim["vrfs"][0]["routes"] = [r for r in rim["vrfs"][0]["routes"] if r["to"] not in [f"10.64.{v}.0/24" for v in gone]]
    deck["vrfs"][0]["routes"] = []
    near = next(e["name"] for key in ("ports", "lags") for e in rim[key] if e["name"].startswith("to-deck"))
    link = {"network": "point-to-point"} if rng.random() < 0.5 else {}
    area = rng.choice(("0", "3"))
    rim["vrfs"][0]["ospf"] = {
        "router_id": "10.255.0.1", "interfaces": [{"interface": near, "area": area, **link}],
        "announce_default": "when-known", "redistribute": [{"from": "connected"}],
    }  # fmt: skip
    way = next(v for v in names if names[v] == "deck-link")
    deck["vrfs"][0]["ospf"] = {
        "router_id": "10.255.0.2",
        "interfaces": [{"interface": f"vlan{way}", "area": area, **link}]
        + [{"interface": f"vlan{v}", "area": area, "passive": True} for v in gone],
    }


def wireless(s: Sound, quay: Tree, plain: list[int], rng: Random) -> None:
    """Hang an access point on a switch: a wireless network a VLAN, with a client in the first, isolated in half of the sites."""
    mast: Tree = {"name": "mast", "kind": "access-point", "ports": [{"name": "up", "tagged": sorted(plain)}]}
    mast["ssids"] = [{"name": f"air-{v}", "vlan": v, "isolated": rng.random() < 0.5} for v in plain]
    quay["ports"].append({"name": "mast", "tagged": sorted(plain)})
    s.devices += [mast, {"name": f"h{plain[0]}-air", "kind": "endpoint", "dhcp": True}]
    s.cables += [["quay:mast", "mast:up"], [f"mast:air-{plain[0]}", f"h{plain[0]}-air:1"]]


def across(s: Sound, rim: Tree, vlan: int, rng: Random) -> None:
    """Put a box across the bay, and a tunnel to it: hosts of one VLAN and of the far side reach each other, and nobody else does."""
    protocol = rng.choice(("ipsec", "gre", "udp/1194"))
    here, there = f"10.64.{vlan}.0/24", "10.82.1.0/24"
    far = firewall(s, "bay")
    internet = next(d for d in s.devices if d["name"] == "internet")
    internet["ports"].append({"name": "2", "addresses": ["203.0.113.1/28"]})
    far["ports"] += [
        {"name": "s", "mode": "routed", "addresses": ["203.0.113.2/28"], "zone": "street"},
        {"name": "1", "mode": "routed", "addresses": ["10.82.1.1/24"], "zone": "house"},
    ]
    far["rules"] = []
    far["answers"] = []
    peers = (
        (rim, "198.51.100.2", "203.0.113.2", "1", here, there),
        (far, "203.0.113.2", "198.51.100.2", "2", there, here),
    )
    for box_, own, peer, last, mine, theirs in peers:
        said = {"protocol": protocol, "local": own, "peer": peer, "addresses": [f"10.99.0.{last}/30"], "zone": "ferry"}
        narrow = {"here": [mine], "there": [theirs]} if protocol == "ipsec" else {}
        box_["tunnels"] = [{"name": "ferry", **said, **narrow}]
        box_["vrfs"][0]["routes"].append({"to": theirs, "interface": "ferry"})
        box_["zones"].append({"name": "ferry"})
        over: Tree = {
            "name": "over",
            "from": ["house", "work"],
            "to": ["ferry"],
            "sources": [mine],
            "destinations": [theirs],
        }
        back: Tree = {
            "name": "back",
            "from": ["ferry"],
            "to": ["house", "work"],
            "sources": [theirs],
            "destinations": [mine],
        }
        box_["rules"] += [over | ANY, back | ANY]
    far["vrfs"][0]["routes"].append({"to": "0.0.0.0/0", "via": "203.0.113.1"})
    s.devices.append({"name": "window", "kind": "endpoint", "addresses": ["10.82.1.21/24"], "gateway": "10.82.1.1"})
    s.cables += [["internet:2", "bay:s"], ["bay:1", "window:1"]]
    name = next(v["name"] for v in s.vlans if v["id"] == vlan)
    s.expectations.append({"name": "over the bay", "from": name, "to": there, "services": ["https"], "expect": "open"})
    s.expectations.append(
        {"name": "back over the bay", "from": there, "to": name, "services": ["ssh"], "expect": "open"}
    )


def second_unit(s: Sound) -> None:
    """Cable the second unit of the first firewall as the first is, port by port, into the same segments."""
    rim = next(d for d in s.devices if d["name"] == "rim")
    rim["ports"] += [{"name": "hb1", "mode": "heartbeat"}, {"name": "hb2", "mode": "heartbeat"}]
    devices = {d["name"]: d for d in s.devices}
    for one, two in list(s.cables):
        if two.startswith("rim-a:"):
            one, two = two, one
        if not one.startswith("rim-a:"):
            continue
        port = one.split(":")[1]
        far, peer = two.split(":")
        if far == "ring":
            s.cables.append(["rim-b:s", "ring:b"])
            continue
        device = devices[far]
        settings = next(p for p in device["ports"] if p["name"] == peer)
        copy = {k: list(v) if isinstance(v, list) else v for k, v in settings.items()} | {"name": f"{peer}-b"}
        if settings.get("mode") == "lag":
            lag = next(x for x in device["lags"] if x["name"] == settings["lag"])
            copy["lag"] = lag["name"] + "-b"
            if not any(x["name"] == copy["lag"] for x in device["lags"]):
                device["lags"].append(
                    {k: list(v) if isinstance(v, list) else v for k, v in lag.items()} | {"name": copy["lag"]}
                )
        if far == "keep":  # a second firewall hangs on a switch between the two units
            continue
        device["ports"].append(copy)
        s.cables.append([f"rim-b:{port}", f"{far}:{peer}-b"])
    s.cables += [["rim-a:hb1", "rim-b:hb1"], ["rim-a:hb2", "rim-b:hb2"]]
    if "keep" in devices:
        hop = s.switch("hop")
        way = next(v["id"] for v in s.vlans if v["name"] == "keep-link")
        hop["ports"] += [access(x, way) for x in ("a", "b", "k")]
        k = next(i for i, c in enumerate(s.cables) if "keep:" in c[0] + c[1] and "rim-a:" in c[0] + c[1])
        mine = next(e for e in s.cables[k] if e.startswith("rim-a:"))
        theirs = next(e for e in s.cables[k] if e.startswith("keep:"))
        s.cables[k] = [mine, "hop:a"]
        s.cables += [[mine.replace("rim-a", "rim-b"), "hop:b"], ["hop:k", theirs]]
    rim["failover"]["watch"] = [
        p["name"] for p in (*rim["ports"], *rim["lags"]) if p.get("mode") in ("routed", "bridged")
    ]


__all__ = ["sound_site", "trunk"]
