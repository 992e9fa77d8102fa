"""The document: its models by noun, references, files and edits. Start at `document.py`."""

from anabasis.design.copying import CopyPort, copy_port
from anabasis.design.document import Design, Expectation
from anabasis.design.edits import Patch, Tree, apply, difference, inverse
from anabasis.design.files import Loaded, dump_json, dump_yaml, load_file, load_text, parse_design, parse_text
from anabasis.design.items import Item, Link, all_links, item
from anabasis.design.membership import MembershipCell, set_membership, set_memberships
from anabasis.design.new_vlan import NewVlan, new_vlan, remove_vlan, suggest_subnet
from anabasis.design.schema import json_schema

__all__ = [
    "CopyPort",
    "Design",
    "Expectation",
    "Item",
    "Link",
    "Loaded",
    "MembershipCell",
    "NewVlan",
    "Patch",
    "Tree",
    "all_links",
    "apply",
    "copy_port",
    "difference",
    "dump_json",
    "dump_yaml",
    "inverse",
    "item",
    "json_schema",
    "load_file",
    "load_text",
    "new_vlan",
    "parse_design",
    "parse_text",
    "remove_vlan",
    "set_membership",
    "set_memberships",
    "suggest_subnet",
]
