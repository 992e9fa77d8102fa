"""Tables of things that stand in lists of the document, a row each: their columns are the fields of their models."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from types import UnionType
from typing import Annotated, Any, Union, get_args, get_origin

from anabasis.design import Tree
from anabasis.design.base import Part
from anabasis.errors import InputRefused, Problem, nearest
from anabasis.facts import Assumed, Assumption
from anabasis.interchange.cells import as_list, words_of

YES, NO = ("yes", "true", "1", "on", "x", "y", "ja"), ("no", "false", "0", "off", "n", "-", "nein")
Row = dict[str, str]


@dataclass
class Work:
    """A document while rows are placed in it, and what is taken for granted meanwhile."""

    tree: Tree
    assumed: list[Assumption] = field(default_factory=list)
    devices: dict[str, int] = field(default_factory=dict)
    vlans: set[int] = field(default_factory=set)
    _known: dict[str, dict[tuple[object, ...], list[int]]] = field(default_factory=dict)
    """List, as a pointer -> what tells an entry -> the places of those that are told alike"""
    _spoken: dict[tuple[str, tuple[object, ...]], int] = field(default_factory=dict)
    """How many rows have spoken of such an entry: the next one is about the next entry that is told alike"""

    def __post_init__(self) -> None:
        """Learn what there is."""
        self.devices = {d["name"]: k for k, d in enumerate(self.tree.get("devices", []))}
        self.vlans = {v["id"] for v in self.tree.get("vlans", [])}
        self._cable_at = {end: k for k, cable in enumerate(self.tree.get("cables", [])) for end in cable}

    def plug(self, one: str, two: str, columns: tuple[str, str] = ("from", "to")) -> str:
        """Have a cable between two ends, and return its pointer; one that is there is the same one. Raises InputRefused where another is plugged in."""
        cables = self.tree.setdefault("cables", [])
        held = self._cable_at.get(one), self._cable_at.get(two)
        if held[0] is not None and held[0] == held[1]:
            return f"/cables/{held[0]}"
        for column, end, k in zip(columns, (one, two), held, strict=True):
            if k is not None:
                said = "a cable is plugged in here already"
                raise refused(column, said, end, allowed=f"a free port; {' to '.join(cables[k])} is there")
        cables.append([one, two])
        self._cable_at[one] = self._cable_at[two] = len(cables) - 1
        return f"/cables/{len(cables) - 1}"

    def lead(self, cable: int, stays: str, end: str) -> str:
        """Lead the other end of a cable elsewhere, and return its pointer. Raises InputRefused where another is plugged in."""
        cables = self.tree["cables"]
        if end in self._cable_at:
            said = "a cable is plugged in here already"
            raise refused("at", said, end, allowed=f"a free port; {' to '.join(cables[self._cable_at[end]])} is there")
        self._cable_at = {e: k for e, k in self._cable_at.items() if k != cable} | {stays: cable, end: cable}
        cables[cable] = [e if e == stays else end for e in cables[cable]]
        return f"/cables/{cable}"

    def device(self, name: str, make: str | None = None) -> tuple[str, Tree]:
        """Return (pointer, device). `make`: the kind of one that is not there yet; None = it is refused."""
        if name not in self.devices:
            if make is None or not name:
                raise refused("device", "there is no device of this name", name, self.devices)
            self.devices[name] = len(self.tree.setdefault("devices", []))
            bare: Tree = {"prefixes": []} if make == "outside" else {}
            self.tree["devices"].append({"name": name, "kind": make, **bare})
            self.assumed.append(Assumption(Assumed.DEVICE, name, make))
        at = self.devices[name]
        return f"/devices/{at}", self.tree["devices"][at]

    def vlan(self, number: int) -> None:
        """Have a VLAN in the plan."""
        if number not in self.vlans:
            self.vlans.add(number)
            self.tree.setdefault("vlans", []).append({"id": number, "name": self._free(f"vlan{number}")})
            self.assumed.append(Assumption(Assumed.VLAN, str(number), f"vlan{number}"))

    def _free(self, name: str) -> str:
        taken = {v["name"] for v in self.tree.get("vlans", [])}
        return name if name not in taken else f"{name} new"

    def entry(self, at: str, held: list[Tree], key: tuple[object, ...], tells: tuple[str, ...]) -> tuple[str, Tree]:
        """Return (pointer, entry) of the thing in a list that has some values in the fields that tell; a new one behind all others where there is none."""
        if at not in self._known:
            self._known[at] = {}
            for k, e in enumerate(held):
                self._known[at].setdefault(tuple(e.get(t) for t in tells), []).append(k)
        alike = self._known[at].setdefault(key, [])
        turn = self._spoken[at, key] = self._spoken.get((at, key), 0) + 1
        if turn > len(alike):
            alike.append(len(held))
            held.append({t: v for t, v in zip(tells, key, strict=True) if v is not None})
        return f"{at}/{alike[turn - 1]}", held[alike[turn - 1]]


def refused(column: str, said: str, given: str, known: Any = (), allowed: str = "") -> InputRefused:
    """Return why a row has no place, by the column that is to blame."""
    names = [str(n) for n in known]
    near = nearest(given, names) if names and given else None
    return InputRefused([Problem(column, said, repr(given) if given else "", allowed or ", ".join(names[:12]), near)])


@dataclass(frozen=True)
class Things:
    """One kind of table: where its things stand, what tells one from another, and which fields have columns."""

    name: str
    model: type[Part]
    key: str
    """The list they stand in."""
    columns: tuple[str, ...]
    """Owners first: `device`, `vrf`."""
    tells: tuple[str, ...]
    """The fields that tell one from another of the same owner."""
    kinds: tuple[str, ...] = ()
    """The kinds of devices that may own one; none = the design does."""

    def rows(self, tree: Tree) -> Iterator[Row]:
        """Yield what there is, a row a thing, in the order of the document."""
        for owner, held in self._lists(tree):
            for entry in held:
                yield owner | {c: spelled(entry.get(c)) for c in self.columns if c not in owner and c != "vrf"}

    def _lists(self, tree: Tree) -> Iterator[tuple[Row, list[Tree]]]:
        if "device" not in self.columns:
            yield {}, tree.get(self.key, [])
            return
        for device in tree.get("devices", []):
            if "vrf" in self.columns:
                for vrf in device.get("vrfs", []):
                    yield {"device": device["name"], "vrf": vrf["name"]}, vrf.get(self.key, [])
                if device["kind"] == "outside":
                    yield {"device": device["name"], "vrf": ""}, device.get(self.key, [])
            else:
                yield {"device": device["name"]}, device.get(self.key, [])

    def place(self, work: Work, row: Row) -> list[str]:
        """Put one row into the document; return the pointers of what it is about. Raises InputRefused."""
        at, held = self._home(work, row)
        values = {c: self._value(c, row[c]) for c in row if c in self.columns and c not in ("device", "vrf")}
        lacks = next((t for t in self.tells if values.get(t) is None and self._needed(t)), None)
        if lacks is not None:
            raise refused(lacks, f"this row lacks {lacks}", "", allowed="a value, since it tells one row from another")
        where, entry = work.entry(at, held, tuple(_hashed(values.get(t)) for t in self.tells), self.tells)
        for column, value in values.items():
            if value is None:
                entry.pop(column, None)
            else:
                entry[column] = value
        return [where]

    def _needed(self, column: str) -> bool:
        return self._field(column).is_required() or len(self.tells) == 1

    def _home(self, work: Work, row: Row) -> tuple[str, list[Tree]]:
        if "device" not in self.columns:
            return f"/{self.key}", work.tree.setdefault(self.key, [])
        name = row.get("device", "") or self._only(work)
        at, device = work.device(name)
        if device["kind"] not in self.kinds:
            raise refused("device", f"a {device['kind']} has no {self.name}", name, allowed=", ".join(self.kinds))
        if "vrf" in self.columns and device["kind"] != "outside":
            vrfs = device.setdefault("vrfs", [])
            wanted = row.get("vrf", "") or "main"
            k = next((k for k, v in enumerate(vrfs) if v["name"] == wanted), None)
            if k is None:
                k = len(vrfs)
                vrfs.append({"name": wanted})
            return f"{at}/vrfs/{k}/{self.key}", vrfs[k].setdefault(self.key, [])
        return f"{at}/{self.key}", device.setdefault(self.key, [])

    def _only(self, work: Work) -> str:
        """Return the one box that may be meant where no column says which."""
        able = [d["name"] for d in work.tree.get("devices", []) if d["kind"] in self.kinds]
        if len(able) != 1:
            raise refused("device", "several boxes may be meant, or none", "", able)
        return str(able[0])

    def _field(self, column: str) -> Any:
        fields = self.model.model_fields
        return next(f for n, f in fields.items() if (f.alias or n) == column)

    def _value(self, column: str, text: str) -> Any:
        """Return what a cell says; None where it is empty."""
        text = text.strip()
        if not text:
            return None
        shapes = _shapes(self._field(column).annotation)
        if list in shapes:
            inner = int in shapes
            return [_number(column, w) if inner else w for w in words_of(text)]
        if bool in shapes and (str not in shapes or text.lower() in (*YES, *NO)):
            return flag(column, text)
        if int in shapes and str not in shapes:
            return _number(column, text)
        return int(text) if int in shapes and text.isascii() and text.isdigit() else text


def flag(column: str, text: str) -> bool | None:
    """Return yes or no; None where nothing is said. Raises InputRefused for another word."""
    word = text.strip().lower()
    if word and word not in (*YES, *NO):
        raise refused(column, "neither yes nor no", word, allowed="yes, no")
    return word in YES if word else None


def _number(column: str, text: str) -> int:
    if not (text.isascii() and text.isdigit()):
        raise refused(column, "no number", text, allowed="a whole number")
    return int(text)


def _hashed(value: Any) -> Any:
    return tuple(value) if isinstance(value, list) else value


def _shapes(annotation: Any) -> set[type]:
    """Return the plain types that a field may hold, those inside a list beside `list`."""
    origin = get_origin(annotation)
    if origin is Annotated:
        return _shapes(get_args(annotation)[0])
    if origin in (Union, UnionType):
        return set().union(*map(_shapes, get_args(annotation)))
    if origin is list:
        return {list, *_shapes(get_args(annotation)[0])}
    if origin is not None:  # a Literal is one of some words
        return {type(a) for a in get_args(annotation)}
    return {annotation} if isinstance(annotation, type) else {str}


def spelled(value: Any) -> str:
    """Return a value as a cell."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return as_list(value) if isinstance(value, list) else str(value)
