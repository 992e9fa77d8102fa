"""The table of reservations: addresses that a server keeps for one host each (RFC 2131 section 4.3.1)."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Tree
from anabasis.interchange.things import Row, Work, refused


class Reservations:
    """One row a reservation; the server is told by its box and its interface."""

    name = "reservations"
    columns = ("device", "interface", "name", "address", "hardware", "note")

    def rows(self, tree: Tree) -> Iterator[Row]:
        """Yield the reservations of every server."""
        for device in tree.get("devices", []):
            for server in device.get("dhcp", []) if isinstance(device.get("dhcp"), list) else []:
                for held in server.get("reservations", []):
                    told = {c: held.get(c) or "" for c in ("name", "address", "hardware", "note")}
                    yield {"device": device["name"], "interface": server["interface"], **told}

    def place(self, work: Work, row: Row) -> list[str]:
        """Set one reservation; there has to be a server on the interface."""
        at, device = work.device(row.get("device", "").strip() or _only(work))
        interface, name = row.get("interface", "").strip(), row.get("name", "").strip()
        if not name:
            raise refused("name", "this row names no host", "")
        servers = device.get("dhcp", []) if isinstance(device.get("dhcp"), list) else []
        k = next((k for k, s in enumerate(servers) if s["interface"] == interface), None)
        if k is None:
            said = "no server hands out addresses on this interface"
            raise refused("interface", said, interface, [s["interface"] for s in servers])
        held = servers[k].setdefault("reservations", [])
        where, entry = work.entry(f"{at}/dhcp/{k}/reservations", held, (name,), ("name",))
        for column in ("address", "hardware", "note"):
            value = row.get(column, entry.get(column) or "").strip()
            if value:
                entry[column] = value
            else:
                entry.pop(column, None)
        return [where]


def _only(work: Work) -> str:
    """Return the one box with servers, where there is just one."""
    found = [d["name"] for d in work.tree.get("devices", []) if isinstance(d.get("dhcp"), list) and d["dhcp"]]
    if len(found) != 1:
        raise refused("device", "the row has to say on which box", "", found)
    return str(found[0])
