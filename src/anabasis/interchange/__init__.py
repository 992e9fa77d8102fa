"""Ways in and out: plain tables, and open formats (docs/formats.md). Each reader answers a proposal; nothing is applied before a person has looked."""

from anabasis.design import Tree
from anabasis.interchange.book import cabling_svg, matrix_svg, site_book
from anabasis.interchange.computed import COMPUTED, write_computed
from anabasis.interchange.drift import changed, drift, take_over
from anabasis.interchange.mibs import SYSTEM_NAME, WALKED, Objects, Value, from_objects, joined, to_objects
from anabasis.interchange.proposal import Proposal
from anabasis.interchange.seen import Seen
from anabasis.interchange.tables import TABLES, kind_of, read_table, write_table
from anabasis.interchange.topology import NETWORKS, read_topology, write_topology
from anabasis.interchange.yang.files import seen_of, write_yang
from anabasis.interchange.yang.module import module_text
from anabasis.interchange.yang.names import MODULES_READ
from anabasis.interchange.yang.proposing import read_yang
from anabasis.interchange.yang.state import site_data

TOPOLOGY, YANG = "topology", "yang"
"""The kinds that are no table: a network topology (RFC 8345), and data of YANG modules (RFC 7951)."""


def read(kind: str, text: str, tree: Tree, replace: bool = False) -> Proposal:
    """Return what reading a table, or a file of another kind, into a document would do. `kind`: empty = what fits best. Raises InputRefused."""
    data = not kind and text.lstrip()[:1] in ("{", "<")
    if kind == YANG or (data and not _is_topology(text)):
        return read_yang(text, tree, replace)
    if kind == TOPOLOGY or data:
        return read_topology(text, tree)
    return read_table(kind or kind_of(text) or "vlans", text, tree, replace)


def _is_topology(text: str) -> bool:
    """Tell whether a file speaks of a topology, and of nothing that only modules of boxes say."""
    return NETWORKS in text and "ietf-interfaces:" not in text and "anabasis-site:site" not in text


def write(kind: str, tree: Tree, device: str = "") -> str:
    """Return a table of a document, or a file of another kind, as text. `device`: of YANG data those of one box. Raises InputRefused for a kind that is none."""
    if kind == YANG:
        return write_yang(tree, device)
    return write_topology(tree) if kind == TOPOLOGY else write_table(kind, tree)


__all__ = [
    "COMPUTED",
    "MODULES_READ",
    "SYSTEM_NAME",
    "TABLES",
    "TOPOLOGY",
    "WALKED",
    "YANG",
    "Objects",
    "Seen",
    "Value",
    "cabling_svg",
    "changed",
    "drift",
    "from_objects",
    "joined",
    "matrix_svg",
    "module_text",
    "read",
    "seen_of",
    "site_book",
    "site_data",
    "take_over",
    "to_objects",
    "write",
    "write_computed",
]
