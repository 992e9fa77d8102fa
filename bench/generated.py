"""Seeded sites for the bench of reach: five firewalls on a backbone, nested sets, overlapping prefixes, multilayer switches, translations, 1 % broken."""

from __future__ import annotations

from dataclasses import dataclass, field
from random import Random
from typing import Any

Tree = dict[str, Any]
FIREWALLS = 5
SERVICES = ("web", "names", "mail", "desk", "build", "probe", "backup", "voice")


@dataclass
class Branch:
    """One firewall and what hangs below it."""

    number: int
    zones: list[str]
    vlans: list[int] = field(default_factory=list)
    routed_below: list[int] = field(default_factory=list)
    """VLANs that the multilayer switch routes."""
    _members: dict[str, list[int]] = field(default_factory=dict)

    @property
    def name(self) -> str:
        """Return the firewall's name."""
        return f"fw{self.number}"

    def members(self, zone: str) -> list[int]:
        """Return the VLANs of a zone."""
        if zone not in self._members:
            self._members[zone] = [v for v in self.vlans if self.zone(v) == zone]
        return self._members[zone]

    def zone(self, vlan: int) -> str:
        """Return the zone of a VLAN."""
        return "below" if vlan in self.routed_below else self.zones[vlan // FIREWALLS % len(self.zones)]


def subnet(vlan: int, host: int = 0, length: int = 24) -> str:
    """Return the prefix, or an address with its length, of a VLAN."""
    return f"10.{vlan // 256 + 16}.{vlan % 256}.{host}/{length}"


def generated_site(segments: int, rules: int, seed: int = 1) -> Tree:
    """Return a site with about so many segments and exactly so many rules; the same for the same seed.

    A tenth of the VLANs is routed by multilayer switches below the firewalls, a fifth has IPv6 as well, one in a hundred is broken:
    its tag is missing on an uplink, or the way back to it.
    """
    rng = Random(seed)
    branches = [Branch(k, [f"z{k}-{n}" for n in range(rng.randint(8, 20))]) for k in range(FIREWALLS)]
    for v in range(2, 2 + segments - FIREWALLS - 2):
        branches[v % FIREWALLS].vlans.append(v)
    for b in branches:
        b.routed_below = rng.sample(b.vlans, max(1, len(b.vlans) // 10))
    everything = [v for b in branches for v in b.vlans]
    dual = set(rng.sample(everything, len(everything) // 5))
    sets = address_sets(rng, branches)
    devices: list[Tree] = [*_edge(branches)]
    cables = [["internet:1", "fw0:out"]]
    plan: list[Tree] = [{"id": 4000, "name": "backbone", "subnets": ["10.15.0.0/24"], "purpose": "transit"}]
    for b in branches:
        plan += [_vlan(v, v in dual) for v in b.vlans]
        plan.append({"id": 3900 + b.number, "name": f"link{b.number}", "subnets": [f"10.15.{1 + b.number}.0/29"]})
        devices.append(_firewall(rng, b, branches, dual, rules // FIREWALLS, sets))
        devices += [_access(rng, b), _below(rng, b, dual)]
        cables += [[f"{b.name}:core", f"core:{b.number}"], [f"{b.name}:down", f"sw{b.number}:up"]]
        cables += [[f"{b.name}:link", f"ml{b.number}:up"]]
        for v in b.routed_below:  # a VLAN interface is up where something is plugged in
            devices.append({"name": f"host{v}", "kind": "endpoint", "addresses": [subnet(v, 20)]})
            cables.append([f"ml{b.number}:p{v}", f"host{v}:1"])
    ports = [{"name": str(b.number), "untagged": [4000], "pvid": 4000} for b in branches]
    devices.append({"name": "core", "kind": "switch", "ports": ports})
    return {
        "anabasis": 1,
        "name": f"Generated {segments}",
        "vlans": plan,
        "addresses": sets,
        "services": service_sets(rng),
        "devices": devices,
        "cables": cables,
    }


def _vlan(v: int, dual: bool) -> Tree:
    return {"id": v, "name": f"v{v}", "subnets": [subnet(v), *([f"fd16:0:0:{v:x}::/64"] if dual else [])]}


def address_sets(rng: Random, branches: list[Branch]) -> list[Tree]:
    """Return nested and overlapping sets: parts of subnets, whole subnets, sets of sets."""
    out: list[Tree] = []
    for b in branches:
        for k in range(max(2, len(b.vlans) // 4)):
            few = rng.sample(b.vlans, min(len(b.vlans), rng.randint(1, 6)))
            parts = [
                subnet(v, 16 * rng.randint(1, 14), 28) if rng.random() < 0.5 else subnet(v, 0, rng.choice((24, 25)))
                for v in few
            ]
            out.append({"name": f"set{b.number}-{k}", "members": parts})
        mine = [s["name"] for s in out if s["name"].startswith(f"set{b.number}-")]
        out += [
            {"name": f"group{b.number}-{k}", "members": rng.sample(mine, min(len(mine), 4))}
            for k in range(max(1, len(mine) // 5))
        ]
    out.append({"name": "inside", "members": ["10.0.0.0/8", "fd16::/16"]})
    return out


def service_sets(rng: Random) -> list[Tree]:
    """Return services, one of them made of others."""
    out: list[Tree] = [
        {
            "name": name,
            "members": [
                f"{rng.choice(('tcp', 'udp'))}/{low}-{low + rng.randint(0, 40)}"
                for low in rng.sample(range(20, 60000), 3)
            ],
        }
        for name in SERVICES
    ]
    return [*out, {"name": "daily", "members": ["web", "names", "mail"]}]


def _edge(branches: list[Branch]) -> list[Tree]:
    """Return the outside, with its ways back to what is published."""
    return [
        {
            "name": "internet",
            "kind": "outside",
            "prefixes": ["0.0.0.0/0"],
            "ports": [{"name": "1", "addresses": ["198.51.100.1/24"]}],
        }
    ]


def _firewall(rng: Random, b: Branch, branches: list[Branch], dual: set[int], rules: int, sets: list[Tree]) -> Tree:
    """Return one firewall: a subinterface a VLAN, the backbone, the link to its multilayer switch."""
    own = [v for v in b.vlans if v not in b.routed_below]
    subinterfaces = [
        {"tag": v, "addresses": [subnet(v, 1), *([f"fd16:0:0:{v:x}::1/64"] if v in dual else [])], "zone": b.zone(v)}
        for v in own
    ]
    ports: list[Tree] = [
        {"name": "core", "mode": "routed", "addresses": [f"10.15.0.{10 + b.number}/24"], "zone": "core"},
        {"name": "down", "mode": "routed", "subinterfaces": subinterfaces},
        {"name": "link", "mode": "routed", "addresses": [f"10.15.{1 + b.number}.1/29"], "zone": "below"},
    ]
    zones = [*b.zones, "core", "below"]
    if b.number == 0:
        ports.append({"name": "out", "mode": "routed", "addresses": ["198.51.100.2/24"], "zone": "out"})
        zones.append("out")
    lost = {v for v in b.routed_below if rng.random() < 0.01}
    routes = [{"to": subnet(v), "via": f"10.15.{1 + b.number}.2"} for v in b.routed_below if v not in lost]
    routes += [
        {"to": subnet(v), "via": f"10.15.0.{10 + o.number}"} for o in branches if o.number != b.number for v in o.vlans
    ]
    routes.append({"to": "0.0.0.0/0", "via": "198.51.100.1" if b.number == 0 else "10.15.0.10"})
    here: Tree = {
        "name": b.name,
        "kind": "firewall",
        "zones": [{"name": z} for z in zones],
        "vrfs": [{"name": "main", "routes": routes}],
        "ports": ports,
        "rules": [_rule(rng, k, b, branches, zones, sets) for k in range(rules)],
    }
    if b.number == 0:
        here["nat"] = [
            *(
                {
                    "name": f"publish{k}",
                    "from": ["out"],
                    "destinations": [f"198.51.100.{10 + k}"],
                    "services": ["https"],
                    "destination_to": subnet(v, 20).split("/")[0],
                }
                for k, v in enumerate(rng.sample(own, min(len(own), 4)))
            ),
            {"name": "hide", "from": ["any"], "to": ["out"], "sources": ["inside"], "source_to": "interface"},
        ]
    return here


def _rule(rng: Random, k: int, b: Branch, branches: list[Branch], zones: list[str], sets: list[Tree]) -> Tree:
    def side(zone: str) -> list[str]:
        near = b.vlans if zone not in ("core", "out") else rng.choice(branches).vlans
        mine = near if zone in ("core", "out", "any") else (b.members(zone) or near)
        draw = rng.random()
        if draw < 0.25:
            return ["any"]
        if draw < 0.45:
            return [rng.choice(sets)["name"]]
        some = rng.sample(mine, min(len(mine), rng.randint(1, 3)))
        return [subnet(v, 16 * rng.randint(1, 14), 28) if rng.random() < 0.6 else subnet(v) for v in some]

    one, two = (rng.choice(zones) if rng.random() < 0.96 else "any" for _ in range(2))
    services = (
        ["any"] if rng.random() < 0.1 else [rng.choice((*SERVICES, "daily", "https", "ssh", "ping", "dns", "icmp"))]
    )
    return {
        "name": f"r{k}",
        "from": [one],
        "to": [two],
        "sources": side(one),
        "destinations": side(two),
        "services": services,
        "action": "permit" if rng.random() < 0.7 else "drop",
    }


def _access(rng: Random, b: Branch) -> Tree:
    """Return the switch below a firewall, an access port a VLAN; one uplink tag in a hundred is missing."""
    own = [v for v in b.vlans if v not in b.routed_below]
    tagged = [v for v in own if rng.random() >= 0.01]
    access = [{"name": f"p{v}", "pvid": v, "untagged": [v]} for v in own]
    return {"name": f"sw{b.number}", "kind": "switch", "ports": [{"name": "up", "tagged": tagged}, *access]}


def _below(rng: Random, b: Branch, dual: set[int]) -> Tree:
    """Return the multilayer switch below a firewall."""
    vlan = 3900 + b.number
    access = [{"name": f"p{v}", "pvid": v, "untagged": [v]} for v in b.routed_below]
    return {
        "name": f"ml{b.number}",
        "kind": "switch",
        "routing": True,
        "ports": [{"name": "up", "pvid": vlan, "untagged": [vlan]}, *access],
        "vlan_interfaces": [
            {"vlan": vlan, "addresses": [f"10.15.{1 + b.number}.2/29"]},
            *({"vlan": v, "addresses": [subnet(v, 1)]} for v in b.routed_below),
        ],
        "vrfs": [{"name": "main", "routes": [{"to": "0.0.0.0/0", "via": f"10.15.{1 + b.number}.1"}]}],
    }
