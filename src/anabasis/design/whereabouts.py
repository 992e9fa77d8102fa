"""Find a device, a port or a bundle in a plain document by its name, with the nearest name where there is none."""

from __future__ import annotations

from anabasis.design.edits import Tree
from anabasis.design.notation import pointer
from anabasis.errors import Problem, UnknownPlace, nearest


def device_entry(tree: Tree, name: str) -> tuple[str, Tree]:
    """Return (pointer, device). Raises UnknownPlace."""
    names = [d["name"] for d in tree.get("devices", [])]
    if name not in names:
        said = "there is no device of this name"
        raise UnknownPlace([Problem("/devices", said, repr(name), ", ".join(names[:12]), nearest(name, names))])
    d = names.index(name)
    return pointer("devices", d), tree["devices"][d]


def port_names(device: Tree) -> set[str]:
    """Return how the ports and bundles of a device are called."""
    return {e["name"] for kind in ("ports", "lags") for e in device.get(kind, [])}


def port_entry(tree: Tree, device: str, port: str) -> tuple[str, Tree]:
    """Return (pointer, port or bundle). Raises UnknownPlace."""
    at, box = device_entry(tree, device)
    for kind in ("ports", "lags"):
        for i, entry in enumerate(box.get(kind, [])):
            if entry["name"] == port:
                return f"{at}/{kind}/{i}", entry
    known = [e["name"] for kind in ("ports", "lags") for e in box.get(kind, [])]
    said = f"{device} has no port of this name"
    raise UnknownPlace([Problem(at, said, repr(port), ", ".join(known[:12]), nearest(port, known))])
