"""Layer 3: interfaces (up or not, and why), routing tables, lookup, hosts and their gateways. Start at `network.py`."""

from anabasis.routing.drawing import SegmentDrawing, segment_drawing
from anabasis.routing.hosts import HostGroup
from anabasis.routing.interfaces import L3Interface, PortState, interface_rows
from anabasis.routing.lookup import Lookup, look_up
from anabasis.routing.network import Network3, build_network
from anabasis.routing.overview import DeviceRouting, LookupView, lookup_view, routing_overview
from anabasis.routing.tables import Table, TableRoute

__all__ = [
    "DeviceRouting",
    "HostGroup",
    "L3Interface",
    "Lookup",
    "LookupView",
    "Network3",
    "PortState",
    "SegmentDrawing",
    "Table",
    "TableRoute",
    "build_network",
    "interface_rows",
    "look_up",
    "lookup_view",
    "routing_overview",
    "segment_drawing",
]
