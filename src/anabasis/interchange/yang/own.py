"""What a document says beyond the modules of the standards, as data of our own module `anabasis-site` (RFC 7951; docs/yang).

Two steps. `rest` keeps of a part what reading the standards' modules does not give back, and `overlay` puts it on top again. `encode` and
`decode` write that with the nodes of the module: `_` is `-`, an entry of a list that nothing tells apart has a `position` (a list of
configuration needs a key, RFC 7950 section 7.8.2), a map is a list of `key` and `value`, and what YANG cannot say stands in a leaf-list of names.
"""

from __future__ import annotations

from typing import Any

from anabasis.design import Tree

KEYS = ("name", "tag", "vlan", "id")
"""What tells an entry of a list from the others, where it has it."""
MAPS = frozenset(("options", "translate", "traits"))
EITHER = frozenset(("gateway", "tags", "advertise", "routes"))
"""Settings that are one word or a list of values: the list has a node of its own."""
LEFT_OUT, WHOLE, EMPTY, NONE = "left-out", "whole", "empty", "none"
MARKS = (LEFT_OUT, WHOLE, EMPTY, NONE)
"""Leaf-lists of names: of what the standards' part says and the document leaves out; of lists that replace what is there; of lists and
containers without an entry; of settings that are null."""
POSITION, END, KEY, VALUE = "position", "end", "key", "value"


def key_of(entries: list[Any]) -> str | None:
    """Return which setting tells the entries of a list apart; None where none does."""
    for key in KEYS:
        held = [e[key] for e in entries if isinstance(e, dict) and isinstance(e.get(key), str | int)]
        if len(held) == len(entries) and len(set(held)) == len(held):
            return key
    return None


def _same(one: Any, two: Any) -> bool:
    """Tell whether two values are written alike: true is not 1."""
    if isinstance(one, dict) and isinstance(two, dict):
        return one.keys() == two.keys() and all(_same(one[k], two[k]) for k in one)
    if isinstance(one, list) and isinstance(two, list):
        return len(one) == len(two) and all(_same(x, y) for x, y in zip(one, two, strict=True))
    return type(one) is type(two) and bool(one == two)


def rest(read: Tree, wanted: Tree) -> Tree:
    """Return what a part says beyond what was read, with marks for what `overlay` cannot see by itself."""
    out: Tree = {}
    left = [key for key in read if key not in wanted]
    whole: list[str] = []
    for key, value in wanted.items():
        if key not in read:
            out[key] = value
        elif not _same(read[key], value):
            parted = _parted(read[key], value)
            if parted is None:
                whole.append(key)
                out[key] = value
            else:
                out[key] = parted
    return out | ({LEFT_OUT: left} if left else {}) | ({WHOLE: whole} if whole else {})


def _parted(read: Any, wanted: Any) -> list[Tree] | None:
    """Return the rest of each entry that has one; None where the lists hold others, or in another order."""
    if not (isinstance(read, list) and isinstance(wanted, list)):
        return None
    key = key_of(wanted)
    if key is None or key_of(read) != key or [e[key] for e in read] != [e[key] for e in wanted]:
        return None
    rests = [{key: b[key]} | rest(a, b) for a, b in zip(read, wanted, strict=True)]
    return [r for r in rests if len(r) > 1]


def overlay(read: Tree, more: Tree) -> Tree:
    """Return what was read with the rest on top."""
    left, whole = set(more.get(LEFT_OUT, ())), set(more.get(WHOLE, ()))
    out = {key: value for key, value in read.items() if key not in left}
    for key, value in more.items():
        if key in MARKS:
            continue
        held = out.get(key)
        told = key_of(value) if isinstance(value, list) and value and key not in whole else None
        if told is not None and isinstance(held, list):
            own = {e[told]: e for e in value}
            out[key] = [overlay(e, own[e[told]]) if e.get(told) in own else e for e in held]
        else:
            out[key] = value
    return out


def encode(part: Tree) -> Tree:
    """Return a part, or the rest of one, with the nodes of our module."""
    out: Tree = {}
    marks: dict[str, list[str]] = {}
    for key, value in part.items():
        name = key.replace("_", "-")
        if key in (LEFT_OUT, WHOLE):
            marks[key] = [k.replace("_", "-") for k in value]
        elif value is None:
            marks.setdefault(NONE, []).append(name)
        elif value in ([], {}):
            marks.setdefault(EMPTY, []).append(name if isinstance(value, list) else f"{name}{{}}")
        elif isinstance(value, dict) and key in MAPS:
            out[name] = [{KEY: str(k), VALUE: v} for k, v in value.items()]
        elif isinstance(value, dict):
            out[name] = encode(value)
        elif isinstance(value, list):
            out[f"{name}-list" if key in EITHER and not isinstance(value[0], dict) else name] = _entries(value)
        else:
            out[name] = value
    return out | marks


def _entries(value: list[Any]) -> list[Any]:
    if isinstance(value[0], list):
        return [{POSITION: k, END: list(v)} for k, v in enumerate(value, 1)]
    if not isinstance(value[0], dict):
        return list(value)
    told = key_of(value) is not None
    return [({} if told else {POSITION: k}) | encode(v) for k, v in enumerate(value, 1)]


def decode(data: Tree) -> Tree:
    """Return the part that nodes of our module say; what is not shaped as they are is left as it is, for the document to refuse."""
    out: Tree = {}
    for name, value in data.items():
        if name in (LEFT_OUT, WHOLE):
            out[name] = [str(k).replace("-", "_") for k in value] if isinstance(value, list) else []
        elif name in (EMPTY, NONE):
            for k in value if isinstance(value, list) else ():
                bare = str(k).removesuffix("{}").replace("-", "_")
                out[bare] = None if name == NONE else {} if str(k).endswith("{}") else []
        elif name != POSITION:
            key = name.replace("-", "_")
            out[key.removesuffix("_list") if key.removesuffix("_list") in EITHER else key] = _decoded(key, value)
    return out


def _decoded(key: str, value: Any) -> Any:
    if isinstance(value, dict):
        return decode(value)
    if isinstance(value, list) and key in MAPS:
        pairs = [(str(e.get(KEY)), e.get(VALUE)) for e in value if isinstance(e, dict)]
        return dict(pairs)
    if isinstance(value, list):
        return [_entry(e) for e in value]
    return value


def _entry(entry: Any) -> Any:
    if isinstance(entry, dict):
        return list(entry[END]) if set(entry) == {POSITION, END} and isinstance(entry[END], list) else decode(entry)
    return entry
