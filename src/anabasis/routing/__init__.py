"""Layer 3: interfaces (up or not, and why), routing tables, lookup, hosts and their gateways. Start at `network.py`."""

from anabasis.routing.claims import Claim
from anabasis.routing.hosts import HostGroup, Leased, gateways_of
from anabasis.routing.interfaces import L3Interface, interface_rows, kept_apart, routes_packets
from anabasis.routing.lookup import Lookup, look_up
from anabasis.routing.network import Network3, build_network, on_overlay, speaks
from anabasis.routing.ospf import BACKBONE, Hellos, Met, Ospf, Speaker, components, line_mtu
from anabasis.routing.plans import misaddressed, plan_of
from anabasis.routing.spans import Interval, Intervals, intersect, merge, span_of, subtract
from anabasis.routing.tables import Origin, Table, TableRoute
from anabasis.routing.tenants import advertised, misplaced

__all__ = [
    "BACKBONE",
    "Claim",
    "Hellos",
    "HostGroup",
    "Interval",
    "Intervals",
    "L3Interface",
    "Leased",
    "Lookup",
    "Met",
    "Network3",
    "Origin",
    "Ospf",
    "Speaker",
    "Table",
    "TableRoute",
    "advertised",
    "build_network",
    "components",
    "gateways_of",
    "interface_rows",
    "intersect",
    "kept_apart",
    "line_mtu",
    "look_up",
    "merge",
    "misaddressed",
    "misplaced",
    "on_overlay",
    "plan_of",
    "routes_packets",
    "span_of",
    "speaks",
    "subtract",
]
