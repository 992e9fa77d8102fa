"""Builders and strategies: small sites, sound or broken in any way a person may break them."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

from hypothesis import strategies as st

from anabasis.design import Design, parse_design

Tree = dict[str, Any]
VLANS = (11, 12, 13)


def design_of(**parts: Any) -> Design:
    """Return a checked design from its parts."""
    return parse_design({"anabasis": 1, "name": "Test", **parts})


def plan(*ids: int) -> list[Tree]:
    """Return plan entries with one subnet each."""
    return [{"id": v, "name": f"v{v}", "subnets": [f"10.64.{v}.0/24"]} for v in ids]


def access(name: str, vlan: int, **more: Any) -> Tree:
    """Return an access port."""
    return {"name": name, "pvid": vlan, "untagged": [vlan], **more}


def trunk(name: str, *tags: int, **more: Any) -> Tree:
    """Return a trunk port."""
    return {"name": name, "tagged": list(tags), **more}


def switch(name: str, *ports: Tree, **more: Any) -> Tree:
    """Return a switch."""
    return {"name": name, "kind": "switch", "ports": list(ports), **more}


some_vlans = st.lists(st.sampled_from(VLANS), unique=True, max_size=3).map(sorted)


@st.composite
def bridged_ports(draw: st.DrawFn, name: str) -> Tree:
    """Return any bridged port: mostly an access port or a trunk, sometimes something odd."""
    shape = draw(st.sampled_from(("access", "access", "trunk", "odd")))
    if shape == "access":
        return access(name, draw(st.sampled_from(VLANS)))
    tagged = draw(some_vlans)
    if shape == "trunk":
        return trunk(name, *tagged)
    untagged = draw(some_vlans)
    port: Tree = {"name": name, "tagged": [v for v in tagged if v not in untagged], "untagged": untagged}
    pvid = draw(st.sampled_from((None, *VLANS)))
    port |= {"pvid": pvid} if pvid else {}
    port |= draw(
        st.sampled_from(
            ({}, {}, {"ingress_check": False}, {"accept": "tagged"}, {"isolated": True}, {"enabled": False})
        )
    )
    return port


def _uplinks(draw: st.DrawFn, names: list[str]) -> tuple[dict[str, list[Tree]], list[list[str]]]:
    """Return uplink ports by switch, and the cables between them: a chain, each end drawn by itself."""
    ports: dict[str, list[Tree]] = {n: [] for n in names}
    cables = []
    for one, two in pairwise(names):
        near, far = f"u{two}", f"u{one}"
        whole = draw(st.booleans())
        ports[one].append(trunk(near, *VLANS) if whole else draw(bridged_ports(near)))
        ports[two].append(trunk(far, *VLANS) if whole else draw(bridged_ports(far)))
        cables.append([f"{one}:{near}", f"{two}:{far}"])
    return ports, cables


@st.composite
def rules(draw: st.DrawFn, zones: list[str]) -> list[Tree]:
    """Return an ordered policy."""
    addresses = st.sampled_from(
        (
            "any",
            "10.64.11.0/24",
            "10.64.12.0/25",
            "10.64.12.7",
            "10.64.13.10-10.64.13.20",
            "fd64::/32",
            "192.0.2.0/24",
            "some",
        )
    )
    services = st.sampled_from(("any", "tcp/80-90", "tcp/85", "udp/53", "ping", "icmp", "gre", "mixed"))
    zone = st.sampled_from([*zones, "any", "any"])
    out = []
    for i in range(draw(st.integers(0, 4))):
        out.append(
            {
                "name": f"r{i}",
                "from": draw(st.lists(zone, min_size=1, max_size=2)),
                "to": draw(st.lists(zone, min_size=1, max_size=2)),
                "sources": draw(st.lists(addresses, min_size=1, max_size=2)),
                "destinations": draw(st.lists(addresses, min_size=1, max_size=2)),
                "services": draw(st.lists(services, min_size=1, max_size=2)),
                "action": draw(st.sampled_from(("permit", "permit", "drop", "refuse"))),
                "enabled": draw(st.sampled_from((True, True, True, False))),
            }
        )
    return out


@st.composite
def translations(draw: st.DrawFn, zones: list[str]) -> list[Tree]:
    """Return an ordered list of translations: hiding, pools, one-to-one, published addresses and ports, redirections."""
    zone = st.sampled_from([*zones, "any"])
    shapes: tuple[Tree, ...] = (
        {"source_to": "interface"},
        {"sources": ["10.64.0.0/16"], "source_to": "interface"},
        {"sources": ["10.64.12.0/25"], "source_to": "198.51.100.5-198.51.100.6"},
        {"sources": ["10.64.11.0/29"], "source_to": "198.51.100.8/29", "one_to_one": True},
        {"sources": ["10.64.11.4/30"], "source_to": "203.0.113.4/30", "one_to_one": True},
        {"destinations": ["198.51.100.4"], "destination_to": "10.64.12.7"},
        {"destinations": ["198.51.100.2"], "services": ["tcp/80-90"], "destination_to": "10.64.11.9"},
        {
            "destinations": ["198.51.100.2"],
            "services": ["tcp/8080-8090"],
            "destination_to": "10.64.12.9",
            "service_to": "tcp/80-90",
        },
        {"services": ["udp/53"], "destination_to": "10.64.12.9"},
        {"destinations": ["203.0.113.0/29"], "destination_to": "10.64.11.0/29"},
        {"destinations": ["198.51.100.4"], "destination_to": "10.64.13.15", "source_to": "interface"},
        {"destinations": ["10.64.13.0/24"], "services": ["tcp/85"], "service_to": "tcp/443"},
    )
    out = []
    for i in range(draw(st.integers(0, 3))):
        ends = {
            "from": draw(st.lists(zone, min_size=1, max_size=2)),
            "to": draw(st.lists(zone, min_size=1, max_size=2)),
        }
        out.append({"name": f"n{i}", **ends, **draw(st.sampled_from(shapes))})
    return out


@st.composite
def firewalls(draw: st.DrawFn) -> Tree:
    """Return a firewall on the first switch: a trunk with a subinterface a VLAN, one to the street; some of it missing."""
    zones = [{"name": z, "kind": draw(st.sampled_from(("routed",) * 7 + ("bridged",)))} for z in ("in", "mid", "out")]
    names = ["in", "mid", "out"]
    zone = st.sampled_from(("in", "in", "mid", "mid", "out", None))
    subinterfaces = []
    for v in draw(some_vlans) or [VLANS[0]]:
        own = draw(zone)
        addresses = [f"10.64.{v}.1/24"] + ([f"fd64:0:0:{v}::1/64"] if draw(st.booleans()) else [])
        quiet = {"announce": False} if draw(st.integers(0, 4)) == 0 else {}
        subinterfaces.append({"tag": v, "addresses": addresses, **quiet} | ({"zone": own} if own else {}))
    routes: list[Tree] = []
    if draw(st.integers(0, 4)):
        routes.append({"to": "0.0.0.0/0", "via": "198.51.100.1"})
    if draw(st.booleans()):
        routes.append({"to": "10.64.13.0/24", "via": draw(st.sampled_from(("10.64.12.2", "10.64.11.2", "10.64.99.9")))})
    if draw(st.integers(0, 3)) == 0:  # two equal ways
        routes += [{"to": "10.64.13.0/24", "via": v} for v in ("10.64.12.2", "10.64.11.2")]
    if draw(st.integers(0, 5)) == 0:
        routes.append({"to": "192.0.2.128/25", "discard": True})
    beyond: list[Tree] = []
    if draw(st.integers(0, 3)) == 0 and len(subinterfaces) > 1:  # a VRF of its own, and what leads there and back
        subinterfaces[-1]["vrf"] = "lab"
        subnet = f"10.64.{subinterfaces[-1]['tag']}.0/24"
        routes += [{"to": subnet, "vrf": "lab"}] if draw(st.integers(0, 2)) else []
        beyond = [{"to": "0.0.0.0/0", "vrf": "main"}] if draw(st.integers(0, 2)) else []
    street = {"name": "s", "mode": "routed", "addresses": ["198.51.100.2/28"], "zone": "out"}
    fence = {
        "name": "fw",
        "kind": "firewall",
        "zones": zones,
        "vrfs": [{"name": "main", "routes": routes}, {"name": "lab", "routes": beyond}],
    }
    fence["nat"] = draw(translations(names)) if draw(st.booleans()) else []
    fence["rules"] = draw(rules(names))
    fence["ports"] = [{"name": "t", "mode": "routed", "subinterfaces": subinterfaces}, street]
    fence |= draw(st.sampled_from(({}, {}, {"same_zone": "drop"}, {"between_zones": "permit"})))
    return fence


@st.composite
def inner_router(draw: st.DrawFn) -> Tree:
    """Return a multilayer switch between VLANs 12 and 13, which routes past the firewall."""
    routes = (
        [{"to": "0.0.0.0/0", "via": draw(st.sampled_from(("10.64.12.1", "10.64.13.1")))}] if draw(st.booleans()) else []
    )
    made: Tree = {
        "name": "ml",
        "kind": "switch",
        "routing": True,
        "ports": [trunk("1", 12, 13), access("2", 13)],
        "vlan_interfaces": [{"vlan": 12, "addresses": ["10.64.12.2/24"]}, {"vlan": 13, "addresses": ["10.64.13.2/24"]}],
        "vrfs": [{"name": "main", "routes": routes}],
    }
    if draw(st.booleans()):
        made["nat"] = draw(translations(["vlan12", "vlan13"]))
    if draw(st.integers(0, 3)) == 0:
        made["between_networks"] = "closed"
        for interface in made["vlan_interfaces"]:
            interface["routed_to_others"] = draw(st.booleans())
    return made


@st.composite
def fences(draw: st.DrawFn) -> Tree:
    """Return a firewall that stands in an uplink unseen: two bridged ports, or an inline pair."""
    inline = draw(st.booleans())
    kind = draw(st.sampled_from(("inline" if inline else "bridged",) * 5 + ("routed",)))
    zones = [{"name": "left", "kind": kind, "filter_inside": draw(st.booleans())}, {"name": "right", "kind": kind}]
    held = st.sampled_from(({"zone": "left"}, {"zone": "right"}, {"zone": "right"}, {}))
    ports = []
    for name in ("1", "2"):
        port = {"name": name, "mode": "inline"} if inline else draw(bridged_ports(name)) | {"mode": "bridged"}
        if not inline and draw(st.booleans()):
            port = trunk(name, *VLANS, mode="bridged")
        ports.append(port | draw(held))
    fence: Tree = {"name": "fence", "kind": "firewall", "zones": zones, "ports": ports}
    if inline:
        tags = draw(st.sampled_from(("any", "any", [11, "untagged"], [12, 13])))
        fence["wires"] = [{"name": "pair", "ends": ["1", "2"], "tags": tags, "follow_link": draw(st.booleans())}]
    if not inline and draw(st.booleans()):
        fence["vlan_interfaces"] = [{"vlan": 12, "addresses": ["10.64.12.5/24"]}]
    fence["rules"] = draw(rules(["left", "right"]))
    return fence


@st.composite
def domain_of(draw: st.DrawFn, interfaces: list[str], router_id: str) -> Tree:
    """Return how one router takes part in OSPF, mostly so that it has neighbours."""
    said = [
        {
            "interface": name,
            "area": draw(st.sampled_from("0001")),
            "cost": draw(st.integers(1, 3)),
            "passive": draw(st.sampled_from((False, False, True))),
        }
        for name in draw(st.lists(st.sampled_from(interfaces), unique=True, max_size=4))
    ]
    told: list[Tree] = [{"from": draw(st.sampled_from(("connected", "static"))), "type": draw(st.sampled_from((1, 2)))}]
    default = draw(st.sampled_from(("never", "when-known", "always")))
    return {
        "router_id": router_id,
        "interfaces": said,
        "redistribute": told if draw(st.booleans()) else [],
        "announce_default": default,
    }


@st.composite
def steered(draw: st.DrawFn, hops: tuple[str, ...], entered: list[str]) -> Tree:
    """Return a policy route: by source, by service, by the interface packets come in by, or by several of them."""
    to = draw(st.sampled_from(("0.0.0.0/0", "0.0.0.0/0", "10.64.13.0/24", "10.64.11.0/24", "203.0.113.0/24", "some")))
    ways: tuple[Tree, ...] = tuple({"via": h} for h in hops) * 2 + ({"discard": True},)
    made = {"to": to, **draw(st.sampled_from(ways))}
    sources = ["10.64.12.0/24"], ["10.64.11.0/24"], ["some"], ["10.64.13.0/25"]
    services = ["tcp/443"], ["mixed"], ["udp"], ["icmp/0-255"], ["tcp"]
    kinds = draw(st.sets(st.sampled_from(("sources", "services", "entered")), min_size=1))
    if "sources" in kinds or not entered:
        made["sources"] = draw(st.sampled_from(sources))
    if "services" in kinds:
        made["services"] = draw(st.sampled_from(services))
    if "entered" in kinds and entered:
        made["entered"] = draw(st.lists(st.sampled_from(entered), min_size=1, max_size=2, unique=True))
    return made


@st.composite
def filtered(draw: st.DrawFn, device: Tree, interfaces: list[Tree]) -> None:
    """Put a stateless filter on some interfaces of a box, one way or both."""
    some = st.sampled_from(("any", "any", "some", "10.64.12.0/24", "10.64.11.0/24", "203.0.113.0/24", "10.64.12.9"))
    what = st.sampled_from(
        ("any", "any", "mixed", "tcp/443", "tcp/0-65535", "udp/53", "icmp/0-255", "icmp/0", "ping", "proto/47")
    )
    entries = [
        {
            "sources": [draw(some)],
            "destinations": [draw(some)],
            "services": draw(st.lists(what, min_size=1, max_size=2, unique=True)),
            "established": draw(st.sampled_from((False, False, True))),
            "action": draw(st.sampled_from(("permit", "permit", "drop"))),
        }
        for _ in range(draw(st.integers(0, 4)))
    ]
    device["filters"] = [{"name": "sieve", "entries": [*entries, *draw(st.sampled_from(([], [{"action": "permit"}])))]}]
    for interface in draw(st.lists(st.sampled_from(interfaces), min_size=1, max_size=2, unique_by=id)):
        interface[draw(st.sampled_from(("filter_in", "filter_out")))] = "sieve"


@st.composite
def tunnelled(draw: st.DrawFn, fence: Tree, inner: Tree) -> None:
    """Put a tunnel between the firewall and the inner router, over VLAN 12, mostly so that it comes up; and what leads into it."""
    protocol = draw(st.sampled_from(("ipsec", "gre", "gre", "udp/1194")))
    some = st.sampled_from(([], [], ["10.64.0.0/16"], ["10.64.13.0/24"], ["10.64.11.0/24", "10.64.12.0/24"]))
    ends = []
    for own, other, inside in (("10.64.12.1", "10.64.12.2", "1"), ("10.64.12.2", "10.64.12.1", "2")):
        peer = draw(st.sampled_from((other, other, other, "any")))
        said = {"local": own, "peer": peer, "here": draw(some), "there": draw(some)}
        ends.append({"name": "bay", "protocol": protocol, "addresses": [f"10.99.0.{inside}/30"], **said})
    ends[0] |= draw(st.sampled_from(({"zone": "in"}, {"zone": "mid"}, {"zone": "mid"}, {})))
    fence["tunnels"], inner["tunnels"] = ends[:1], ends[1:]
    for box, goals, hop in (
        (fence, ("10.64.13.0/24", "10.64.13.0/25"), "10.99.0.2"),
        (inner, ("0.0.0.0/0", "10.64.11.0/24"), "10.99.0.1"),
    ):
        to = draw(st.sampled_from(goals))
        box["vrfs"][0]["routes"].append({"to": to} | draw(st.sampled_from(({"interface": "bay"}, {"via": hop}))))


@st.composite
def client(draw: st.DrawFn, fence: Tree, street: Tree) -> None:
    """Let the firewall dial out: a tunnel to the street, which takes one, mostly of the same protocol."""
    spoken = st.sampled_from(("ipsec", "ipsec", "gre", "udp/1194"))
    end = {
        "name": "far",
        "local": "s",
        "peer": "203.0.113.77",
        "protocol": draw(spoken),
        "zone": draw(st.sampled_from(("in", "mid", "out"))),
    }
    end |= {"addresses": ["10.99.9.1/30"]} if draw(st.integers(0, 4)) else {}
    end |= draw(st.sampled_from(({}, {"there": ["10.90.0.0/25"]}, {"here": ["10.64.12.0/24"]})))
    fence.setdefault("tunnels", []).append(end)
    street["offers"] = [{"name": "theirs", "protocol": draw(spoken), "prefixes": ["10.90.0.0/24"]}]
    if draw(st.integers(0, 3)):
        fence["vrfs"][0]["routes"].append(
            {"to": draw(st.sampled_from(("10.90.0.0/24", "10.90.0.0/16"))), "interface": "far"}
        )


@st.composite
def dialled(draw: st.DrawFn, fence: Tree) -> None:
    """Let hosts dial in to the firewall."""
    routes = draw(st.sampled_from(("all", ["10.64.0.0/16"], ["10.64.12.0/25"])))
    zone = draw(st.sampled_from(({"zone": "in"}, {"zone": "mid"}, {})))
    protocol = draw(st.sampled_from(("ipsec", "tcp/443")))
    entry = {"name": "home", "interface": "s", "pool": "10.9.0.0/28", "routes": routes, "protocol": protocol}
    fence["remote_access"] = [entry | zone]


@st.composite
def access_points(draw: st.DrawFn) -> Tree:
    """Return an access point with a few wireless networks."""
    ssids = [
        {"name": f"air{k}", "vlan": draw(st.sampled_from(VLANS)), "isolated": draw(st.booleans())}
        for k in range(draw(st.integers(1, 2)))
    ]
    uplink = trunk("1", *VLANS) if draw(st.booleans()) else draw(bridged_ports("1"))
    return {"name": "ap", "kind": "access-point", "ports": [uplink], "ssids": ssids}


@st.composite
def sites(draw: st.DrawFn) -> Tree:
    """Return the tree of a small site, valid but often broken."""
    names = [f"sw{i}" for i in range(draw(st.integers(1, 3)))]
    uplinks, cables = _uplinks(draw, names)
    devices = []
    sound = draw(st.booleans())
    for name in names:
        edge = [draw(bridged_ports(f"p{k}")) for k in range(draw(st.integers(1, 3)))]
        edge += [access(f"q{v}", v) for v in VLANS] if sound else []
        devices.append(switch(name, *edge, *uplinks[name]))
    first = devices[0]["ports"]
    if draw(st.integers(0, 5)):
        first.append(draw(bridged_ports("fw")) if draw(st.integers(0, 4)) == 0 else trunk("fw", *VLANS))
        devices.append(draw(firewalls()))
        back = [{"to": "10.64.0.0/16", "via": "198.51.100.2"}] if draw(st.integers(0, 4)) else []
        back += [{"to": "203.0.113.0/24", "via": "198.51.100.2"}] if draw(st.booleans()) else []
        street = {"name": "internet", "kind": "outside", "prefixes": ["0.0.0.0/0"], "routes": back}
        street["accepts_private"] = draw(st.integers(0, 3)) > 0
        street["ports"] = [{"name": "1", "addresses": draw(st.sampled_from((["198.51.100.1/28"], [])))}]
        devices.append(street)
        cables += [[f"{names[0]}:fw", "fw:t"], ["fw:s", "internet:1"]]
    if cables and len(names) > 1 and draw(st.booleans()):
        devices.append(draw(fences()))
        one, two = cables[0]
        cables[0:1] = [[one, "fence:1"], ["fence:2", two]]
    if (
        draw(st.integers(0, 4)) == 0 and len(names) > 1
    ):  # a second cable between two switches: a loop for the tree to cut
        devices[0]["ports"].append(trunk("loop", *VLANS))
        devices[1]["ports"].append(draw(bridged_ports("loop")))
        cables.append(["sw0:loop", "sw1:loop"])
    if draw(st.booleans()):
        last = devices[len(names) - 1]["ports"]
        last.append(trunk("ml", 12, 13))
        devices.append(draw(inner_router()))
        cables.append([f"{names[-1]}:ml", "ml:1"])
    boxes = {d["name"]: d for d in devices}
    if {"fw", "ml"} <= boxes.keys() and draw(st.integers(0, 2)) == 0:
        tags = [s["tag"] for s in boxes["fw"]["ports"][0]["subinterfaces"] if "vrf" not in s]
        boxes["fw"]["vrfs"][0]["ospf"] = draw(domain_of([f"t.{v}" for v in tags] + ["s"], "10.255.0.1"))
        boxes["ml"]["vrfs"][0]["ospf"] = draw(domain_of(["vlan12", "vlan13"], "10.255.0.2"))
    for name, hops in (("fw", ("10.64.12.2", "198.51.100.1")), ("ml", ("10.64.12.1",))):
        if name in boxes and draw(st.integers(0, 5)) == 0:
            boxes[name]["vrfs"][0]["routes"].append({"to": "some", "via": draw(st.sampled_from(hops))})
    for name, hops, entered in (
        ("fw", ("10.64.12.2", "198.51.100.1", "10.64.11.2"), ("s", "t.12", "t.11")),
        ("ml", ("10.64.12.1", "10.64.13.1"), ("vlan12", "vlan13")),
    ):
        if name in boxes and draw(st.integers(0, 3)) == 0:
            subs = boxes["fw"]["ports"][0]["subinterfaces"] if "fw" in boxes else []
            known = {"s", "vlan12", "vlan13", *(f"t.{x['tag']}" for x in subs)}
            mine = [e for e in entered if e in known]
            boxes[name]["vrfs"][0]["routes"] += draw(st.lists(steered(hops, mine), min_size=1, max_size=2))
    if "ml" in boxes and draw(st.integers(0, 3)) == 0:
        draw(filtered(boxes["ml"], boxes["ml"]["vlan_interfaces"]))
    if {"fw", "ml"} <= boxes.keys() and draw(st.integers(0, 3)) == 0:
        draw(tunnelled(boxes["fw"], boxes["ml"]))
    if "fw" in boxes and draw(st.integers(0, 4)) == 0:
        draw(dialled(boxes["fw"]))
    if "fw" in boxes and draw(st.integers(0, 4)) == 0:
        draw(client(boxes["fw"], boxes["internet"]))
    if "fw" in boxes and draw(st.integers(0, 5)) == 0:
        draw(filtered(boxes["fw"], [boxes["fw"]["ports"][1], *boxes["fw"]["ports"][0]["subinterfaces"]]))
    if draw(st.booleans()):
        address = draw(st.sampled_from(("10.64.11.9/24", "10.64.12.9/24", "10.64.13.15/24")))
        gateway = draw(st.sampled_from(({}, {}, {"gateway": "10.64.12.2"}, {"gateway": "10.64.11.1"})))
        devices.append({"name": "host", "kind": "endpoint", "addresses": [address], **gateway})
        cables.append([f"{names[0]}:p0", "host:1"])
    if draw(st.integers(0, 3)) == 0:
        devices[len(names) - 1]["ports"].append(
            trunk("ap", *VLANS) if draw(st.booleans()) else draw(bridged_ports("ap"))
        )
        devices.append(draw(access_points()))
        cables.append([f"{names[-1]}:ap", "ap:1"])
        if draw(st.booleans()):
            devices.append({"name": "pad", "kind": "endpoint", "addresses": ["10.64.12.19/24"]})
            cables.append(["ap:air0", "pad:1"])
    return {
        "anabasis": 1,
        "name": "Generated",
        "vlans": plan(*VLANS),
        "addresses": [{"name": "some", "members": ["10.64.11.4/30", "10.64.12.9"]}],
        "services": [{"name": "mixed", "members": ["tcp/88-443", "udp/500", "icmp/8"]}],
        "devices": devices,
        "cables": cables,
    }
