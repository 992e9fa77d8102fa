"""Sound fabrics, different for every seed: two tenants on two or three leaves, a border to a firewall, and what each of them is for."""

from __future__ import annotations

from random import Random

from tests.sites import Tree
from tests.tunnels.tenants import TENANTS, fabric, leaf, tenant

FABRICS = 20_000
"""From which seed on a sound site is a fabric."""


def sound_fabric(seed: int) -> Tree:
    """Return the tree of a sound fabric; the same for the same seed."""
    rng = Random(seed)
    count = rng.choice((2, 3))
    modes = {name: rng.choice(("symmetric", "asymmetric")) for name in TENANTS}
    alone = {name: rng.randint(2, count) for name in TENANTS}
    border = rng.random() < 0.7
    hosts: dict[str, tuple[str, int, int]] = {}
    leaves: list[Tree] = []
    for k in range(1, count + 1):
        parts: list[Tree] = []
        inside: list[int] = []
        for name, number in TENANTS.items():
            vlans = [number, *([number + 1] if k == alone[name] else [])]
            inside += vlans
            part = tenant(name, number, k, *vlans, ip={"irb_mode": modes[name]})
            if border and k == 1:
                out = number + 80
                part["vlan_interfaces"].append({"vlan": out, "addresses": [f"10.50.{out}.2/24"], "vrf": name})
                part["vrfs"][0]["advertise"] = [f"10.50.{number}.0/24", "0.0.0.0/0"]
                part["vrfs"][0]["routes"] = [{"to": "0.0.0.0/0", "via": f"10.50.{out}.1"}]
            parts.append(part)
            for v in vlans:
                hosts[f"{name}-{v}-{k}"] = f"l{k}", v, 10 + k
        leaves.append(leaf(k, *parts, hosts=tuple(inside)))
    tree = fabric(leaves, hosts)
    if rng.random() < 0.6:
        _sieve(tree)
    if border:
        _border(tree)
    for vlan in tree["vlans"]:
        own = next((n for n, number in TENANTS.items() if vlan["id"] in (number, number + 1)), None)
        vlan["name"] = f"{own}-{vlan['id']}" if own else f"way-{vlan['id']}"
        if own is None:
            vlan["purpose"] = "transit"
    ask = [
        {"name": f"{n} inside", "from": f"{n}-{v}", "to": f"{n}-{v + 1}", "services": ["ssh"], "expect": "open"}
        for n, v in TENANTS.items()
    ]
    apart = {"name": "tenants apart", "from": "ash-10", "to": "birch-30", "services": ["any"], "expect": "closed"}
    out_there = [
        {"name": f"{n} out", "from": f"{n}-{v}", "to": "internet", "services": ["https"], "expect": "open"}
        for n, v in TENANTS.items()
        if border
    ]
    return tree | {"name": f"Stands {seed}", "expectations": [*ask, apart, *out_there]}


def _sieve(tree: Tree) -> None:
    """Let through the spine what carries the overlay, and nothing else."""
    spine = next(d for d in tree["devices"] if d["name"] == "spine")
    overlay = {
        "services": ["udp/4789"],
        "sources": ["10.255.0.0/24"],
        "destinations": ["10.255.0.0/24"],
        "action": "permit",
    }
    spine["filters"] = [{"name": "sieve", "entries": [overlay, {"services": ["ospf"], "action": "permit"}]}]
    spine["ports"][0]["filter_in"] = spine["ports"][1]["filter_out"] = "sieve"


def _border(tree: Tree) -> None:
    """Put a firewall at the first leaf, with a leg in each tenant's table, and the network outside behind it."""
    first = tree["devices"][0]
    tags = [n + 80 for n in TENANTS.values()]
    first["ports"].append({"name": "rim", "tagged": tags})
    legs = [{"tag": n + 80, "addresses": [f"10.50.{n + 80}.1/24"], "zone": name} for name, n in TENANTS.items()]
    inside = [{"to": f"10.50.{v}.0/24", "via": f"10.50.{n + 80}.2"} for n in TENANTS.values() for v in (n, n + 1)]
    tree["vlans"] = sorted(
        {
            v["id"]: v
            for v in [*tree["vlans"], *({"id": t, "name": f"v{t}", "subnets": [f"10.50.{t}.0/24"]} for t in tags)]
        }.values(),
        key=lambda v: v["id"],
    )
    rim: Tree = {
        "name": "rim",
        "kind": "firewall",
        "ports": [
            {"name": "in", "mode": "routed", "subinterfaces": legs},
            {"name": "out", "mode": "routed", "addresses": ["198.51.100.2/28"], "zone": "out"},
        ],
        "zones": [{"name": n} for n in (*TENANTS, "out")],
        "vrfs": [{"name": "main", "routes": [{"to": "0.0.0.0/0", "via": "198.51.100.1"}, *inside]}],
        "rules": [{"name": "out", "from": [*TENANTS], "to": ["out"], "services": ["any"], "action": "permit"}],
        "nat": [{"name": "out", "from": [*TENANTS], "to": ["out"], "source_to": "interface"}],
    }
    internet: Tree = {
        "name": "internet",
        "kind": "outside",
        "prefixes": ["0.0.0.0/0"],
        "ports": [{"name": "1", "addresses": ["198.51.100.1/28"]}],
    }
    tree["devices"] += [rim, internet]
    tree["cables"] += [["l1:rim", "rim:in"], ["rim:out", "internet:1"]]
