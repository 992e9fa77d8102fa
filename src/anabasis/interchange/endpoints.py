"""The table of endpoints: hosts with a name of their own, and the port they are plugged into."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Tree
from anabasis.interchange.cells import words_of
from anabasis.interchange.things import Row, Work, flag, refused, spelled


class Endpoints:
    """One row a host."""

    name = "endpoints"
    columns = ("name", "at", "addresses", "gateway", "dhcp")
    written = columns

    def rows(self, tree: Tree) -> Iterator[Row]:
        """Yield the endpoints, with where their first port leads."""
        far = {a: b for one, two in tree.get("cables", []) for a, b in ((one, two), (two, one))}
        for device in tree.get("devices", []):
            if device["kind"] == "endpoint":
                told = {c: spelled(device.get(c)) for c in ("addresses", "gateway", "dhcp")}
                yield {"name": device["name"], "at": far.get(f"{device['name']}:{_port(device)}", ""), **told}

    def place(self, work: Work, row: Row) -> list[str]:
        """Set one host; one that is not there yet is made. `at` moves its cable."""
        name = row.get("name", "").strip()
        if not name:
            raise refused("name", "this row names no host", "")
        new = name not in work.devices
        if not new and work.tree["devices"][work.devices[name]]["kind"] != "endpoint":
            raise refused("name", "another box has this name", name, allowed="another name")
        said = _said(row)
        at, device = work.device(name, make="endpoint")
        for column, value in said.items():
            if value in (None, []):
                device.pop(column, None)
            else:
                device[column] = value
        out = [at]
        if "at" in row:
            out += _plugged(work, device, row["at"].strip())
        return out


def _said(row: Row) -> Tree:
    out: Tree = {}
    if "addresses" in row:
        out["addresses"] = words_of(row["addresses"])
    if "gateway" in row:
        out["gateway"] = row["gateway"].strip() or None
    if "dhcp" in row:
        out["dhcp"] = flag("dhcp", row["dhcp"]) or None
    return out


def _plugged(work: Work, device: Tree, at: str) -> list[str]:
    """Lead the cable of a host to a port: its own, where it has one already."""
    mine = f"{device['name']}:{_port(device)}"
    held = next((k for k, cable in enumerate(work.tree.get("cables", [])) if mine in cable), None)
    if not at and held is not None:
        raise refused("at", "a cable is pulled by hand: it may be more than this row knows", mine, allowed="a port")
    if not at:
        return []
    if ":" not in at:
        raise refused("at", "an end is box:port", at, allowed="a free port, such as hall-sw:7")
    cables = work.tree.get("cables", [])
    if held is None or at in cables[held]:
        return [work.plug(at, mine, ("at", "at"))]
    return [work.lead(held, mine, at)]


def _port(device: Tree) -> str:
    """Return the first port of a host; one without any has one, called 1."""
    return str(next((p["name"] for p in device.get("ports", [])), "1"))
