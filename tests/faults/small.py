"""A small design that faults are tried on."""

from __future__ import annotations

from typing import Any

SMALL: dict[str, Any] = {
    "anabasis": 1,
    "name": "Buoy shed",
    "vlans": [{"id": 7, "name": "buoys", "subnets": ["10.71.7.0/24"]}],
    "devices": [
        {
            "name": "sw",
            "kind": "switch",
            "ports": [{"name": "1", "pvid": 7, "untagged": [7]}, {"name": "2", "tagged": [7]}],
        },
        {"name": "winch", "kind": "endpoint", "addresses": ["10.71.7.9/24"]},
    ],
    "cables": [["sw:1", "winch:1"]],
}
