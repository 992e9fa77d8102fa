"""The table of ports: their mode and VLANs, as settings, or in short forms (access, trunk, native)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import get_args

from anabasis.design import Tree
from anabasis.design.ports import Mode
from anabasis.facts import Assumed, Assumption
from anabasis.interchange.cells import words_of
from anabasis.interchange.things import Row, Work, flag, refused, spelled

COLUMNS = ("device", "port", "mode", "pvid", "untagged", "tagged", "note", "enabled")
SHORT = ("access", "trunk", "native")
MODES = get_args(Mode)


class Ports:
    """One row a port, or a bundle."""

    name = "ports"
    columns = COLUMNS + SHORT
    written = COLUMNS

    def rows(self, tree: Tree) -> Iterator[Row]:
        """Yield the ports of every box, bundles behind them."""
        for device in tree.get("devices", []):
            for key in ("ports", "lags"):
                for port in device.get(key, []):
                    told = {c: spelled(port.get(c)) for c in COLUMNS[2:]}
                    yield {"device": device["name"], "port": port["name"], **told}

    def place(self, work: Work, row: Row) -> list[str]:
        """Set one port; a box or a VLAN that is not there yet is made."""
        name, port = row.get("device", "").strip(), row.get("port", "").strip()
        if not port:
            raise refused("port", "this row names no port", "")
        if not name and ":" in port:
            name, _, port = port.partition(":")
        said = _settings(row)
        at, device = work.device(name, make="switch")
        key = "lags" if any(b["name"] == port for b in device.get("lags", [])) else "ports"
        held = device.setdefault(key, [])
        known = len(held)
        where, entry = work.entry(f"{at}/{key}", held, (port,), ("name",))
        if len(held) > known and Assumption(Assumed.DEVICE, name, "switch") not in work.assumed:
            work.assumed.append(Assumption(Assumed.PORT, f"{name}:{port}"))
        had = {*entry.get("tagged", []), *entry.get("untagged", []), entry.get("pvid")}
        for column, value in said.items():
            if value in (None, []):
                entry.pop(column, None)
            else:
                entry[column] = value
        for vlan in {*said.get("tagged", []), *said.get("untagged", []), said.get("pvid")} - had - {None}:
            work.vlan(vlan)
            if "vlans" in device and vlan not in device["vlans"]:
                device["vlans"] = sorted([*device["vlans"], vlan])
        return [where]


def _settings(row: Row) -> Tree:
    """Return what a row says of a port; a column that is not there leaves its setting out."""
    out: Tree = {}
    for column in ("untagged", "tagged"):
        if column in row:
            out[column] = _vlans(column, row[column])
    if "pvid" in row:
        out["pvid"] = _one("pvid", row["pvid"])
    if "mode" in row:
        mode = row["mode"].strip().lower()
        if mode and mode not in (*MODES, "access", "trunk"):
            raise refused("mode", "no mode of a port", mode, MODES)
        out["mode"] = mode if mode in MODES else None
    if "enabled" in row:
        out["enabled"] = False if flag("enabled", row["enabled"]) is False else None
    if "note" in row:
        out["note"] = row["note"].strip() or None
    access, trunk, native = (row.get(c, "").strip() for c in SHORT)
    if access and trunk:
        raise refused("access", "a port is access or trunk", access, allowed="one of the two")
    if access:
        vlan = _one("access", access)
        out |= {"pvid": vlan, "untagged": [vlan], "tagged": []}
    elif trunk or native:
        vlan = _one("native", native)
        out |= {
            "tagged": [v for v in _vlans("trunk", trunk) if v != vlan],
            "pvid": vlan,
            "untagged": [vlan] if vlan else [],
        }
    return out


def _one(column: str, text: str) -> int | None:
    found = _vlans(column, text)
    if len(found) > 1:
        raise refused(column, "one VLAN stands here", text)
    return found[0] if found else None


def _vlans(column: str, text: str) -> list[int]:
    """Return the VLANs of a cell: numbers, and ranges such as 20-29."""
    out: list[int] = []
    for word in words_of(text):
        low, dash, high = word.partition("-")
        if not (low.isascii() and low.isdigit() and (not dash or (high.isascii() and high.isdigit()))):
            raise refused(column, "no VLAN number", word, allowed="1 to 4094, and ranges such as 20-29")
        first, last = int(low), int(high) if dash else int(low)
        if not 1 <= first <= last <= 4094:
            raise refused(column, "no VLAN number", word, allowed="1 to 4094, and ranges such as 20-29")
        out += range(first, last + 1)
    return sorted(set(out))
