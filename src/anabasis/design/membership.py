"""Edits of VLAN membership: what a person does to one cell of the VLAN grid, as a JSON Patch."""

from __future__ import annotations

import copy
from dataclasses import dataclass
from typing import Any, Literal

from anabasis.design.edits import Patch, Tree, difference, patched
from anabasis.design.whereabouts import device_entry, port_entry
from anabasis.errors import InputRefused, Problem

Cell = Literal["none", "tagged", "untagged"]


@dataclass(frozen=True)
class MembershipCell:
    """One cell of the grid, and what it shall be."""

    device: str
    port: str
    vlan: int
    cell: Cell


def set_memberships(raw: Tree, cells: list[MembershipCell]) -> Patch:
    """Return one edit for many cells. Raises UnknownPlace and returns nothing where one of them is none."""
    tree: Tree = copy.deepcopy(raw)
    for one in cells:
        tree = patched(tree, set_membership(tree, one.device, one.port, one.vlan, one.cell))
    return difference(raw, tree)


def set_membership(raw: Tree, device: str, port: str, vlan: int, cell: Cell) -> Patch:
    """Return the edit that makes `port` a tagged, an untagged or no member of `vlan`.

    Untagged also sets the PVID, so that frames pass both ways; leaving a VLAN that is the PVID takes the PVID away.
    An untagged member that was the only one before is replaced, as a port sends one VLAN without tags in all but odd cases.
    """
    networks = {s["name"]: i for i, s in enumerate(device_entry(raw, device)[1].get("ssids", []))}
    if port in networks:
        return _network(f"{device_entry(raw, device)[0]}/ssids/{networks[port]}", port, vlan, cell)
    at, entry = port_entry(raw, device, port)
    tagged = [v for v in entry.get("tagged", []) if v != vlan]
    untagged = [v for v in entry.get("untagged", []) if v != vlan]
    pvid = entry.get("pvid")
    if cell == "tagged":
        tagged = sorted([*tagged, vlan])
    if cell == "untagged":
        untagged = [vlan] if len(untagged) <= 1 else sorted([*untagged, vlan])
        pvid = vlan
    elif pvid == vlan:
        pvid = None
    patch: Patch = []
    for key, value, empty in (("pvid", pvid, None), ("untagged", untagged, []), ("tagged", tagged, [])):
        patch += _put(entry, at, key, value, empty)
    return patch


def _network(at: str, name: str, vlan: int, cell: Cell) -> Patch:
    """An SSID is in one VLAN, without tags: another can take its place, and it cannot be in none. Raises InputRefused."""
    if cell != "untagged":
        raise InputRefused(
            [Problem(at, "an SSID is untagged in one VLAN", f"{name}: {cell}", "untagged in another VLAN")]
        )
    return [{"op": "replace", "path": f"{at}/vlan", "value": vlan}]


def _put(entry: dict[str, Any], at: str, key: str, value: Any, empty: Any) -> Patch:
    if entry.get(key, empty) == value:
        return []
    if value == empty:
        return [{"op": "remove", "path": f"{at}/{key}"}]
    return [{"op": "replace" if key in entry else "add", "path": f"{at}/{key}", "value": value}]


def same_membership(raw: Tree, model: tuple[str, str], target: tuple[str, str]) -> Patch:
    """Return the edit that puts `target` (device, port) into the VLANs of `model`, tagged and untagged alike, PVID with them."""
    _, wanted = port_entry(raw, *model)
    at, entry = port_entry(raw, *target)
    patch: Patch = []
    for key, empty in (("pvid", None), ("untagged", []), ("tagged", [])):
        patch += _put(entry, at, key, wanted.get(key, empty), empty)
    return patch
