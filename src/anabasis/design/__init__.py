"""The document: its models by noun, references, files and edits. Start at `document.py`."""

from anabasis.design.as_of import as_of, has_schedules
from anabasis.design.compare import Difference, compare
from anabasis.design.copying import CopyPort, copy_port
from anabasis.design.document import Design, Expectation
from anabasis.design.edits import Patch, Tree, apply, difference, inverse
from anabasis.design.expecting import expect
from anabasis.design.files import Loaded, dump_json, dump_yaml, load_file, load_text, parse_design, parse_text
from anabasis.design.items import Item, Link, all_links, item
from anabasis.design.membership import MembershipCell, same_membership, set_membership, set_memberships
from anabasis.design.merging import Clash, Meeting, Merged, meet, merge
from anabasis.design.modes import NewMode, Switched, switch_mode
from anabasis.design.new_segment import NewSegment, SegmentOptions, new_segment, segment_options
from anabasis.design.new_vlan import NewVlan, new_vlan, suggest_subnet
from anabasis.design.removal import Removal, remove, remove_vlan, remove_zone
from anabasis.design.renaming import rename, renumber
from anabasis.design.schema import json_schema
from anabasis.design.short_forms import ShortForm, in_short, set_short_form
from anabasis.design.siblings import Siblings, siblings

__all__ = [
    "Clash",
    "CopyPort",
    "Design",
    "Difference",
    "Expectation",
    "Item",
    "Link",
    "Loaded",
    "Meeting",
    "MembershipCell",
    "Merged",
    "NewMode",
    "NewSegment",
    "NewVlan",
    "Patch",
    "Removal",
    "SegmentOptions",
    "ShortForm",
    "Siblings",
    "Switched",
    "Tree",
    "all_links",
    "apply",
    "as_of",
    "compare",
    "copy_port",
    "difference",
    "dump_json",
    "dump_yaml",
    "expect",
    "has_schedules",
    "in_short",
    "inverse",
    "item",
    "json_schema",
    "load_file",
    "load_text",
    "meet",
    "merge",
    "new_segment",
    "new_vlan",
    "parse_design",
    "parse_text",
    "remove",
    "remove_vlan",
    "remove_zone",
    "rename",
    "renumber",
    "same_membership",
    "segment_options",
    "set_membership",
    "set_memberships",
    "set_short_form",
    "siblings",
    "suggest_subnet",
    "switch_mode",
]
