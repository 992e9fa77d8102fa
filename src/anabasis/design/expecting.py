"""Add expectations to a document, each under a name of its own."""

from __future__ import annotations

import copy
from collections.abc import Iterable
from typing import Any

from anabasis.design.edits import Patch, Tree, difference


def expect(raw: Tree, wanted: Iterable[dict[str, Any]]) -> Patch:
    """Return the edit that adds expectations; those that stand there already, but for the name, are left out."""
    tree: Tree = copy.deepcopy(raw)
    for entry in wanted:
        known = tree.setdefault("expectations", [])
        if any(_said(k) == _said(entry) for k in known):
            continue
        taken = {k["name"] for k in known}
        names = (entry["name"], *(f"{entry['name']} {k}" for k in range(2, 1000)))
        known.append(entry | {"name": next(n for n in names if n not in taken)})
    return difference(raw, tree)


def _said(entry: dict[str, Any]) -> tuple[Any, ...]:
    services = tuple(entry.get("services", ["any"]))
    return entry["from"], entry["to"], services, entry["expect"], entry.get("through")
