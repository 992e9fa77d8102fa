"""A small fabric: two or three leaves on a spine, each with tenants' VLANs and tables."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st

from tests.sites import Tree, filtered, plan


def leaf(number: int, *tenants: Tree, hosts: tuple[int, ...] = ()) -> Tree:
    """Return leaf `l{number}`: a link to the spine, a loopback, and what each tenant says; a port a VLAN of `hosts`."""
    ports = [{"name": "up", "mode": "routed", "addresses": [f"10.0.{number}.1/31"]}]
    ports += [{"name": f"h{v}", "pvid": v, "untagged": [v]} for v in hosts]
    ospf = {
        "router_id": f"10.255.0.{number}",
        "interfaces": [{"interface": "up", "network": "point-to-point"}, {"interface": "lo", "passive": True}],
    }
    return {
        "name": f"l{number}",
        "kind": "switch",
        "routing": True,
        "ports": ports,
        "loopbacks": [{"name": "lo", "addresses": [f"10.255.0.{number}/32"]}],
        "vlan_interfaces": [i for t in tenants for i in t["vlan_interfaces"]],
        "mac_vrfs": [m for t in tenants for m in t["mac_vrfs"]],
        "vrfs": [{"name": "main", "ospf": ospf}, *(v for t in tenants for v in t["vrfs"])],
    }


def tenant(
    name: str,
    number: int,
    leaf_number: int,
    *vlans: int,
    mac: dict[str, Any] | None = None,
    ip: dict[str, Any] | None = None,
) -> Tree:
    """Return what a leaf says of a tenant: `number` makes its targets and VNIs, each VLAN has the gateway 10.50.{vlan}.1."""
    target = [f"65000:{number}"]
    mac_vrf = {
        "name": name,
        "vlans": [{"vlan": v, "vni": 5000 + v, "irb": v} for v in vlans],
        "rd": f"10.255.0.{leaf_number}:{number}",
        "import": target,
        "export": target,
        "source": "lo",
    }
    vrf = {
        "name": name,
        "rd": f"10.255.0.{leaf_number}:{number + 100}",
        "import": [f"65000:{number + 100}"],
        "export": [f"65000:{number + 100}"],
        "vni": 9000 + number,
        "advertise": "connected",
    }
    return {
        "vlan_interfaces": [{"vlan": v, "addresses": [f"10.50.{v}.1/24"], "vrf": name} for v in vlans],
        "mac_vrfs": [mac_vrf | (mac or {})],
        "vrfs": [vrf | (ip or {})],
    }


def fabric(leaves: list[Tree], hosts: dict[str, tuple[str, int, int]]) -> Tree:
    """Return a spine with leaves. `hosts`: name -> (leaf, VLAN, last number of its address)."""
    count = len(leaves)
    spine: Tree = {
        "name": "spine",
        "kind": "router",
        "ports": [{"name": str(k), "addresses": [f"10.0.{k}.0/31"]} for k in range(1, count + 1)],
        "vrfs": [
            {
                "name": "main",
                "ospf": {
                    "router_id": "10.255.0.99",
                    "interfaces": [{"interface": str(k), "network": "point-to-point"} for k in range(1, count + 1)],
                },
            }
        ],
    }
    ends: list[Tree] = [
        {"name": n, "kind": "endpoint", "addresses": [f"10.50.{v}.{k}/24"], "gateway": f"10.50.{v}.1"}
        for n, (_, v, k) in hosts.items()
    ]
    cables = [[f"spine:{k}", f"l{k}:up"] for k in range(1, count + 1)]
    cables += [[f"{at}:h{v}", f"{n}:1"] for n, (at, v, _) in hosts.items()]
    vlans = sorted({i["vlan"] for x in leaves for i in x["vlan_interfaces"]} | {v for _, v, _ in hosts.values()})
    return {
        "anabasis": 1,
        "name": "Fabric",
        "vlans": [p | {"subnets": [f"10.50.{p['id']}.0/24"]} for p in plan(*vlans)],
        "devices": [*leaves, spine, *ends],
        "cables": cables,
    }


TENANTS = {"ash": 10, "birch": 30}
TARGETS = st.lists(st.sampled_from(("1:1", "1:2", "1:3")), max_size=2, unique=True)


@st.composite
def tenancies(draw: st.DrawFn) -> Tree:
    """Return a fabric of two or three leaves with a few tenants, valid and often broken: VNIs, targets, gateways, the underlay."""
    count, hosts = draw(st.integers(2, 3)), dict[str, tuple[str, int, int]]()
    leaves: list[Tree] = []
    anycast = draw(st.booleans())
    for k in range(1, count + 1):
        parts, inside = [], list[int]()
        for name in draw(st.lists(st.sampled_from(tuple(TENANTS)), min_size=1, max_size=2, unique=True)):
            vlans = draw(
                st.lists(st.sampled_from((TENANTS[name], TENANTS[name] + 1)), min_size=1, max_size=2, unique=True)
            )
            inside += vlans
            parts.append(draw(_part(name, k, vlans, anycast)))
        at = leaf(k, *parts, hosts=tuple(inside))
        if not draw(st.integers(0, 7)):
            at["vrfs"][0]["ospf"]["interfaces"][draw(st.integers(0, 1))]["area"] = "5"
        if not draw(st.integers(0, 5)):
            draw(filtered(at, [at["ports"][0], *at["vlan_interfaces"][:1]]))
        leaves.append(at)
        for v in draw(st.lists(st.sampled_from(inside), max_size=2, unique=True)):
            hosts[f"h{k}{v}"] = f"l{k}", v, 10 + k
    tree = fabric(leaves, hosts)
    for device in tree["devices"]:
        if device["kind"] == "endpoint" and not anycast:
            vlan, number = device["addresses"][0].split(".")[2], device["name"][1]
            device["gateway"] = f"10.50.{vlan}.{number}"
    tree["addresses"] = [{"name": "some", "members": ["10.50.10.0/25", "10.50.30.0/24", "10.255.0.1"]}]
    tree["services"] = [{"name": "mixed", "members": ["udp/4789", "tcp/443", "icmp/8"]}]
    return tree


@st.composite
def _part(draw: st.DrawFn, name: str, number: int, vlans: list[int], anycast: bool) -> Tree:
    """Return what one leaf says of one tenant."""
    mostly = draw(st.booleans())
    own = [f"1:{1 if name == 'ash' else 2}"]
    targets = st.just(own) if mostly else TARGETS
    stretched = [
        {"vlan": v, "vni": 5000 + v + (0 if mostly or draw(st.integers(0, 4)) else 100)}
        | ({"irb": v} if draw(st.integers(0, 4)) else {})
        for v in vlans
        if draw(st.integers(0, 6))
    ]
    advertise = draw(st.sampled_from(("connected", "connected", [f"10.50.{vlans[0]}.0/24"], [])))
    ip = {
        "import": draw(targets),
        "export": draw(targets),
        "vni": draw(st.sampled_from((9000 + TENANTS[name], 9000 + TENANTS[name], None))),
        "irb_mode": draw(st.sampled_from((None, "symmetric", "asymmetric"))),
        "advertise": advertise,
        "source": "lo",
    }
    mac = {"vlans": stretched, "import": draw(targets), "export": draw(targets)}
    part = tenant(name, TENANTS[name], number, *vlans, mac=mac, ip=ip)
    for i in part["vlan_interfaces"]:
        if not anycast:
            i["addresses"] = [f"10.50.{i['vlan']}.{number}/24"]
        if not draw(st.integers(0, 7)):
            i["vrf"] = draw(st.sampled_from(("main", name)))
    return part
