"""The boxes that stand in for those of a design: what each says, and how it behaves."""

from __future__ import annotations

import copy
from dataclasses import dataclass
from enum import StrEnum

from anabasis.design import Tree
from anabasis.interchange import Objects, to_objects

OWN = "anabasis-site:"


class Manner(StrEnum):
    """How a box answers."""

    PLAIN = "plain"
    SLOW = "slow"
    """After a while."""
    SILENT = "silent"
    """Not at all, though somebody is there."""
    REFUSING = "refusing"
    """That it does not know who asks."""
    LYING = "lying"
    """What cannot be: VLANs beyond the last, prefixes longer than addresses, ports that are called alike."""


SLOW_S = 1.0


@dataclass(frozen=True)
class Box:
    """One box that answers."""

    name: str
    port: int
    """Of RESTCONF (TCP) and of SNMP (UDP)."""
    manner: Manner
    data: Tree
    objects: Objects


def boxes_of(said: dict[str, Tree], first_port: int, manners: dict[str, Manner], own: bool = True) -> list[Box]:
    """Return a box for each that has something to say. `own`: whether they speak our own module too."""
    out: list[Box] = []
    for k, (name, data) in enumerate(said.items()):
        manner = manners.get(name, Manner.PLAIN)
        held = data if own else {key: value for key, value in data.items() if not key.startswith(OWN)}
        held = _lie(held) if manner == Manner.LYING else held
        objects = {} if manner == Manner.LYING else to_objects(held)
        out.append(Box(name, first_port + k, manner, held, objects))
    return out


def _lie(data: Tree) -> Tree:
    out: Tree = copy.deepcopy({k: v for k, v in data.items() if not k.startswith(OWN)})
    for interface in out.get("ietf-interfaces:interfaces", {}).get("interface", []):
        interface["name"] = 7
        for address in interface.get("ietf-ip:ipv4", {}).get("address", []):
            address["prefix-length"] = 99
    for bridge in out.get("ieee802-dot1q-bridge:bridges", {}).get("bridge", []):
        bridge["component"] = [{"bridge-vlan": {"vlan": [{"vid": 70000}, "nothing", None]}}]
    out["ietf-routing:routing"] = ["nowhere"]
    return out
