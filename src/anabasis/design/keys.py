"""What tells an item of a list again in another state of the document: its name, number or ends, not its place."""

from __future__ import annotations

import json
from collections import Counter
from typing import Any

BY = ("id", "name", "tag", "vlan", "to", "interface")
"""The key an item is told by: the first of these it has. A VLAN of the plan is its number, a route its prefix."""
ORDERED = ("rules", "nat")
"""Lists whose order decides something."""


def key_of(item: Any) -> str:
    """Return what tells an item: its name or number; of a cable the two ends, either way round; of anything else all of it."""
    if isinstance(item, dict):
        named = next((k for k in BY if isinstance(item.get(k), str | int)), None)
        if named == "to":  # routes to one prefix differ by where they go
            return " ".join(str(item[k]) for k in ("to", "via", "interface", "vrf") if k in item)
        return str(item[named]) if named else json.dumps(item, sort_keys=True)
    if isinstance(item, list) and all(isinstance(x, str) for x in item):
        return " -- ".join(sorted(item))
    return json.dumps(item, sort_keys=True)


def keyed(items: list[Any]) -> dict[str, int]:
    """Return key -> index, in order; of items with one key the second is told by a number."""
    seen: Counter[str] = Counter()
    out: dict[str, int] = {}
    for i, item in enumerate(items):
        key = key_of(item)
        seen[key] += 1
        out[key if seen[key] == 1 else f"{key} #{seen[key]}"] = i
    return out
