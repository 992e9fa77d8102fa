"""Short forms: what a port is to its VLANs said in a few words, and whole rows of ports set by it.

An access port holds one VLAN without tags; a trunk holds many with tags, and may hold a native one without;
a desk port holds its data VLAN without tags and the voice VLAN with.
"""

from __future__ import annotations

import copy
from dataclasses import dataclass, field
from typing import Any, Literal

from anabasis.design.copying import expand
from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.new_vlan import into_table
from anabasis.design.whereabouts import device_entry, port_entry
from anabasis.errors import InputRefused, Problem

Form = Literal["access", "trunk", "voice"]


@dataclass(frozen=True)
class ShortForm:
    """What a person asks for."""

    device: str
    ports: str
    """Ports and bundles of the device, as `2-5, 8, trunk`."""
    form: Form
    vlan: int | None = None
    """access: the VLAN; voice: the data VLAN; trunk: the native VLAN, if any."""
    tagged: list[int] = field(default_factory=list)
    """trunk: the VLANs it carries; voice: the voice VLAN."""


def set_short_form(raw: Tree, wanted: ShortForm) -> Patch:
    """Return the one edit that makes all the ports so, the device's VLAN table with them.

    Raises UnknownPlace for a port that is none, InputRefused for a form that lacks something.
    """
    tree: Tree = copy.deepcopy(raw)
    _, device = device_entry(tree, wanted.device)
    known = [p["name"] for key in ("ports", "lags") for p in device.get(key, [])]
    names = expand(wanted.ports, known)
    _check(wanted, names)
    tagged = sorted({v for v in wanted.tagged if v != wanted.vlan}) if wanted.form != "access" else []
    untagged = [wanted.vlan] if wanted.vlan else []
    for name in names:
        _, entry = port_entry(tree, wanted.device, name)
        for key, value in (("pvid", wanted.vlan), ("untagged", untagged), ("tagged", tagged)):
            if value:
                entry[key] = value
            else:
                entry.pop(key, None)
        entry.pop("accept", None)
    for vlan in (*untagged, *tagged):
        into_table(tree, wanted.device, vlan)
    return difference(raw, tree)


def _check(wanted: ShortForm, names: list[str]) -> None:
    if not names:
        raise InputRefused([Problem("/ports", "names no port", repr(wanted.ports), "ports of the device, as 2-5, 8")])
    if wanted.form != "trunk" and wanted.vlan is None:
        raise InputRefused([Problem("/vlan", "an access or desk port needs the VLAN it holds without tags")])
    if wanted.form != "access" and not wanted.tagged:
        raise InputRefused([Problem("/tagged", "a trunk or desk port needs the VLANs it carries with tags")])


def in_short(port: dict[str, Any], edge: bool) -> str:
    """Say what a bridged port is to its VLANs. `edge`: no device that bridges is at the other end."""
    pvid, untagged, tagged = port.get("pvid"), port.get("untagged", []), port.get("tagged", [])
    plain = untagged == ([pvid] if pvid else [])
    if not plain:
        out = f"sends {_list(untagged) or 'none'} without tags, takes them into {pvid or 'none'}"
        return out + (f"; tagged {_list(tagged)}" if tagged else "")
    if not tagged:
        return f"access VLAN {pvid}" if pvid else "in no VLAN"
    if edge and pvid and len(tagged) == 1:
        return f"data {pvid} + voice {tagged[0]}"
    return f"trunk of {_list(tagged)}" + (f"; native {pvid}" if pvid else "")


def _list(vlans: list[int]) -> str:
    return ", ".join(map(str, vlans))
