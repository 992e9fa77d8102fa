"""Exact sets of addresses, services and flows: split into classes that nothing in the design tells apart."""

from anabasis.classes.addresses import AddressClasses, Mask, Numbers, address_classes, cut_again
from anabasis.classes.flows import Box, FlowSet, boxes_of
from anabasis.classes.kinds import Bits, holds, kinds, packed, together, unpacked
from anabasis.classes.services import ServiceAtoms, ServiceShift
from anabasis.classes.writing import prefix_cover, readable_addresses, readable_services, service_texts

__all__ = [
    "AddressClasses",
    "Bits",
    "Box",
    "FlowSet",
    "Mask",
    "Numbers",
    "ServiceAtoms",
    "ServiceShift",
    "address_classes",
    "boxes_of",
    "cut_again",
    "holds",
    "kinds",
    "packed",
    "prefix_cover",
    "readable_addresses",
    "readable_services",
    "service_texts",
    "together",
    "unpacked",
]
