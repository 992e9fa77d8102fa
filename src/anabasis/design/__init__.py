"""The document: its models by noun, references, files and edits. Start at `document.py`."""

from anabasis.design.document import Design, Expectation
from anabasis.design.edits import Patch, Tree, apply, difference, inverse
from anabasis.design.files import Loaded, dump_json, dump_yaml, load_file, load_text, parse_design, parse_text
from anabasis.design.items import Item, Link, all_links, item
from anabasis.design.membership import MembershipCell, set_membership, set_memberships
from anabasis.design.schema import json_schema

__all__ = [
    "Design",
    "Expectation",
    "Item",
    "Link",
    "Loaded",
    "MembershipCell",
    "Patch",
    "Tree",
    "all_links",
    "apply",
    "difference",
    "dump_json",
    "dump_yaml",
    "inverse",
    "item",
    "json_schema",
    "load_file",
    "load_text",
    "parse_design",
    "parse_text",
    "set_membership",
    "set_memberships",
]
