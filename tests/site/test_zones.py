"""The zone in which a firewall meets a segment."""

from __future__ import annotations

from anabasis.climb import Climb
from anabasis.design import parse_design


def test_an_interface_without_a_zone_tells_nothing() -> None:
    """Two interfaces have addresses in a subnet and neither is cabled: the one that has a zone says where the hosts belong."""
    ports = [
        {"name": "1", "mode": "routed", "addresses": ["10.64.11.1/24"]},
        {"name": "2", "mode": "routed", "addresses": ["10.64.11.2/24"], "zone": "in"},
    ]
    devices = [
        {"name": "fw", "kind": "firewall", "ports": ports, "zones": [{"name": "in"}]},
        {"name": "sw", "kind": "switch", "ports": [{"name": "1", "untagged": [11], "pvid": 11}]},
    ]
    vlans = [{"id": 11, "name": "hall", "subnets": ["10.64.11.0/24"]}]
    site = Climb(
        parse_design({"anabasis": 1, "name": "Uncabled", "vlans": vlans, "devices": devices, "cables": []})
    ).site
    hall = next(k for k, s in enumerate(site.segments.all) if s.name == "hall")
    assert site.zones_at["fw"][hall] == {"in"}
