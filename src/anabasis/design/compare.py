"""Compare two documents in words of the trade: things added, taken out, changed, renamed and moved."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any, Literal

from anabasis.design.edits import Tree
from anabasis.design.items import link
from anabasis.design.keys import BY, ORDERED, keyed

Sign = Literal["added", "removed", "changed", "renamed", "moved"]


@dataclass(frozen=True)
class Difference:
    """One thing that is not the same."""

    sign: Sign
    kind: str
    title: str
    words: tuple[str, ...]
    """What of it changed; of a thing added or taken out, what it holds."""
    before: str | None
    """Where it was."""
    now: str | None
    """Where it is."""


@dataclass(frozen=True)
class _Pair:
    one: Tree
    two: Tree


def compare(one: Tree, two: Tree) -> list[Difference]:
    """Return what leads from one document to another, in document order."""
    pair = _Pair(one, two)
    own = tuple(_fields(one, two))
    top = [Difference("changed", "Design", str(two.get("name", "")), own, "", "")] if own else []
    return top + list(_inside(pair, "", "", one, two))


def _inside(pair: _Pair, at: str, to: str, old: Tree, new: Tree) -> Iterator[Difference]:
    """Compare what a thing holds of other things."""
    for key in dict.fromkeys([*old, *new]):
        a, b = old.get(key), new.get(key)
        if _holds_things(a, key) or _holds_things(b, key):
            yield from _lists(pair, f"{at}/{key}", f"{to}/{key}", key, a or [], b or [])
        elif isinstance(a, dict) and isinstance(b, dict) and key == "failover":
            words = tuple(_fields(a, b))
            if words:
                yield _told(pair, "changed", f"{at}/{key}", f"{to}/{key}", words)
            yield from _inside(pair, f"{at}/{key}", f"{to}/{key}", a, b)


def _holds_things(value: Any, key: str) -> bool:
    return isinstance(value, list) and (key == "cables" or any(isinstance(x, dict) for x in value))


def _lists(pair: _Pair, at: str, to: str, kind: str, old: list[Any], new: list[Any]) -> Iterator[Difference]:
    was, now = keyed(old), keyed(new)
    gone, come = [k for k in was if k not in now], [k for k in now if k not in was]
    renamed = dict(renames(old, new, [was[k] for k in gone], [now[k] for k in come]))
    for key, i in was.items():
        here = f"{at}/{i}"
        if key in now:
            yield from _thing(pair, here, f"{to}/{now[key]}", old[i], new[now[key]])
        elif i in renamed:
            there, told = f"{to}/{renamed[i]}", new[renamed[i]]
            words = (f"{link(pair.one, here).title} → {link(pair.two, there).title}",)
            yield _told(pair, "renamed", here, there, words)
            yield from _thing(pair, here, there, old[i], told, but=set(BY))
        else:
            yield _told(pair, "removed", here, None, tuple(_held(old[i])))
    for key in come:
        if now[key] not in renamed.values():
            yield _told(pair, "added", None, f"{to}/{now[key]}", tuple(_held(new[now[key]])))
    if kind in ORDERED:
        yield from _moved(pair, at, to, was, now)


def renames(old: list[Any], new: list[Any], gone: list[int], come: list[int]) -> Iterator[tuple[int, int]]:
    """Match things taken out with things added that hold mostly the same: they have another name now. By index."""
    free = list(come)
    for i in gone:
        best = max(free, key=lambda j: _likeness(old[i], new[j]), default=None)
        if best is not None and _likeness(old[i], new[best]) >= 0.6:
            free.remove(best)
            yield i, best


def _likeness(one: Any, two: Any) -> float:
    if not isinstance(one, dict) or not isinstance(two, dict):
        return 0.0
    own = [k for k in dict.fromkeys([*one, *two]) if k not in BY]
    return sum(one.get(k) == two.get(k) for k in own) / len(own) if own else 0.0


def _thing(
    pair: _Pair, at: str, to: str, old: Any, new: Any, but: set[str] | frozenset[str] = frozenset()
) -> Iterator[Difference]:
    if not isinstance(old, dict) or not isinstance(new, dict):
        return
    words = tuple(_fields(old, new, but))
    if words:
        yield _told(pair, "changed", at, to, words)
    yield from _inside(pair, at, to, old, new)


def _moved(pair: _Pair, at: str, to: str, was: dict[str, int], now: dict[str, int]) -> Iterator[Difference]:
    one, two = [k for k in was if k in now], [k for k in now if k in was]
    stay = {
        k
        for m in SequenceMatcher(None, one, two, autojunk=False).get_matching_blocks()
        for k in one[m.a : m.a + m.size]
    }
    for key in two:
        if key not in stay:
            words = (f"from place {was[key] + 1} to place {now[key] + 1}",)
            yield _told(pair, "moved", f"{at}/{was[key]}", f"{to}/{now[key]}", words)


def _told(pair: _Pair, sign: Sign, before: str | None, now: str | None, words: tuple[str, ...]) -> Difference:
    known = link(pair.two, now) if now is not None else link(pair.one, before or "")
    return Difference(sign, known.kind, known.title, words, before, now)


def _fields(old: Tree, new: Tree, but: set[str] | frozenset[str] = frozenset()) -> Iterator[str]:
    """Say what of a thing's own settings changed."""
    for key in dict.fromkeys([*old, *new]):
        a, b = old.get(key), new.get(key)
        if a == b or key in but or key == "failover" or _holds_things(a, key) or _holds_things(b, key):
            continue
        if isinstance(a, list) and isinstance(b, list):
            more, less = [x for x in b if x not in a], [x for x in a if x not in b]
            said = [f"+ {written(x)}" for x in more] + [f"− {written(x)}" for x in less]
            yield f"{plain(key)}: {', '.join(said) or 'in another order'}"
        elif isinstance(a, dict) and isinstance(b, dict):
            yield from (f"{plain(key)} {w}" for w in _fields(a, b))
        elif a is None:
            yield f"{plain(key)}: {written(b)}"
        elif b is None:
            yield f"{plain(key)}: no longer {written(a)}"
        else:
            yield f"{plain(key)}: {written(a)} → {written(b)}"


def _held(thing: Any) -> Iterator[str]:
    if isinstance(thing, dict):
        for key, value in thing.items():
            if _holds_things(value, key):
                yield f"{len(value)} {plain(key)}"
            elif key not in BY[:2]:
                yield f"{plain(key)}: {written(value)}"


def plain(key: str) -> str:
    """Return a key of the format as a word."""
    return {"pvid": "PVID", "mtu": "MTU", "vlans": "VLANs"}.get(key, key.replace("_", " "))


def written(value: Any) -> str:
    """Return a value as a person writes it."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list) and not any(isinstance(x, dict | list) for x in value):
        return ", ".join(map(written, value)) or "none"
    return str(value) if isinstance(value, str | int | float) else json.dumps(value, ensure_ascii=False)
