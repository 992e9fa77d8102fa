"""A generator of large sites: a firewall, a tree of switches, VLANs spread over them, rules between zones."""

from __future__ import annotations

from typing import Any

Tree = dict[str, Any]


def large_site(switches: int, ports: int, vlans: int, rules: int) -> Tree:
    """Return a sound site: `ports` access ports a switch, every VLAN on every uplink, one zone a ten VLANs."""
    ids = range(100, 100 + vlans)
    zones = [f"z{k}" for k in range((vlans + 9) // 10)]
    plan = [{"id": v, "name": f"v{v}", "subnets": [f"10.{64 + v // 256}.{v % 256}.0/24"]} for v in ids]
    devices: list[Tree] = [_firewall(ids, zones, rules)]
    cables = [["gate:up", "s0:top"]]
    for s in range(switches):
        own = [
            {"name": f"p{k}", "pvid": v, "untagged": [v]} for k in range(ports) for v in [ids[(s * ports + k) % vlans]]
        ]
        down = [
            {"name": f"d{c}", "tagged": list(ids)} for c in (4 * s + 1, 4 * s + 2, 4 * s + 3, 4 * s + 4) if c < switches
        ]
        devices.append(
            {"name": f"s{s}", "kind": "switch", "ports": [{"name": "top", "tagged": list(ids)}, *down, *own]}
        )
        if s:
            cables.append([f"s{(s - 1) // 4}:d{s}", f"s{s}:top"])
    return {"anabasis": 1, "name": "Large", "vlans": plan, "devices": devices, "cables": cables}


def _firewall(ids: range, zones: list[str], rules: int) -> Tree:
    subinterfaces = [
        {"tag": v, "addresses": [f"10.{64 + v // 256}.{v % 256}.1/24"], "zone": zones[(v - ids[0]) // 10]} for v in ids
    ]
    lines = [
        {
            "name": f"r{k}",
            "from": [zones[k % len(zones)]],
            "to": [zones[(k * 7 + 1) % len(zones)]],
            "destinations": [f"10.{64 + v // 256}.{v % 256}.{16 * (k % 15)}/28" for v in [ids[k % len(ids)]]],
            "services": [f"tcp/{1000 + k % 40}"],
            "action": "permit" if k % 5 else "drop",
        }
        for k in range(rules)
    ]
    return {
        "name": "gate",
        "kind": "firewall",
        "zones": [{"name": z} for z in zones],
        "rules": lines,
        "ports": [{"name": "up", "mode": "routed", "subinterfaces": subinterfaces}],
    }
