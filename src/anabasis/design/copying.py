"""Copy what one port is onto others of its device: VLANs and how it takes frames, never its name, note, cable or speed."""

from __future__ import annotations

import copy
from dataclasses import dataclass

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.whereabouts import device_entry, port_entry
from anabasis.errors import InputRefused, Problem

COPIED = (
    "mode",
    "pvid",
    "untagged",
    "tagged",
    "accept",
    "ingress_check",
    "isolated",
    "translate",
    "zone",
    "subinterfaces",
    "enabled",
)


@dataclass(frozen=True)
class CopyPort:
    """What a person asks for."""

    device: str
    port: str
    targets: str
    """Ports of the same device, as `2-5, 8`."""


def copy_port(raw: Tree, wanted: CopyPort) -> Patch:
    """Return the one edit that makes the targets like the port. Raises UnknownPlace, or InputRefused where there is no target."""
    tree: Tree = copy.deepcopy(raw)
    _, device = device_entry(tree, wanted.device)
    ports = {p["name"]: p for p in (*device.get("ports", []), *device.get("lags", []))}
    targets = expand(wanted.targets, list(ports))
    if not targets:
        raise InputRefused(
            [Problem("/targets", "names no port", repr(wanted.targets), "ports of the device, such as 2-5, 8")]
        )
    for name in [wanted.port, *targets]:
        port_entry(tree, wanted.device, name)
    source = ports[wanted.port]
    for name in targets:
        if name == wanted.port:
            continue
        target = ports[name]
        for key in COPIED:
            if key in source:
                target[key] = copy.deepcopy(source[key])
            else:
                target.pop(key, None)
    return difference(raw, tree)


def expand(text: str, known: list[str]) -> list[str]:
    """Return the names that `2-5, 8` stands for: a range of numbers, or a name as it is (a name with a dash in it stays one)."""
    out: list[str] = []
    for part in (p.strip() for p in text.split(",")):
        low, dash, high = part.partition("-")
        if part in known or not dash or not (low.isascii() and low.isdigit() and high.isascii() and high.isdigit()):
            out += [part] if part else []
        elif int(high) - int(low) > 4096:
            raise InputRefused([Problem("/targets", "a range this long names no ports", repr(part))])
        else:
            out += [str(n) for n in range(int(low), int(high) + 1)]
    return list(dict.fromkeys(out))
