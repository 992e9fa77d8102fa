"""Give a thing another name, or a VLAN another number, and change every reference with it, as one edit."""

from __future__ import annotations

import copy
from typing import Any

import jsonpointer

from anabasis.design.edits import Patch, Tree, difference
from anabasis.design.mentions import Mention, mentions
from anabasis.design.notation import parse_end, parse_name
from anabasis.design.targets import Targets
from anabasis.errors import InputRefused, Problem, UnknownPlace


def rename(raw: Tree, pointer: str, name: str) -> Patch:
    """Return the one edit. Raises UnknownPlace where nothing with a name is, InputRefused where there is nothing to change."""
    if pointer == "":
        return _design(raw, name)
    if name == _named(raw, pointer)["name"]:
        raise InputRefused([Problem(f"{pointer}/name", "it is called that already", repr(name))])
    return rename_all(raw, {pointer: name})


def rename_all(raw: Tree, names: dict[str, str]) -> Patch:
    """Return the one edit that gives several things their new names at once, so that two may change theirs with each other.

    Args:
        raw: the document.
        names: pointer -> new name. None of them lies inside another.
    """
    tree: Tree = copy.deepcopy(raw)
    entries = [(pointer, _named(tree, pointer), name) for pointer, name in names.items()]
    for name in names.values():
        check_name(name)
    targets = Targets(tree)
    named = [(m, _first(m, targets.of(m), entries)) for m in mentions(tree)]
    for mention, new in named:
        if new != mention.value:
            mention.become(new)
    for _, entry, name in entries:
        entry["name"] = name
    return difference(raw, tree)


def _first(mention: Mention, found: list[str], entries: list[tuple[str, Tree, str]]) -> Any:
    """Return what stands in a mention's place; it names one of the things at most."""
    told = (_renamed(mention, found, pointer, entry["name"], name) for pointer, entry, name in entries)
    return next((new for new in told if new != mention.value), mention.value)


def _design(raw: Tree, name: str) -> Patch:
    """Nothing names the design itself."""
    check_name(name)
    if name == raw["name"]:
        raise InputRefused([Problem("/name", "it is called that already", repr(name))])
    return difference(raw, raw | {"name": name})


def check_name(name: str) -> None:
    """Raise InputRefused, with one sentence, for a name that is badly written."""
    try:
        parse_name(name)
    except ValueError as error:
        raise InputRefused([Problem("/name", "badly written", repr(name), str(error))]) from None


def _named(tree: Tree, pointer: str) -> Tree:
    found: Any = jsonpointer.resolve_pointer(tree, pointer, None) if pointer.startswith("/") else None
    if not isinstance(found, dict) or "name" not in found:
        raise UnknownPlace([Problem(pointer, "nothing with a name is there")])
    return found


def _renamed(mention: Mention, found: list[str], pointer: str, old: str, name: str) -> Any:
    """Return what stands in a mention's place once the thing at a pointer has its new name."""
    if mention.kind == "cable-end":
        box, port = parse_end(mention.value)
        own = any((f + "/").startswith(pointer + "/") for f in found) and box == old
        if pointer in found and ("/ports/" in pointer or "/ssids/" in pointer):
            return f"{box}:{name}"
        return f"{name}:{port}" if own and not any("/units/" in f for f in found if f != pointer) else mention.value
    part_of = pointer in found or any(f.startswith(f"{pointer}/subinterfaces/") for f in found)
    return name + mention.value[len(old) :] if part_of and str(mention.value).startswith(old) else mention.value


def renumber(raw: Tree, pointer: str, number: int) -> Patch:
    """Return the one edit that gives a VLAN of the plan another number everywhere: tables, tags, memberships, interfaces."""
    tree: Tree = copy.deepcopy(raw)
    entry: Any = jsonpointer.resolve_pointer(tree, pointer, None) if pointer.startswith("/vlans/") else None
    if not isinstance(entry, dict) or "id" not in entry:
        raise UnknownPlace([Problem(pointer, "no VLAN of the plan is there")])
    old = entry["id"]
    if not 1 <= number <= 4094:
        raise InputRefused([Problem("/number", "no VLAN has this number", str(number), "1 to 4094")])
    if any(v["id"] == number for v in tree["vlans"]):
        raise InputRefused([Problem(f"{pointer}/id", "the plan has this VLAN already", str(number), "another number")])
    for mention in list(mentions(tree)):
        if mention.kind == "vlan" and mention.value == old:
            mention.become(number)
        elif mention.kind in ("interface", "line"):
            base, dot, tag = str(mention.value).rpartition(".")
            if dot and tag == str(old):
                mention.become(f"{base}.{number}")
            elif mention.value == f"vlan{old}":
                mention.become(f"vlan{number}")
    entry["id"] = number
    return difference(raw, tree)
