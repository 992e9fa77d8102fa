"""A small fabric: two or three leaves on a spine, each with tenants' VLANs and tables."""

from __future__ import annotations

from typing import Any

from tests.sites import Tree, plan


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
