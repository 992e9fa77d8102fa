"""Edits: JSON Patch (RFC 6902) on the plain tree, always with an inverse, and always checked whole.

`apply` never changes its argument. An edit followed by its inverse gives the same tree, key order of untouched parts
included; that is a law in the tests.
"""

from __future__ import annotations

import copy
import json
from difflib import SequenceMatcher
from typing import Any

import jsonpatch
import jsonpointer

from anabasis.design.document import Design
from anabasis.design.files import parse_design, unwritable
from anabasis.errors import InputRefused, Problem, nearest

Patch = list[dict[str, Any]]
Tree = dict[str, Any]


def apply(raw: Tree, patch: Patch, design: Design | None = None) -> tuple[Tree, Design]:
    """Return the edited tree and its models. Raises InputRefused and changes nothing where the result is not valid.

    `design`: the models of `raw`, where they are at hand: those of parts the edit does not touch are taken over.
    """
    edited = patched(raw, patch)
    return edited, parse_design(edited, known=(raw, design) if design is not None else None)


MOST_OPERATIONS, MOST_COPIED, DEEPEST = 10_000, 200_000, 40
"""Of one patch: its operations, the values that its copies come to, and how deep a value may be nested."""


def patched(raw: Tree, patch: Patch) -> Tree:
    """Return the edited tree, not yet checked against the models."""
    if not isinstance(patch, list) or not all(isinstance(op, dict) for op in patch):
        raise InputRefused([Problem("", "an edit is a list of JSON Patch operations (RFC 6902)")])
    if wrong := unwritable(patch):
        raise InputRefused([Problem("", wrong)])
    tree: Any = raw
    _bounded(patch)
    copied = 0
    for i, operation in enumerate(patch):
        try:
            if operation.get("op") == "copy":
                copied += _weight(
                    jsonpointer.resolve_pointer(tree, str(operation.get("from", "")), None), MOST_COPIED - copied
                )
            tree = _own(tree, [str(operation[k]) for k in ("path", "from") if k in operation])
            tree = jsonpatch.JsonPatch([copy.deepcopy(operation)]).apply(tree, in_place=True)
        except jsonpatch.JsonPatchTestFailed:
            given = str(operation.get("path"))
            raise InputRefused([Problem(given, f"operation {i} expected another value here")]) from None
        except (
            jsonpatch.JsonPatchException,
            jsonpointer.JsonPointerException,
            TypeError,
            ValueError,
            KeyError,
        ) as error:
            path = str(operation.get("path", ""))
            close = nearest(path.rsplit("/", 1)[-1], _keys_near(tree, path))
            raise InputRefused([Problem(path, f"operation {i} cannot be applied: {error}", nearest=close)]) from None
    return tree  # type: ignore[no-any-return]


def _bounded(patch: Patch) -> None:
    """Raise InputRefused for a patch that is too long, or holds values nested too deep: both are known before anything is worked out."""
    if len(patch) > MOST_OPERATIONS:
        raise InputRefused(
            [Problem("", "too many operations in one edit", str(len(patch)), f"{MOST_OPERATIONS} at most")]
        )
    for i, operation in enumerate(patch):
        level, deep = [operation.get("value")], 0
        while level := [
            x for v in level if isinstance(v, dict | list) for x in (v.values() if isinstance(v, dict) else v)
        ]:
            deep += 1
            if deep >= DEEPEST:
                given = str(operation.get("path"))
                raise InputRefused(
                    [Problem(given, f"operation {i} holds a value nested too deep", allowed=f"{DEEPEST} levels")]
                )


def _weight(value: Any, most: int) -> int:
    """Count what stands in a value. Raises InputRefused where copies in one edit come to more than `MOST_COPIED` values."""
    count, level = 0, [value]
    while level:
        count += len(level)
        if count > most:
            raise InputRefused(
                [Problem("", "the copies of one edit come to too much", allowed=f"{MOST_COPIED} values")]
            )
        level = [x for v in level if isinstance(v, dict | list) for x in (v.values() if isinstance(v, dict) else v)]
    return count


def _own(tree: Any, paths: list[str]) -> Any:
    """Return a tree whose containers on the way to some places are its own; everything else is shared."""
    top = copy.copy(tree)
    for path in paths:
        here: Any = top
        for step in jsonpointer.JsonPointer(path).parts[:-1]:
            key: Any = int(step) if isinstance(here, list) and step.isdigit() else step
            inside = range(len(here)) if isinstance(here, list) else here if isinstance(here, dict) else ()
            if key not in inside:  # the operation will say so
                break
            here[key] = copy.copy(here[key])
            here = here[key]
    return top


def _keys_near(tree: Any, path: str) -> list[str]:
    parent = jsonpointer.resolve_pointer(tree, path.rpartition("/")[0], None) if path.startswith("/") else None
    return list(parent) if isinstance(parent, dict) else []


def inverse(before: Tree, after: Tree) -> Patch:
    """Return the patch that leads from `after` back to `before`, smallest parts first.

    Mappings are compared key by key, lists item by item where only one run of items differs; a mapping whose keys
    changed their order is replaced whole, so nothing is lost on the way back.
    """
    return list(_difference("", after, before))


def difference(before: Tree, after: Tree) -> Patch:
    """Return the patch that leads from `before` to `after`."""
    return list(_difference("", before, after))


def _difference(at: str, old: Any, new: Any) -> Patch:
    if type(old) is type(new) and old == new and _same_order(old, new):
        return []
    if isinstance(old, dict) and isinstance(new, dict):
        kept = [k for k in new if k in old]
        if [k for k in old if k in new] == kept and list(new)[: len(kept)] == kept:
            patch: Patch = []
            for key in old:
                if key not in new:
                    patch.append({"op": "remove", "path": _join(at, key)})
            for key, value in new.items():
                patch += (
                    _difference(_join(at, key), old[key], value)
                    if key in old
                    else [{"op": "add", "path": _join(at, key), "value": value}]
                )
            return patch
    if isinstance(old, list) and isinstance(new, list):
        return _list_difference(at, old, new)
    return [{"op": "replace", "path": at, "value": new}]


def _list_difference(at: str, old: list[Any], new: list[Any]) -> Patch:
    head = 0
    while head < min(len(old), len(new)) and _equal(old[head], new[head]):
        head += 1
    tail = 0
    while tail < min(len(old), len(new)) - head and _equal(old[-1 - tail], new[-1 - tail]):
        tail += 1
    return _middle(at, head, old[head : len(old) - tail], new[head : len(new) - tail])


def _middle(at: str, head: int, gone: list[Any], come: list[Any]) -> Patch:
    """Compare what differs between two lists: items that stay keep their place, runs that changed are compared item by item.

    Written from the end to the beginning, so that every index still holds.
    """
    texts = [json.dumps(item) for item in gone], [json.dumps(item) for item in come]
    patch: Patch = []
    for what, a, b, c, d in reversed(SequenceMatcher(None, *texts, autojunk=False).get_opcodes()):
        if what == "equal":
            continue
        both = min(b - a, d - c)
        patch += [{"op": "remove", "path": f"{at}/{head + i}"} for i in range(b - 1, a + both - 1, -1)]
        patch += [{"op": "add", "path": f"{at}/{head + a + i}", "value": come[c + i]} for i in range(both, d - c)]
        for i in range(both):
            patch += _difference(f"{at}/{head + a + i}", gone[a + i], come[c + i])
    return patch


def _equal(a: Any, b: Any) -> bool:
    return type(a) is type(b) and a == b and _same_order(a, b)


def _same_order(a: Any, b: Any) -> bool:
    """Compare what `==` overlooks: the order of keys, and 1 against true."""
    if type(a) is not type(b):
        return False
    if isinstance(a, dict):
        return list(a) == list(b) and all(_same_order(a[k], b[k]) for k in a)
    if isinstance(a, list):
        return len(a) == len(b) and all(_same_order(x, y) for x, y in zip(a, b, strict=True))
    return True


def _join(at: str, key: str) -> str:
    return at + "/" + key.replace("~", "~0").replace("/", "~1")
