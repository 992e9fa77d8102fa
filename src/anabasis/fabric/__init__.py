"""Layers 1 and 2: links, bundles, frames (802.1Q in and out), segments. 802.1Q itself lives in `frames.py`; start at `flow.py`."""

from anabasis.fabric.breaks import Break, why_apart
from anabasis.fabric.bundles import LinkPort
from anabasis.fabric.bypasses import Bypass, bypasses
from anabasis.fabric.cabling import Cabling, cabling
from anabasis.fabric.conditions import (
    ALL_WELL,
    Conditions,
    carrying_units,
    conditions_of,
    forwarding_units,
    groups_of,
    preference,
)
from anabasis.fabric.ends import CableEnds, cable_ends
from anabasis.fabric.flow import Carriage, Crossing, Fabric, Tap, Wire, build_fabric
from anabasis.fabric.grid import Grid, vlan_grid
from anabasis.fabric.links import Spot
from anabasis.fabric.segments import Segment, Segments, compute_segments, natural

__all__ = [
    "ALL_WELL",
    "Break",
    "Bypass",
    "CableEnds",
    "Cabling",
    "Carriage",
    "Conditions",
    "Crossing",
    "Fabric",
    "Grid",
    "LinkPort",
    "Segment",
    "Segments",
    "Spot",
    "Tap",
    "Wire",
    "build_fabric",
    "bypasses",
    "cable_ends",
    "cabling",
    "carrying_units",
    "compute_segments",
    "conditions_of",
    "forwarding_units",
    "groups_of",
    "natural",
    "preference",
    "vlan_grid",
    "why_apart",
]
