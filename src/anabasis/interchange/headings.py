"""What the headings of a table mean: the columns of its kind, or other words that people have for them."""

from __future__ import annotations

import re
from collections.abc import Sequence

from anabasis.errors import nearest
from anabasis.facts import Assumed, Assumption

OTHER_WORDS = {
    "vlan": "id", "vlan id": "id", "vid": "id", "vlan number": "id", "number": "id",
    "vlan name": "name", "title": "name", "hostname": "name", "host": "name", "rule": "name", "rule name": "name",
    "description": "note", "comment": "note", "comments": "note", "remark": "note", "remarks": "note", "label": "note",
    "subnet": "subnets", "network": "subnets", "prefix": "subnets", "ip range": "subnets",
    "switch": "device", "box": "device", "firewall": "device", "router": "device", "node": "device",
    "port name": "port", "if": "interface", "iface": "interface",
    "access vlan": "access", "trunk vlans": "trunk", "tagged vlans": "tagged", "untagged vlans": "untagged", "native vlan": "native", "port vlan id": "pvid",
    "address": "addresses", "ip": "addresses", "ip address": "addresses", "default gateway": "gateway",
    "end a": "from", "a": "from", "side a": "from", "end b": "to", "b": "to", "side b": "to", "source": "sources", "destination": "destinations",
    "src": "sources", "dst": "destinations", "service": "services", "from zone": "from", "to zone": "to",
    "next hop": "via", "destination prefix": "to", "port of": "at", "plugged in": "at", "location": "at",
    "range": "ranges", "pool": "ranges", "lease time": "lease_s", "dns servers": "dns", "members": "members", "mac": "hardware",
}  # fmt: skip
"""Other words for columns, in lower case; they count where the kind has the column, and no heading of its own name."""


def plain(heading: str) -> str:
    """Return a heading as it is looked for."""
    return re.sub(r"[\s_\-.]+", " ", heading.strip().lower())


def columns_of(cells: Sequence[str], columns: Sequence[str]) -> tuple[list[str | None], list[Assumption]] | None:
    """Return by cell the column that a heading means, and what was guessed; None where the line holds no headings.

    A line is one of headings where at least half of its cells mean something.
    """
    known = {plain(c): c for c in columns}
    own = {plain(c) for c in cells}
    out: list[str | None] = []
    guessed: list[Assumption] = []
    for cell in cells:
        word = plain(cell)
        column = known.get(word)
        if column is None:
            other = OTHER_WORDS.get(word)
            near = nearest(word, list(known)) if other is None and len(word) > 3 else None
            column = known.get(near) if near else None
            if other is not None and other in columns and plain(other) not in own:
                column = other
            if column is not None and column not in out:
                guessed.append(Assumption(Assumed.HEADING, cell, column))
        out.append(column if column not in out else None)
    good = sum(c is not None for c in out)
    return (out, guessed) if good and 2 * good >= sum(bool(c) for c in cells) else None
