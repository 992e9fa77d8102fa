"""Layers 1 and 2: links, bundles, frames (802.1Q in and out), segments. 802.1Q itself lives in `frames.py`; start at `flow.py`."""

from anabasis.fabric.breaks import Break, link_items, lone_inline, lone_vlan, meant_by_hosts, own_line, unfit, why_apart
from anabasis.fabric.bundles import LinkPort, link_ports
from anabasis.fabric.bypasses import bypasses
from anabasis.fabric.conditions import (
    ALL_WELL,
    Conditions,
    TunnelState,
    cable_name,
    carrying_units,
    conditions_of,
    forwarding_units,
    groups_of,
    preference,
)
from anabasis.fabric.flow import Attachment, Crossing, Fabric, bridged_zone, bridges_frames, build_fabric, is_edge
from anabasis.fabric.frames import UNTAGGED, accepted, egress, ingress, member_vlans
from anabasis.fabric.inside import Inside, inside
from anabasis.fabric.links import PhysicalPort, Spot, label, physical_ports
from anabasis.fabric.segments import Segment, Segments, compute_segments

__all__ = [
    "ALL_WELL",
    "UNTAGGED",
    "Attachment",
    "Break",
    "Conditions",
    "Crossing",
    "Fabric",
    "Inside",
    "LinkPort",
    "PhysicalPort",
    "Segment",
    "Segments",
    "Spot",
    "TunnelState",
    "accepted",
    "bridged_zone",
    "bridges_frames",
    "build_fabric",
    "bypasses",
    "cable_name",
    "carrying_units",
    "compute_segments",
    "conditions_of",
    "egress",
    "forwarding_units",
    "groups_of",
    "ingress",
    "inside",
    "is_edge",
    "label",
    "link_items",
    "link_ports",
    "lone_inline",
    "lone_vlan",
    "meant_by_hosts",
    "member_vlans",
    "own_line",
    "physical_ports",
    "preference",
    "unfit",
    "why_apart",
]
