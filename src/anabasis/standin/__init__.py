"""Simulated devices: every box of a design answers RESTCONF and SNMP on loopback from its computed state, some of it spoiled on purpose."""

from anabasis.standin.boxes import Manner
from anabasis.standin.serving import Access, boxes_for, serve
from anabasis.standin.spoiling import spoil

__all__ = ["Access", "Manner", "boxes_for", "serve", "spoil"]
