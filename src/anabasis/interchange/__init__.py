"""Ways in and out: plain tables, and open formats (docs/formats.md). Each reader answers a proposal; nothing is applied before a person has looked."""

from anabasis.design import Tree
from anabasis.interchange.proposal import Proposal
from anabasis.interchange.tables import TABLES, kind_of, read_table, write_table
from anabasis.interchange.topology import read_topology, write_topology

TOPOLOGY = "topology"
"""The kind of a network topology (RFC 8345), which is no table."""


def read(kind: str, text: str, tree: Tree, replace: bool = False) -> Proposal:
    """Return what reading a table, or a file of another kind, into a document would do. `kind`: empty = what fits best. Raises InputRefused."""
    if kind == TOPOLOGY or (not kind and text.lstrip().startswith("{")):
        return read_topology(text, tree)
    return read_table(kind or kind_of(text) or "vlans", text, tree, replace)


def write(kind: str, tree: Tree) -> str:
    """Return a table of a document, or a file of another kind, as text. Raises InputRefused for a kind that is none."""
    return write_topology(tree) if kind == TOPOLOGY else write_table(kind, tree)


__all__ = ["TABLES", "TOPOLOGY", "read", "write"]
