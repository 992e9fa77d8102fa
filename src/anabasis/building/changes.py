"""What differs between two documents, as changes that can be made one by one in any order that the document allows.

A thing is told by what names it, not by its place, so a change can be made whatever else has been made before. Made all, in any order, they lead from
the one document to the other exactly: an entry that is new stands after the nearest entry before it that is there already.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from anabasis.building.subjects import subject_of
from anabasis.design import Tree
from anabasis.design.base import Part
from anabasis.design.keys import key_of, keyed
from anabasis.design.ports import Lag, Port, Subinterface, VlanInterface, Wire
from anabasis.design.routes import Route
from anabasis.design.rules import Rule
from anabasis.design.zones import Zone
from anabasis.facts import BuildLine, ChangeSign, Subject

INSIDE: dict[str, dict[str, Any]] = {
    "vlans": {},
    "addresses": {},
    "services": {},
    "cables": {},
    "expectations": {},
    "devices": {
        "ports": {"subinterfaces": {}},
        "lags": {"subinterfaces": {}},
        "vrfs": {"routes": {}},
        "vlan_interfaces": {}, "loopbacks": {}, "zones": {}, "wires": {}, "answers": {}, "filters": {}, "tunnels": {}, "remote_access": {},
        "rules": {}, "nat": {}, "dhcp": {}, "ssids": {}, "mac_vrfs": {}, "offers": {}, "routes": {},
    },
}  # fmt: skip
"""Lists whose entries are changes of their own, and the lists inside these."""
FIRST = ("name", "kind", "units", "prefixes", "limits")
"""What a box is made of when it is put in its place; its ports, bare, besides."""
PLAIN = ("hub", "endpoint", "outside")
"""Kinds of device that are what they are at once."""
BUNDLED = ("name", "protocol", "min_links", "mode", "enabled", "note")
"""What a bundle is before it carries anything."""


class _Absent:
    """The sign for what is not there; null is a value."""

    def __repr__(self) -> str:
        return "ABSENT"


ABSENT = _Absent()


@dataclass(frozen=True)
class Op:
    """One entry, or one setting, as it is to be."""

    path: tuple[str, ...]
    """Lists and what names their entries, in turn; last a setting, or what names the entry."""
    before: Any
    after: Any
    entry: bool
    """It is an entry of a list, not a setting."""
    order: tuple[str, ...] = ()
    """What names the entries of that list as they are to stand at last."""
    keeps: tuple[str, ...] = ()
    """Lists inside it that are looked after by themselves."""
    leaves: bool = False
    """The list stays when nothing is in it any more."""
    sorts: bool = False
    """The entries of a list change their order."""


@dataclass(frozen=True)
class Change:
    """Changes at one box that belong together: made at once, or not at all."""

    device: str
    """The box; empty = the plan, on paper."""
    subject: Subject
    sign: ChangeSign
    ops: tuple[Op, ...]
    lines: tuple[BuildLine, ...]


def changes_between(one: Tree, two: Tree) -> list[Change]:
    """Return what leads from one document to the other, in document order."""
    kinds = {d["name"]: d["kind"] for tree in (one, two) for d in tree.get("devices", [])}
    singles = [_change(op, kinds) for op in _inside((), one, two, INSIDE)]
    return _moved_cables(singles)


def _change(op: Op, kinds: dict[str, str]) -> Change:
    sign: ChangeSign = "add" if op.before is ABSENT else "remove" if op.after is ABSENT else "change"
    before, after = (None if v is ABSENT else v for v in (op.before, op.after))
    before, after = _spelled(op, before, after)
    cable = op.path[0] == "cables"
    ends = (after or before) if cable else None
    device = ends[0].partition(":")[0] if ends else op.path[1] if op.path[0] == "devices" and len(op.path) > 1 else ""
    subject = subject_of(op.path, before, after, kinds.get(device, ""))
    listed = op.path[-2] if op.entry else op.path[-1]
    name = " -- ".join(ends) if ends else op.path[-1]
    inside = op.path[3] if op.entry and len(op.path) > 4 else ""  # a subinterface of a port, a route of a VRF
    line = BuildLine("change" if op.sorts else sign, listed, f"{inside} {name}".strip(), before, after)
    return Change(device, subject, sign, (op,), (line,))


MODELS: dict[str, type[Part]] = {
    "ports": Port, "lags": Lag, "subinterfaces": Subinterface, "vlan_interfaces": VlanInterface, "zones": Zone, "rules": Rule, "routes": Route,
    "wires": Wire,
}  # fmt: skip


def _spelled(op: Op, before: Any, after: Any) -> tuple[Any, Any]:
    """Return the two states of a thing with what is left out in one of them written out, where leaving it out means one plain value."""
    model = MODELS.get(op.path[-2]) if op.entry and len(op.path) > 1 else None
    if model is None or not isinstance(before, dict) or not isinstance(after, dict):
        return before, after
    plain = {
        f.alias or name: f.default
        for name, f in model.model_fields.items()
        if isinstance(f.default, str | bool | int) and f.default is not None
    }
    sides = [x | {k: plain[k] for k in plain if k not in x and k in y} for x, y in ((before, after), (after, before))]
    return sides[0], sides[1]


def _inside(path: tuple[str, ...], one: Tree, two: Tree, lists: dict[str, Any]) -> Iterator[Op]:
    """Yield what differs inside a holder of settings and lists."""
    for key in dict.fromkeys((*one, *two)):
        a, b = one.get(key, ABSENT), two.get(key, ABSENT)
        if _alike(a, b):
            continue
        if key in lists and _listed(a) and _listed(b):
            yield from _entries((*path, key), a, b, lists[key])
        elif key == "vlans" and path and isinstance(a, list) and isinstance(b, list):
            both = [*b, *(v for v in a if v not in b)]
            if len(both) > len(b) and len(both) > len(a):
                yield Op((*path, key), a, both, False)
                yield Op((*path, key), both, b, False)
            else:
                yield Op((*path, key), a, b, False)
        else:
            yield Op((*path, key), a, b, False)


def _alike(one: Any, two: Any) -> bool:
    """Tell whether two values are written alike: true is not 1."""
    return type(one) is type(two) and one == two and repr(one) == repr(two) if not isinstance(one, dict) else one == two


def _listed(value: Any) -> bool:
    """Tell whether a list is one of things that are told apart by what names them."""
    if value is ABSENT:
        return True
    if not isinstance(value, list) or not all(isinstance(e, dict | list) for e in value):
        return False
    return len({key_of(e) for e in value}) == len(value)


def _entries(path: tuple[str, ...], one: Any, two: Any, lists: dict[str, Any]) -> Iterator[Op]:
    before, after = ({key_of(e): e for e in ([] if x is ABSENT else x)} for x in (one, two))
    order, leaves = tuple(after), two is not ABSENT
    kept = tuple(lists)
    for key, entry in before.items():
        if key not in after:
            yield Op((*path, key), entry, ABSENT, True, order, (), leaves)
    for key, entry in after.items():
        here = (*path, key)
        known = before.get(key)
        if known is None:
            known = _first(path[-1], entry, kept)
            yield Op(here, ABSENT, known, True, order, kept, leaves)
            if path[-1] in ("ports", "lags") and not _alike(_own(known, kept), _own(entry, kept)):
                yield Op(here, known, _own(entry, kept), True, order, kept, leaves)
        elif path[-1] != "devices" and not _alike(_own(known, kept), _own(entry, kept)):
            yield Op(here, _own(known, kept), _own(entry, kept), True, order, kept, leaves)
        if path[-1] == "devices":
            yield from _inside(here, known, entry, lists)
        elif isinstance(entry, dict):
            parts = {k: lists[k] for k in kept}
            yield from _inside(here, _only(known, kept), _only(entry, kept), parts)
    stay = [[k for k in x if k in before and k in after] for x in (before, after)]
    if stay[0] != stay[1]:
        yield Op(path, stay[0], stay[1], False, order, sorts=True)
    elif one is ABSENT and not two:
        yield Op(path, ABSENT, [], False)
    elif two is ABSENT and not one:
        yield Op(path, [], ABSENT, False)


def _own(entry: Any, kept: tuple[str, ...]) -> Any:
    return {k: v for k, v in entry.items() if k not in kept} if isinstance(entry, dict) else entry


def _only(entry: Tree, kept: tuple[str, ...]) -> Tree:
    return {k: v for k, v in entry.items() if k in kept}


def _first(kind: str, entry: Any, kept: tuple[str, ...]) -> Any:
    """Return what a new entry is at first."""
    if kind == "devices":
        if entry["kind"] in PLAIN:
            return entry
        bare = {"ports": [{"name": p["name"]} for p in entry["ports"]]} if "ports" in entry else {}
        return {k: entry[k] for k in FIRST if k in entry} | bare
    if kind == "lags":
        return {k: entry[k] for k in BUNDLED if k in entry}
    return _own(entry, kept)


def _moved_cables(changes: list[Change]) -> list[Change]:
    """Return the changes with each cable that takes the port of one that goes as one with it: a port holds one cable."""
    cables = [c for c in changes if c.subject == Subject.CABLE]
    gone = [c for c in cables if c.sign == "remove"]
    out = [c for c in changes if c.subject != Subject.CABLE]
    groups: list[list[Change]] = []
    for change in cables:
        ends = _ends(change)
        met = [g for g in groups if ends & {e for c in g for e in _ends(c)}] if gone else []
        groups = [g for g in groups if g not in met] + [[c for g in met for c in g] + [change]]
    for group in groups:
        moved = len(group) > 1
        ops = tuple(sorted((o for c in group for o in c.ops), key=lambda o: o.after is not ABSENT))
        sign: ChangeSign = "change" if moved else group[0].sign
        out.append(Change(group[-1].device, Subject.CABLE, sign, ops, tuple(n for c in group for n in c.lines)))
    return out


def _ends(change: Change) -> set[str]:
    return {e for o in change.ops for v in (o.before, o.after) if isinstance(v, list) for e in v}


def made(tree: Tree, change: Change) -> Tree:
    """Return the document after a change. Parts that it does not touch are shared."""
    for op in change.ops:
        tree = _at(tree, op.path, op)
    return tree


def _at(node: Any, path: tuple[str, ...], op: Op) -> Any:
    head, rest = path[0], path[1:]
    if isinstance(node, list):
        return _in_list(node, head, rest, op)
    out = dict(node)
    if not rest:
        if op.sorts:
            out[head] = _sorted(out.get(head, []), op.order)
        elif op.after is ABSENT:
            out.pop(head, None)
        else:
            out[head] = op.after
        return out
    value = _at(out.get(head, []), rest, op)
    if value == [] and len(rest) == 1 and op.entry and not op.leaves:
        out.pop(head, None)
    else:
        out[head] = value
    return out


def _in_list(node: list[Any], head: str, rest: tuple[str, ...], op: Op) -> list[Any]:
    places = keyed(node)
    out = list(node)
    at = places.get(head)
    if rest:
        if at is not None:
            out[at] = _at(out[at], rest, op)
    elif op.after is ABSENT:
        if at is not None:
            del out[at]
    elif at is not None:
        kept = {k: out[at][k] for k in op.keeps if k in out[at]} if isinstance(op.after, dict) else {}
        out[at] = {**op.after, **kept} if isinstance(op.after, dict) else op.after
    else:
        earlier = [places[k] for k in op.order[: op.order.index(head)] if k in places] if head in op.order else []
        later = [places[k] for k in op.order if k in places]
        out.insert(max(earlier) + 1 if earlier else min(later) if later else len(out), op.after)
    return out


def _sorted(node: list[Any], order: tuple[str, ...]) -> list[Any]:
    """Return a list in its order at last; an entry that goes stays behind the one it stood behind."""
    rank = {key: k for k, key in enumerate(order)}
    groups: list[tuple[int, list[Any]]] = [(-1, [])]
    for entry in node:
        known = rank.get(key_of(entry))
        if known is None:
            groups[-1][1].append(entry)
        else:
            groups.append((known, [entry]))
    return [e for _, g in sorted(groups, key=lambda g: g[0]) for e in g]
