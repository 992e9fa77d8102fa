"""JSON Pointers (RFC 6901) into a document: the one place where a pointer is taken apart. Everywhere else it is an item's name, and nothing more."""

from __future__ import annotations

from jsonpointer import JsonPointer, resolve_pointer

from anabasis.design.document import Design
from anabasis.design.edits import Tree

BOX, OF_BOX = 2, 4
"""How many steps lead to a box, and to something of a box."""


def upper(pointer: str, steps: int) -> str:
    """Return the item that the first steps of a pointer lead to."""
    return str(JsonPointer.from_parts(JsonPointer(pointer).parts[:steps]).path)


def in_list(pointer: str) -> tuple[str, int]:
    """Return the list that an item stands in, and its place there."""
    parts = JsonPointer(pointer).parts
    return str(JsonPointer.from_parts(parts[:-1]).path), int(parts[-1])


def lies_in(pointer: str, item: str) -> bool:
    """Tell whether a pointer leads to an item, or to something of it."""
    return pointer == item or pointer.startswith(f"{item}/")


def value_at(tree: Tree, pointer: str) -> object:
    """Return what stands at a pointer; None where there is nothing."""
    return resolve_pointer(tree, pointer, None)


def device_at(design: Design, pointer: str) -> str:
    """Return the name of the device a pointer leads to, or into; empty where it leads elsewhere."""
    parts = JsonPointer(pointer).parts
    return design.devices[int(parts[1])].name if len(parts) > 1 and parts[0] == "devices" else ""
