"""The table of layer-3 interfaces: ports, bundles, subinterfaces (`trunk.110`), VLAN interfaces (`vlan110`) and loopbacks, by their names."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.design import Tree
from anabasis.interchange.cells import words_of
from anabasis.interchange.things import Row, Work, refused, spelled

FIELDS = ("addresses", "vrf", "zone", "answers")
BASES = ("ports", "lags", "loopbacks", "tunnels")


class Interfaces:
    """One row an interface that says anything of layer 3."""

    name = "interfaces"
    columns = ("device", "interface", *FIELDS)
    written = columns

    def rows(self, tree: Tree) -> Iterator[Row]:
        """Yield the interfaces of every box, in the order of the document."""
        for device in tree.get("devices", []):
            for name, _, entry in _each(device):
                if any(entry.get(f) for f in FIELDS):
                    yield {"device": device["name"], "interface": name, **{f: spelled(entry.get(f)) for f in FIELDS}}

    def place(self, work: Work, row: Row) -> list[str]:
        """Set one interface; a subinterface or a VLAN interface that is not there yet is made, on a line or a box that is."""
        at, device = work.device(row.get("device", "").strip())
        name = row.get("interface", "").strip()
        where, entry = _entry(at, device, name)
        for column in (c for c in FIELDS if c in row):
            text = row[column].strip()
            value = words_of(text) if column == "addresses" else text
            if value:
                entry[column] = value
            else:
                entry.pop(column, None)
        return [where]


def _each(device: Tree) -> Iterator[tuple[str, str, Tree]]:
    """Yield (name, pointer inside the device, entry)."""
    for key in BASES:
        for i, base in enumerate(device.get(key, [])):
            yield base["name"], f"{key}/{i}", base
            for k, sub in enumerate(base.get("subinterfaces", [])):
                yield f"{base['name']}.{sub['tag']}", f"{key}/{i}/subinterfaces/{k}", sub
    for i, entry in enumerate(device.get("vlan_interfaces", [])):
        yield f"vlan{entry['vlan']}", f"vlan_interfaces/{i}", entry


def _entry(at: str, device: Tree, name: str) -> tuple[str, Tree]:
    known = {n: (f"{at}/{p}", e) for n, p, e in _each(device)}
    if name in known:
        return known[name]
    base, dot, tag = name.rpartition(".")
    if dot and base in known and tag.isascii() and tag.isdigit():
        where, line = known[base]
        subs = line.setdefault("subinterfaces", [])
        subs.append({"tag": int(tag)})
        line.setdefault("mode", "routed")
        return f"{where}/subinterfaces/{len(subs) - 1}", subs[-1]
    number = name.removeprefix("vlan")
    if (
        name.startswith("vlan")
        and number.isascii()
        and number.isdigit()
        and device["kind"] in ("switch", "firewall", "router")
    ):
        own = device.setdefault("vlan_interfaces", [])
        own.append({"vlan": int(number)})
        return f"{at}/vlan_interfaces/{len(own) - 1}", own[-1]
    raise refused("interface", f"{device['name']} has no interface of this name", name, known)
