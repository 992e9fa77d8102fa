"""Routes learnt by OSPF (RFC 2328; RFC 5340 for IPv6): who are neighbours, the graph of every area, and what each router learns from it."""

from anabasis.routing.ospf.domain import BACKBONE, Known, Learnt, Ospf, components
from anabasis.routing.ospf.neighbours import Hellos, Met, Speaker, Unlike, line_mtu

__all__ = ["BACKBONE", "Hellos", "Known", "Learnt", "Met", "Ospf", "Speaker", "Unlike", "components", "line_mtu"]
