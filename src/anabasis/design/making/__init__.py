"""Make things: whatever a person adds to a document, with defaults that follow the site, each as one edit worked out here."""

from anabasis.design.making.copies import CopyThing, copy_thing, thing_fields
from anabasis.design.making.devices import (
    BundlePorts,
    InlinePair,
    NewCables,
    NewDevice,
    NewHost,
    NewPorts,
    bundle_ports,
    inline_pair,
    new_cables,
    new_device,
    new_host,
    new_ports,
)
from anabasis.design.making.fresh import KINDS, Fresh, NewThing, fresh, make
from anabasis.design.making.little_switch import LittleSwitch, little_switch
from anabasis.design.making.on_ports import (
    JoinRouted,
    OnlyTheirs,
    PhoneAndDesk,
    RemovePorts,
    RenamePorts,
    join_routed,
    only_theirs,
    phone_and_desk,
    remove_ports,
    rename_ports,
)
from anabasis.design.making.pairs import MadePair, MakePair, make_pair
from anabasis.design.making.patterns import port_names_of
from anabasis.design.making.segments import CopySegment, copy_segment, segment_fields
from anabasis.design.making.tenants import CopyTenant, UniqueField, copy_tenant, unique_fields
from anabasis.design.making.vlan_list import VlanList, vlan_list
from anabasis.design.making.way_out import WayOut, WayOutProposal, way_out, way_out_proposals

__all__ = [
    "KINDS",
    "BundlePorts",
    "CopySegment",
    "CopyTenant",
    "CopyThing",
    "Fresh",
    "InlinePair",
    "JoinRouted",
    "LittleSwitch",
    "MadePair",
    "MakePair",
    "NewCables",
    "NewDevice",
    "NewHost",
    "NewPorts",
    "NewThing",
    "OnlyTheirs",
    "PhoneAndDesk",
    "RemovePorts",
    "RenamePorts",
    "UniqueField",
    "VlanList",
    "WayOut",
    "WayOutProposal",
    "bundle_ports",
    "copy_segment",
    "copy_tenant",
    "copy_thing",
    "fresh",
    "inline_pair",
    "join_routed",
    "little_switch",
    "make",
    "make_pair",
    "new_cables",
    "new_device",
    "new_host",
    "new_ports",
    "only_theirs",
    "phone_and_desk",
    "port_names_of",
    "remove_ports",
    "rename_ports",
    "segment_fields",
    "thing_fields",
    "unique_fields",
    "vlan_list",
    "way_out",
    "way_out_proposals",
]
