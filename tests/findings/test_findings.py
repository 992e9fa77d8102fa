"""Findings: the sound demo has none; each mistake gives its own, with the edit that mends it where there is one."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.climb import Climb
from anabasis.design import Loaded, apply
from anabasis.facts import Says
from anabasis.findings import Finding
from anabasis.findings.catalogue import CATALOGUE
from tests.counts import RUN
from tests.tunnels.test_tenants import MISTAKES as TENANTS

GATE, HALL, TANK, LAB = "/devices/4", "/devices/5", "/devices/6", "/devices/7"


def put(path: str, value: object, op: str = "add") -> dict[str, object]:
    """Return one operation."""
    return {"op": op, "path": path, "value": value}


SECOND_CABLE = [
    put(f"{HALL}/ports/-", {"name": "30", "tagged": [130]}),
    put(f"{TANK}/ports/-", {"name": "30", "tagged": [130]}),
    put("/cables/-", ["hall-sw:30", "tank-sw:30"]),
]
AROUND = [
    put(f"{TANK}/ports/-", {"name": "30", "pvid": 110, "untagged": [110]}),
    put("/cables/21", ["gate-a:13", "tank-sw:30"], "replace"),
]
FAILOVER = f"{GATE}/failover"
LAB_PORTS = [put(f"{LAB}/ports/-", {"name": name}) for name in ("30", "31")]
LEG = [
    put(f"{LAB}/vlans/-", 130),
    put(f"{LAB}/ports/-", {"name": "8", "tagged": [130]}),
    put(f"{HALL}/ports/-", {"name": "18", "tagged": [130]}),
    put("/cables/-", ["lab-sw:8", "hall-sw:18"]),
    put(f"{LAB}/vlan_interfaces/-", {"vlan": 130, "addresses": ["10.64.130.9/24"]}),
]
"""The lab answers the keepers past the firewall."""
CLIENT = [
    {"op": "remove", "path": "/devices/12/addresses"},
    put("/devices/12/dhcp", True),
    put(f"{HALL}/ports/3", {"name": "4", "pvid": 130, "untagged": [130]}, "replace"),
]


def bay(**more: Any) -> list[dict[str, Any]]:
    """Return the edit that gives the gate a tunnel across the bay, where nobody is."""
    said = {"name": "bay", "local": "198.51.100.2", "peer": "203.0.113.200", "addresses": ["10.99.0.1/30"]}
    return [put(f"{GATE}/tunnels", [said | {"zone": "house"} | more])]


def to_the_lab(mine: list[str], theirs: list[str]) -> list[dict[str, Any]]:
    """Return the edit that lays a tunnel from the gate to the lab's switch: what each end takes as from there."""
    ends = [
        ("10.64.171.1", "10.64.171.2", "10.99.0.1/30", mine),
        ("10.64.171.2", "10.64.171.1", "10.99.0.2/30", theirs),
    ]
    one, two = (
        {"name": "bay", "protocol": "gre", "local": a, "peer": b, "addresses": [c], "there": there}
        for a, b, c, there in ends
    )
    return [put(f"{GATE}/tunnels", [one | {"zone": "house"}]), put(f"{LAB}/tunnels", [two])]


MISTAKES: list[tuple[str, list[dict[str, Any]], bool]] = [
    ("pair-unsettled", [{"op": "remove", "path": FAILOVER}], False),
    ("pair-unlike", [put(f"{GATE}/units/1/traits/software", "8.0.9", "replace")], False),
    ("heartbeat-none", [{"op": "remove", "path": "/cables/7"}, {"op": "remove", "path": "/cables/6"}], True),
    ("heartbeat-one", [{"op": "remove", "path": "/cables/7"}], True),
    ("heartbeat-astray", [*LAB_PORTS, put("/cables/7", ["gate-a:8", "lab-sw:30"], "replace")], False),
    (
        "heartbeat-switched",
        [
            *LAB_PORTS,
            put("/cables/7", ["gate-a:8", "lab-sw:30"], "replace"),
            put("/cables/-", ["gate-b:8", "lab-sw:31"]),
        ],
        False,
    ),
    ("pair-segments-differ", [put(f"{HALL}/lags/2/tagged", [130, 140, 160], "replace")], False),
    ("pair-cabled-unlike", [{"op": "remove", "path": "/cables/4"}], False),
    ("watch-forgets", [put(f"{FAILOVER}/watch", ["1"], "replace")], True),
    ("watch-idle", [put(f"{GATE}/ports/-", {"name": "20", "mode": "off"}), put(f"{FAILOVER}/watch/-", "20")], True),
    ("sessions-unsynced", [put(f"{FAILOVER}/sync_sessions", False, "replace")], True),
    ("secret-default", [put(f"{FAILOVER}/secret", "default", "replace")], False),
    (
        "ssid-open",
        [put("/devices/16/ssids/1/security", "open", "replace")],
        True,
    ),
    ("tunnel-down", bay(), False),
    ("tunnel-secret", bay(secret="default"), False),
    ("tunnel-weak", bay(protocol="pptp"), False),
    ("tunnel-overlaps", bay(here=["10.64.0.0/16"], there=["10.64.170.0/24"]), False),
    ("tunnel-too-long", bay(mtu=1480), True),
    (
        "fragments-untold",
        [
            *to_the_lab([], []),
            put(f"{GATE}/filters", [{"name": "edge", "entries": [{"services": ["tcp", "udp"], "action": "permit"}]}]),
            put(f"{GATE}/lags/1/subinterfaces/0/filter_out", "edge"),
        ],
        True,
    ),
    ("selectors-unlike", to_the_lab(["10.64.170.0/24"], ["10.64.0.0/16"]), True),
    ("drill-missing", [put(f"{FAILOVER}/drills", [], "replace")], False),
    ("bundle-down", [put(f"{TANK}/lags/0/protocol", "static")], True),
    ("bundle-short", [put(f"{HALL}/ports/8/enabled", False)], False),
    ("loop", [put(f"{HALL}/spanning_tree", False), put(f"{TANK}/spanning_tree", False), *SECOND_CABLE], False),
    ("bypass", AROUND, False),
    (
        "speed-differs",
        [put(f"{HALL}/ports/0/speed_mbps", 100), put("/devices/13/ports", [{"name": "1", "speed_mbps": 1000}])],
        False,
    ),
    ("members-unlike", [put(f"{HALL}/ports/8/speed_mbps", 100)], False),
    ("pair-unused", [{"op": "remove", "path": "/cables/32"}, {"op": "remove", "path": "/cables/20"}], False),
    ("port-open", [{"op": "remove", "path": f"{HALL}/ports/1/note"}], False),
    ("table-lacks", [put(f"{HALL}/ports/1/tagged", [120, 180], "replace")], True),
    ("untagged-several", [put(f"{HALL}/ports/1/untagged", [130, 140], "replace")], False),
    ("default-left", [put(f"{HALL}/ports/1/untagged", [1, 130], "replace"), put(f"{HALL}/vlans/-", 1)], True),
    ("vlan-unused", [put("/vlans/-", {"id": 777, "name": "spare"})], True),
    ("limit-vlans", [put(f"{TANK}/limits", {"vlans": 4})], False),
    ("lease-range", [put(f"{GATE}/dhcp/1/ranges", ["10.64.160.1-10.64.160.90"], "replace")], True),
    ("lease-two", [put(f"{GATE}/dhcp/-", {"interface": "hall.130", "ranges": ["10.64.130.220-10.64.130.230"]})], True),
    ("island", [put(f"{TANK}/lags/0/tagged", [180], "replace")], True),
    (
        "merged",
        [
            put(f"{TANK}/lags/0/untagged", [120]),
            put(f"{TANK}/lags/0/pvid", 120),
            put(f"{HALL}/lags/0/untagged", [140]),
            put(f"{HALL}/lags/0/pvid", 140),
        ],
        False,
    ),
    ("native-differs", [put(f"{TANK}/lags/0/pvid", 120), put(f"{HALL}/lags/0/pvid", 140)], False),
    ("pvid-outside", [put(f"{TANK}/ports/0/pvid", 120, "replace")], True),
    ("tag-one-sided", [put(f"{HALL}/lags/0/tagged", [130, 160, 180], "replace")], False),
    ("interface-down", [put(f"{GATE}/vlan_interfaces/0/enabled", False)], True),
    ("address-elsewhere", [put("/devices/8/addresses", ["10.64.120.20/24"], "replace")], False),
    ("gateway-missing", [{"op": "remove", "path": f"{GATE}/vlan_interfaces/0"}], False),
    (
        "gateway-choice",
        [
            put(f"{TANK}/routing", True),
            put(f"{TANK}/vlan_interfaces", [{"vlan": 150, "addresses": ["10.64.150.2/24"]}]),
        ],
        False,
    ),
    ("route-inactive", [put(f"{GATE}/vrfs/0/routes/0/via", "198.51.100.77", "replace")], False),
    (
        "route-backup",
        [put(f"{GATE}/vrfs/0/routes/-", {"to": "10.64.170.0/24", "via": "10.64.99.9", "preference": 0})],
        False,
    ),
    ("address-missing", [{"op": "remove", "path": f"{GATE}/lags/1/subinterfaces/1/addresses"}], False),
    ("subnet-overlap", [put(f"{GATE}/loopbacks", [{"name": "own", "addresses": ["10.64.130.9/28"]}])], False),
    ("boundary-subnets", [put("/vlans/5/subnets", ["10.64.151.0/24"])], False),
    ("gateway-wrong", [put("/devices/12/gateway", "10.64.140.99")], True),
    ("relay-nowhere", [put(f"{GATE}/dhcp/0", {"interface": "hall.130", "mode": "relay"}, "replace")], False),
    ("private-outside", [put(f"{GATE}/nat/1/from", ["house", "guests", "chemistry"], "replace")], True),
    ("nat-unruled", [{"op": "remove", "path": f"{GATE}/rules/11"}], False),
    ("rule-unpublished", [{"op": "remove", "path": f"{GATE}/nat/0"}], False),
    ("rule-any", [put(f"{GATE}/rules/-", {"name": "all", "from": ["any"], "to": ["any"], "action": "permit"})], False),
    (
        "rule-covers-outside",
        [put(f"{GATE}/rules/-", {"name": "wide", "from": ["tills"], "to": ["any"], "action": "permit"})],
        False,
    ),
    (
        "rule-elsewhere",
        [
            put(
                f"{GATE}/rules/-",
                {
                    "name": "desks-apart",
                    "from": ["house"],
                    "to": ["house"],
                    "sources": ["10.64.130.64/26"],
                    "destinations": ["10.64.130.128/26"],
                    "action": "drop",
                },
            )
        ],
        False,
    ),
    (
        "rule-shadowed",
        [
            put(
                f"{GATE}/rules/-",
                {
                    "name": "again",
                    "from": ["house"],
                    "to": ["water"],
                    "sources": ["10.64.130.77"],
                    "services": ["ssh"],
                    "action": "drop",
                },
            )
        ],
        True,
    ),
    (
        "rule-redundant",
        [
            put(
                f"{GATE}/rules/0",
                {
                    "name": "before",
                    "from": ["house"],
                    "to": ["water"],
                    "sources": ["10.64.130.77"],
                    "services": ["ssh"],
                    "action": "permit",
                },
            )
        ],
        True,
    ),
    ("rule-unmet", [{"op": "remove", "path": f"{GATE}/vrfs/0/ospf/announce_default"}], False),
    ("answers-risky", [put(f"{GATE}/answers/2/services", ["ping", "dns", "ssh"], "replace")], True),
    ("unused", [put("/services/-", {"name": "voice", "members": ["udp/5060"]})], True),
    ("zone-missing", [{"op": "remove", "path": f"{GATE}/lags/1/subinterfaces/0/zone"}], False),
    ("zone-kind", [put(f"{GATE}/zones/2/kind", "inline", "replace")], True),
    ("return-missing", LEG, False),
    ("expectation-broken", [put(f"{GATE}/rules/1/services", ["http"], "replace")], False),
    ("expectation-unknown", [put("/expectations/0/to", "live-support", "replace")], False),
    (
        "duplex-differs",
        [put(f"{HALL}/ports/3/duplex", "full"), put("/devices/12/ports", [{"name": "1", "duplex": "half"}])],
        False,
    ),
    ("mtu-differs", [put(f"{HALL}/ports/3/mtu", 9000)], False),
    ("tag-protocol-differs", [put(f"{HALL}/ports/3/tag_protocol", "88a8")], False),
    ("inline-alone", [{"op": "remove", "path": f"{GATE}/wires/0"}], False),
    ("host-cut", [put(f"{HALL}/ports/3/enabled", False)], True),
    ("interface-apart", [put(f"{HALL}/lags/1/tagged", [130, 160, 180], "replace")], True),
    ("frames-lost", [put(f"{GATE}/wires/0/tags", [130], "replace")], False),
    ("bridged-bare", [put(f"{GATE}/ports/9/tagged", [], "replace")], False),
    ("tag-foreign", [put(f"{HALL}/ports/3/tagged", [160]), {"op": "remove", "path": f"{HALL}/ports/3/note"}], True),
    ("one-way", [put(f"{TANK}/lags/0/untagged", [180]), put(f"{TANK}/lags/0/tagged", [130], "replace")], False),
    ("accept-shuts", [put(f"{HALL}/lags/1/accept", "untagged")], True),
    ("address-off-plan", [put(f"{GATE}/lags/1/subinterfaces/1/addresses", ["10.79.253.1/24"], "replace")], False),
    ("address-twice", [put("/devices/8/addresses", ["10.64.110.40/24"], "replace")], False),
    ("mask-differs", [put("/devices/12/addresses", ["10.64.140.21/25"], "replace")], True),
    ("gateway-lost", [put(f"{LAB}/vlan_interfaces/0/addresses", ["10.64.170.1/28"], "replace")], True),
    ("route-missing", [{"op": "remove", "path": f"{GATE}/vrfs/0/ospf/announce_default"}], True),
    ("neighbour-apart", [put(f"{LAB}/vrfs/0/ospf/interfaces/0/area", "1", "replace")], False),
    ("routes-apart", [put(f"{GATE}/vrfs/0/routes/-", {"to": "10.64.170.0/24", "via": "198.51.100.1"})], True),
    ("ospf-to-users", [put(f"{LAB}/vrfs/0/ospf/interfaces/1/passive", False, "replace")], True),
    (
        "prefix-untold",
        [
            {"op": "remove", "path": f"{LAB}/vrfs/0/ospf/interfaces/1"},
            put(f"{GATE}/vrfs/0/ospf/redistribute", [{"from": "connected"}]),
            {"op": "remove", "path": f"{GATE}/vrfs/0/routes/0"},
        ],
        True,
    ),
    (
        "router-id-twice",
        [
            put("/devices/1/vrfs", [{"name": "main", "ospf": {"router_id": "10.64.171.2", "interfaces": []}}]),
            put("/devices/1/vrfs/0/ospf/interfaces", [{"interface": "5", "passive": True}], "replace"),
            put("/devices/1/ports/-", {"name": "5", "mode": "routed", "addresses": ["10.64.77.1/24"]}),
        ],
        False,
    ),
    (
        "backbone-split",
        [
            put("/devices/1/vrfs", [{"name": "main", "ospf": {"router_id": "10.255.0.1"}}]),
            put("/devices/1/vrfs/0/ospf/interfaces", [{"interface": "lo", "area": "0"}]),
            put("/devices/1/loopbacks", [{"name": "lo", "addresses": ["10.255.0.1/32"]}]),
        ],
        False,
    ),
    ("lease-none", [*CLIENT, {"op": "remove", "path": f"{GATE}/dhcp/0"}], False),
    ("lease-missing", [{"op": "remove", "path": f"{GATE}/dhcp/0"}], False),
    ("lease-off", [put(f"{GATE}/dhcp/0/mode", "off", "replace")], True),
    (
        "lease-yields",
        [
            put(
                f"{GATE}/dhcp/-",
                {
                    "interface": "hall.130",
                    "mode": "yield",
                    "ranges": ["10.64.130.50-10.64.130.199"],
                    "gateway": "10.64.130.1",
                },
            )
        ],
        False,
    ),
    ("host-names", [put("/devices/13/dns", ["10.64.110.40"])], False),
    ("lease-names", [put(f"{GATE}/dhcp/0/dns", ["10.64.110.20"], "replace")], False),
    ("limit-passed", [put(f"{GATE}/limits", {"rules": 3})], False),
    ("lease-gatewayless", [{"op": "remove", "path": f"{GATE}/dhcp/0/gateway"}], True),
    (
        "lease-holds-host",
        [
            put(f"{GATE}/dhcp/0/ranges", ["10.64.130.50-10.64.130.199"], "replace"),
            {"op": "remove", "path": f"{GATE}/dhcp/0/reservations"},
        ],
        True,
    ),
    ("pair-unsaid", [{"op": "remove", "path": f"{FAILOVER}/preempt"}], False),
    ("names-alike", [put("/vlans/-", {"id": 300, "name": "Keepers"})], False),
    ("running-behind", [put(f"{HALL}/running", "active")], False),
    (
        "firewall-port-open",
        [put(f"{GATE}/ports/-", {"name": "16", "mode": "routed", "addresses": ["10.64.99.1/24"], "zone": "house"})],
        True,
    ),
    (
        "visitors-inside",
        [put(f"{GATE}/rules/0", {"name": "mix", "from": ["guests"], "to": ["house"], "action": "permit"})],
        False,
    ),
    ("management-open", [put("/vlans/7/purpose", "management"), put(f"{GATE}/answers/0/services/-", "ssh")], False),
    ("pair-port-down", [put("/devices/1/ports/1/enabled", False)], False),
]


def test_the_sound_demo_has_nothing_to_mend(climb: Climb) -> None:
    """No finding at all."""
    assert climb.findings == []
    assert climb.begin_at is None


TRIED = MISTAKES[:: 6 if RUN == "check" else 1]


@pytest.mark.parametrize(("code", "patch", "mendable"), TRIED, ids=[m[0] for m in TRIED])
def test_each_mistake_is_found(demo: Loaded, code: str, patch: list[dict[str, Any]], mendable: bool) -> None:
    """The finding names a place in the document; its mend takes it away."""
    tree, design = apply(demo.raw, patch)
    climb = Climb(design)
    found = [f for f in climb.findings if f.code == code]
    assert found, [f.code for f in climb.findings]
    assert all(f.sentence.endswith(".") and f.pointers for f in found)
    assert any(f.mend for f in found) == mendable
    for finding in found:
        if finding.mend:
            mended = Climb(apply(tree, finding.mend)[1])
            assert code not in [f.code for f in mended.findings]


def test_every_code_is_tried_here() -> None:
    """A new code needs a mistake above, or among those of tenants, of which the demo has none."""
    assert {m[0] for m in MISTAKES} | {code for _, code in TENANTS} == set(CATALOGUE)


def test_the_place_to_begin_is_the_lowest_that_breaks(demo: Loaded) -> None:
    """With a bundle down and a zone of the wrong kind, one begins at the cables."""
    patch = [put(f"{TANK}/lags/0/protocol", "static"), put(f"{GATE}/zones/2/kind", "inline", "replace")]
    climb = Climb(apply(demo.raw, patch)[1])
    assert climb.begin_at == "cabling"
    assert climb.findings[0].code == "bundle-down"
    stages = {s.name: (s.findings, s.breaks) for s in climb.stages}
    assert stages["zones"] == (1, 1)


def test_findings_as_json(demo: Loaded) -> None:
    """The promised keys."""
    said = Finding(Says.DRILL_MISSING, ("/devices/0",), (("device", "gate"),)).as_dict()
    assert {"code", "severity", "sentence", "pointers", "mend"} <= said.keys()
    assert said["code"] == "drill-missing"
    assert "gate" in str(said["sentence"])
