"""The table of cables: a row each, or a row of cables side by side (`hall-sw:1-4` to `tank-sw:21-24`)."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Tree
from anabasis.design.making.patterns import port_names_of
from anabasis.interchange.things import Row, Work, refused


class Cables:
    """One row a cable. The document keeps no note of a cable, so none is written; one that is given says what it is for, and is told as nothing."""

    name = "cables"
    columns = ("from", "to")
    written = columns

    def rows(self, tree: Tree) -> Iterator[Row]:
        """Yield the cables, in the order of the document."""
        for one, two in tree.get("cables", []):
            yield {"from": one, "to": two}

    def place(self, work: Work, row: Row) -> list[str]:
        """Plug cables in; those that are there already stay as they are."""
        ends = [_ports(work, column, row.get(column, "")) for column in ("from", "to")]
        if len(ends[0]) != len(ends[1]):
            said = "both ends name as many ports"
            raise refused("to", said, f"{len(ends[0])} and {len(ends[1])}")
        return [work.plug(one, two) for one, two in zip(*ends, strict=True)]


def _ports(work: Work, column: str, text: str) -> list[str]:
    box, colon, ports = text.strip().partition(":")
    if not colon or not ports:
        raise refused(column, "an end is box:port", text, allowed="such as hall-sw:21, or hall-sw:21-24")
    device = next(
        (d for d in work.tree.get("devices", []) if box in (d["name"], *(u["name"] for u in d.get("units", [])))), None
    )
    if device is None:
        names = [u["name"] for d in work.tree.get("devices", []) for u in d.get("units") or [d]]
        raise refused(column, "there is no box of this name", box, names)
    known = {p["name"] for key in ("ports", "ssids") for p in device.get(key, [])}
    return [f"{box}:{name}" for name in port_names_of(ports, f"/{column}", known)]
