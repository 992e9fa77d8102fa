"""A copy of any thing of a document: another name, number and addresses, the rest alike; one edit."""

from __future__ import annotations

import copy
from collections.abc import Iterator
from dataclasses import dataclass, field
from ipaddress import IPv4Address, ip_interface
from typing import Any

import jsonpointer

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.making.devices import addresses_in, next_address
from anabasis.design.making.fresh import fresh
from anabasis.design.making.tenants import UniqueField, UniqueKind
from anabasis.design.notation import parse_interface
from anabasis.design.renaming import check_name
from anabasis.errors import InputRefused, Problem, UnknownPlace

NUMBERED = {"vlans": ("vlan", "id"), "subinterfaces": ("subinterface", "tag"), "vlan_interfaces": ("vlan-interface", "vlan")}  # fmt: skip
"""Lists whose things have a number instead of a name, or beside it: the kind that proposes one, and its key."""
OWN = ("hardware", "drills")
"""What only the one has."""


@dataclass(frozen=True)
class CopyThing:
    """What a person asks for."""

    pointer: str
    name: str = ""
    """Empty = the next that is free: `quay-2`."""
    values: dict[str, str] = field(default_factory=dict)
    """By kind and what it was, `address 10.64.130.1/24`, what it is to be; left out = as proposed."""


def thing_fields(raw: Tree, wanted: CopyThing) -> list[UniqueField]:
    """Return what a copy has of its own, with a value for each: a person's, else the next that is free; empty = it goes without.

    Raises as `copy_thing` does.
    """
    return _Copied(raw, wanted).fields


def copy_thing(raw: Tree, wanted: CopyThing) -> Patch:
    """Return the one edit; the copy stands behind what it is a copy of, a box at the end.

    Nothing is cabled to it. Raises UnknownPlace where nothing that can be copied is, InputRefused for a name or a value that is badly written or taken.
    """
    return difference(raw, _Copied(raw, wanted).tree)


class _Copied:
    """A document with the copy in it."""

    def __init__(self, raw: Tree, wanted: CopyThing) -> None:
        self.tree: Tree = copy.deepcopy(raw)
        self.wanted = wanted
        self.fields: list[UniqueField] = []
        tree, above, last = self.tree, *wanted.pointer.rpartition("/")[::2]
        entries: Any = jsonpointer.resolve_pointer(tree, above, None) if wanted.pointer.startswith("/") else None
        if not (isinstance(entries, list) and last.isdigit() and int(last) < len(entries) and isinstance(entries[int(last)], dict)):  # fmt: skip
            raise UnknownPlace(
                [Problem(wanted.pointer, "nothing that can be copied is there", allowed="a box, a rule, a zone")]
            )
        key = above.rpartition("/")[2]
        steps = above.split("/")
        device: Tree = tree["devices"][int(steps[2])] if steps[1] == "devices" and len(steps) > 3 else {}
        made: Tree = copy.deepcopy(entries[int(last)])
        if "name" in made:
            name = _name(tree, device, made["name"], entries, key, wanted.name)
            self.fields.append(UniqueField("name", made["name"], name))
            made["name"] = name
        numbered = NUMBERED if "/mac_vrfs/" not in above else {"vlans": ("stretched", "vlan")}
        if key in numbered:
            self._number(raw, made, numbered[key], above.rpartition("/")[0])
        for unit in made.get("units", []):
            name = _name(
                tree,
                device,
                unit["name"],
                [*made["units"], {"name": made["name"]}],
                "devices",
                self._own("unit", unit["name"]),
            )
            self.fields.append(UniqueField("unit", unit["name"], name))
            unit["name"] = name
        entries.insert(len(entries) if key == "devices" else int(last) + 1, made)
        if key not in numbered:
            self._addresses(made)
            self._router_ids(made)

    def _own(self, kind: UniqueKind, was: str) -> str:
        return self.wanted.values.get(f"{kind} {was}", "").strip()

    def _number(self, raw: Tree, made: Tree, number: tuple[str, str], owner: str) -> None:
        kind, key = number
        proposed = fresh(raw, kind, owner).value
        if not proposed.get(key):
            raise InputRefused(
                [Problem(self.wanted.pointer, "no VLAN is left that a copy could be of", allowed="a VLAN first")]
            )
        self.fields.append(UniqueField("VLAN", str(made[key]), str(proposed[key])))
        made[key] = proposed[key]
        for said in ("subnets", "addresses", "vni", "irb"):
            if said in made:
                made[said] = proposed.get(said, [] if said in ("subnets", "addresses") else None)

    def _addresses(self, made: Tree) -> None:
        """Give every interface of the copy addresses that nobody has, in the same subnets; where none is left it goes without."""
        for holder in _interfaces(made):
            held, holder["addresses"] = holder["addresses"], []
            for was in held:
                own = self._own("address", was)
                now = self._checked(was, own) if own else next_address(self.tree, str(ip_interface(was).network))
                self.fields.append(UniqueField("address", was, now or ""))
                holder["addresses"] += [now] if now else []

    def _checked(self, was: str, own: str) -> str:
        """Return an address a person gave. Raises InputRefused where it is badly written, or somebody has it."""
        at = f"/values/address {was}"
        try:
            address = parse_interface(own)
        except ValueError:
            raise InputRefused(
                [Problem(at, "badly written", repr(own), "an address with its length, such as 10.64.130.7/24")]
            ) from None
        if any(address.ip == a.ip for a in map(ip_interface, addresses_in(self.tree)) if a.version == address.version):
            free = next_address(self.tree, str(address.network))
            raise InputRefused([Problem(at, "somebody has this address", repr(own), "one that is free", free)])
        return own

    def _router_ids(self, made: Tree) -> None:
        """Give the copy router ids of its own: the next number after each that no box has (RFC 2328, C.1)."""
        taken = {o["router_id"] for o in _domains(self.tree) if o.get("router_id")}
        for domain in _domains(made):
            was = domain.get("router_id")
            if was:
                own = self._own("router id", was)
                if own in taken:
                    raise InputRefused(
                        [Problem(f"/values/router id {was}", "another box has it", repr(own), "one that is free")]
                    )
                domain["router_id"] = own or next(
                    n
                    for k in range(1, 65_536)
                    if (n := str(IPv4Address((int(IPv4Address(was)) + k) % 2**32))) not in taken
                )
                taken.add(domain["router_id"])
                self.fields.append(UniqueField("router id", was, domain["router_id"]))


def _domains(node: Any) -> Iterator[Tree]:
    """Yield the OSPF settings of VRFs in a part of a document."""
    if isinstance(node, list):
        for inside in node:
            yield from _domains(inside)
    elif isinstance(node, dict):
        for key, inside in node.items():
            if key == "ospf" and isinstance(inside, dict):
                yield inside
            elif isinstance(inside, dict | list):
                yield from _domains(inside)


def _name(tree: Tree, device: Tree, name: str, entries: list[Tree], key: str, wanted: str) -> str:
    if wanted:
        check_name(wanted)
        return wanted
    taken = {e.get("name") for e in entries}
    if key == "devices":
        taken |= {b["name"] for d in tree["devices"] for b in (d, *d.get("units", []))}
    if key in ("ports", "lags"):
        taken |= {e["name"] for k in ("ports", "lags") for e in device.get(k, [])}
    head = name.rstrip("0123456789")
    start, base = (int(name[len(head) :]) + 1, head) if head != name else (2, f"{name}-")
    return next(n for k in range(start, start + 10_000) if (n := f"{base}{k}") not in taken)


def _interfaces(node: Any) -> Iterator[Tree]:
    """Yield whatever of a thing holds addresses with their length, and drop what only one can have."""
    if isinstance(node, list):
        for inside in node:
            yield from _interfaces(inside)
    elif isinstance(node, dict):
        for own in OWN:
            node.pop(own, None)
        if any("/" in a for a in node.get("addresses", [])):
            yield node
        for inside in node.values():
            yield from _interfaces(inside)
