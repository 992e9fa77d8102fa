"""A design held against what a site says of itself: each difference by itself, and the design that follows when some are taken over.

Both sides are read in the same way: the design is written as data of the standards and read again, so that only what such data can say is held
against each other. A box that speaks our own module as well is held against the whole of what the document says of it.
"""

from __future__ import annotations

import copy
import json
from collections.abc import Iterable, Iterator
from typing import Any

from anabasis.climb import Climb
from anabasis.design import Tree, parse_design
from anabasis.errors import InputRefused
from anabasis.facts import Differs, Drift
from anabasis.interchange.mibs import from_objects, to_objects
from anabasis.interchange.seen import Seen
from anabasis.interchange.yang.files import seen_of
from anabasis.interchange.yang.names import ACLS, BRIDGES, INSTANCES, INTERFACES, NAT, ROUTING
from anabasis.interchange.yang.own import key_of
from anabasis.interchange.yang.reading import read_device
from anabasis.interchange.yang.state import site_data
from anabasis.interchange.yang.translation import by_zone
from anabasis.interchange.yang.writing import write_device, zones_of
from anabasis.policy import Terms

LINES = ("ports", "lags", "vlan_interfaces", "loopbacks")
"""Lists that data of interfaces speak of."""
BRIDGED = ("pvid", "untagged", "tagged", "accept", "ingress_check", "translate", "mode")
SETS = ("untagged", "tagged", "vlans", "addresses")
"""Lists whose order says nothing."""
MORE_KEYS = (("interface",), ("to", "via", "interface", "vrf"), ("area",), ("from",))
"""What tells entries apart that have no name: leases and OSPF by interface, routes by where they lead."""
ORDERED = ("rules", "nat", "entries")
"""Lists whose order decides."""


def compare(tree: Tree, seen: list[Seen], expected: list[Seen] | None = None) -> list[Drift]:
    """Return what differs, box by box in the order asked, each once.

    `expected`: the same boxes as the design has them run; without it nothing is said of what is down, and of cables that are not heard of.
    """
    design = parse_design(tree)
    terms, plan = Terms(design), tree.get("vlans", [])
    known = {d["name"]: d for d in tree.get("devices", [])}
    units = {u["name"]: d["name"] for d in known.values() for u in d.get("units", [])}
    for box in seen:
        box.box = box.box or box.name
        box.name = units.get(box.name, box.name)
    out = list(_of_site(tree, seen, expected))
    down = {b.box: b.down for b in expected or ()}
    runs = {b.box: b.data for b in expected or ()}
    for box in seen:
        device = known.get(box.name)
        if device is None:
            continue
        if box.whole:
            out += _parts(box.name, (), device, box.device)
        else:
            data = runs.get(box.box) or write_device(device, plan, terms)
            data = from_objects(to_objects(data)) if box.by_objects else data
            view = read_device(data, device["kind"]).device
            said = read_device(box.data, device["kind"]).device
            zones = zones_of(device)
            one, two = (by_zone(_told(side, box.told), zones) for side in (view, said))
            out += _parts(box.name, (), one, two)
        for name in sorted(box.down - down.get(box.box, box.down)):
            out.append(Drift(Differs.DOWN, box.name, ("interfaces", f"{box.box}:{name}"), "up", "down"))
    return list({d.key: d for d in out}.values())


def changed(then: list[Seen], now: list[Seen]) -> list[Drift]:
    """Return what boxes that answered twice said otherwise the second time, and cables between them that came or went: `design` is then, `site` now."""
    before = {b.box: b for b in then}
    both = [(before[b.box], b) for b in now if b.box in before]
    out = [
        d
        for b in now
        if b.box not in before
        for d in [Drift(Differs.SITE_ONLY, "", ("devices", b.box), None, {"name": b.box})]
    ]
    for one, two in both:
        out += _parts(two.name, (), one.device, two.device)
        for name in sorted(one.down ^ two.down):
            sides = ("up", "down") if name in two.down else ("down", "up")
            out.append(Drift(Differs.OTHERWISE, two.name, ("interfaces", f"{two.box}:{name}"), *sides))
    sides_of = [{frozenset(c): c for c in cables_seen([pair[k] for pair in both])} for k in (0, 1)]
    for ends in dict.fromkeys((*sides_of[0], *sides_of[1])):
        was, is_now = (list(side[ends]) if ends in side else None for side in sides_of)
        if was is None or is_now is None:
            out.append(_drift("", ("cables", " ".join(sorted(ends))), was, is_now))
    return list({d.key: d for d in out}.values())


def drift(tree: Tree, seen: list[Seen]) -> list[Drift]:
    """Return what differs between a design and a site that was asked, and is no mere consequence of something else that differs.

    A port that is down, and a cable that nobody hears, are told where the site is otherwise in nothing that explains it.
    """
    drifts = compare(tree, seen, _running(tree))
    if not any(map(_noticed, drifts)):
        return drifts
    try:
        then = _running(take_over(tree, [d for d in drifts if not _noticed(d)]))
    except InputRefused:
        return drifts
    down = {f"{b.box}:{name}" for b in then for name in b.down}
    heard = {frozenset(c) for c in cables_seen(then)}
    return [
        d
        for d in drifts
        if not _noticed(d) or (d.path[-1] not in down if d.design == "up" else frozenset(d.design) in heard)
    ]


def _noticed(drift: Drift) -> bool:
    """Tell whether a difference is what is noticed of a state, not a setting."""
    return drift.what == Differs.DOWN or (drift.what == Differs.DESIGN_ONLY and drift.path[0] == "cables")


def _running(tree: Tree) -> list[Seen]:
    """Return the boxes of a document as they would answer."""
    return [seen_of(data) for data in site_data(Climb(parse_design(tree)), tree).values()]


def _told(device: Tree, told: frozenset[str]) -> Tree:
    """Return the part of a box that its data spoke of."""
    out: Tree = {}
    if INTERFACES in told:
        for key in LINES:
            lines = device.get(key, [])
            if BRIDGES not in told:
                lines = [{k: v for k, v in line.items() if k not in BRIDGED} for line in lines]
            out |= {key: lines} if lines else {}
        out |= {key: device[key] for key in ("addresses",) if key in device}
    if BRIDGES in told and "vlans" in device:
        out["vlans"] = device["vlans"]
    if ROUTING in told or INSTANCES in told:
        out |= {key: device[key] for key in ("vrfs", "gateway") if key in device}
    if ACLS in told and "filters" in device:
        out["filters"] = device["filters"]
    if NAT in told and "nat" in device:
        out["nat"] = device["nat"]
    return out


def _parts(box: str, path: tuple[str, ...], one: Tree, two: Tree) -> Iterator[Drift]:
    """Yield what differs between two parts, down to single settings."""
    for key in dict.fromkeys((*one, *two)):
        a, b = one.get(key), two.get(key)
        if a == b or (key in SETS and _as_set(a) == _as_set(b)):
            continue
        if isinstance(a, dict) and isinstance(b, dict):
            yield from _parts(box, (*path, key), a, b)
        elif _entries(a) and _entries(b) and (a or b):
            yield from _lists(box, (*path, key), a or [], b or [])
        else:
            yield _drift(box, (*path, key), a, b, both=True)


def _as_set(value: Any) -> Any:
    return sorted(map(str, value)) if isinstance(value, list) else [] if value is None else value


def _entries(value: Any) -> bool:
    return value is None or (isinstance(value, list) and all(isinstance(e, dict) for e in value))


def names_of(entries: list[Tree]) -> dict[str, Tree]:
    """Return the entries of a list by what tells them apart; by all that they say, where nothing else does."""
    key = key_of(entries)
    if key is not None:
        return {str(e[key]): e for e in entries}
    for keys in MORE_KEYS:
        named = {" ".join(str(e[k]) for k in keys if k in e): e for e in entries if keys[0] in e}
        if len(named) == len(entries):
            return named
    return {json.dumps(e, sort_keys=True, ensure_ascii=False): e for e in entries}


def _lists(box: str, path: tuple[str, ...], a: list[Tree], b: list[Tree]) -> Iterator[Drift]:
    one, two = names_of(a), names_of(b)
    for name, entry in one.items():
        if name not in two:
            yield _drift(box, (*path, name), entry, None)
        elif two[name] != entry:
            yield from _parts(box, (*path, name), entry, two[name])
    before = ""
    for name, entry in two.items():
        if name not in one:
            yield Drift(Differs.SITE_ONLY, box, (*path, name), None, entry, before if path[-1] in ORDERED else None)
        before = name
    order = [[n for n in x if n in one and n in two] for x in (one, two)]
    if path[-1] in ORDERED and order[0] != order[1]:
        yield Drift(Differs.OTHERWISE, box, path, order[0], order[1])


def _drift(box: str, path: tuple[str, ...], a: Any, b: Any, both: bool = False) -> Drift:
    what = Differs.OTHERWISE if both else Differs.SITE_ONLY if a is None else Differs.DESIGN_ONLY
    return Drift(what, box, path, a, b)


def _of_site(tree: Tree, seen: list[Seen], expected: list[Seen] | None) -> Iterator[Drift]:
    """Yield boxes, VLANs and cables that one side alone has."""
    known = {d["name"] for d in tree.get("devices", [])}
    units = {u["name"]: d["name"] for d in tree.get("devices", []) for u in d.get("units", [])}
    asked = {b.name for b in seen} | {b.box for b in seen}
    for box in seen:
        if box.name not in known:
            yield Drift(Differs.SITE_ONLY, "", ("devices", box.name), None, {"name": box.name} | box.device)
    there = {key: set(names_of(tree.get(key, []))) for key in ("vlans", "addresses", "services")}
    for key, entries in ((k, b.site.get(k, [])) for b in seen for k in there):
        for name, entry in names_of(entries).items():
            if name not in there[key]:
                there[key].add(name)
                yield Drift(Differs.SITE_ONLY, "", (key, name), None, entry)
    told = [v for b in seen for v in b.site.get("vlans", [])]
    plan = (
        {v["id"] for v in told}
        | {v["id"] for v in tree.get("vlans", [])}
        | {v for d in tree.get("devices", []) for v in d.get("vlans") or []}
    )
    fresh = {vid: name for b in seen for vid, name in b.vlans.items() if vid not in plan}
    taken = set(there["vlans"])
    for vid, name in sorted(fresh.items()):
        entry = {"id": vid, "name": name if name and name not in taken else f"vlan{vid}"}
        taken.add(entry["name"])
        yield Drift(Differs.SITE_ONLY, "", ("vlans", entry["name"]), None, entry)
    stubs: dict[str, Tree] = {}
    for near in (n for b in seen for n in b.neighbours):
        if near.device not in known | asked and near.device not in units:
            stub = stubs.setdefault(near.device, {"name": near.device, "kind": near.kind, "ports": []})
            if near.far not in [p["name"] for p in stub["ports"]]:
                stub["ports"].append({"name": near.far})
    for name, stub in stubs.items():
        bare = stub["kind"] == "endpoint" and [p["name"] for p in stub["ports"]] == ["1"]
        more: Tree = {"prefixes": []} if stub["kind"] == "outside" else {}
        site = {k: v for k, v in stub.items() if not (bare and k == "ports")} | more
        yield Drift(Differs.STUB, "", ("devices", name), None, site)
    yield from _cables(tree, seen, expected)


def cables_seen(seen: list[Seen]) -> list[tuple[str, str]]:
    """Return the cables that neighbours speak of, each once; a port that hears several has a box between that does not speak, and is left out."""
    heard: dict[str, set[str]] = {}
    for box in seen:
        for n in box.neighbours:
            heard.setdefault(f"{box.box or box.name}:{n.port}", set()).add(f"{n.device}:{n.far}")
    out: dict[frozenset[str], tuple[str, str]] = {}
    for end, far in heard.items():
        for other in far if len(far) == 1 else ():
            if heard.get(other, {end}) == {end}:
                out.setdefault(frozenset((end, other)), (end, other))
    return list(out.values())


def _cables(tree: Tree, seen: list[Seen], expected: list[Seen] | None) -> Iterator[Drift]:
    held = {frozenset(c): c for c in tree.get("cables", [])}
    told = {frozenset(c): c for c in cables_seen(seen)}
    for ends, cable in told.items():
        if ends not in held:
            yield Drift(Differs.SITE_ONLY, "", ("cables", " ".join(cable)), None, list(cable))
    speak = {b.box for b in seen if b.hears}
    for cable in cables_seen(expected or []):  # one that is in no place to be heard is not missed
        ends = frozenset(cable)
        if ends in held and ends not in told and all(end.partition(":")[0] in speak for end in cable):
            yield Drift(Differs.DESIGN_ONLY, "", ("cables", " ".join(cable)), list(cable), None)


def take_over(tree: Tree, drifts: Iterable[Drift]) -> Tree:
    """Return the design after it says what the site says, in these differences; those that are nothing to write down change nothing."""
    out: Tree = copy.deepcopy(tree)
    wanted = [d for d in drifts if d.what != Differs.DOWN]
    wanted.sort(key=lambda d: (d.path[0] == "cables", d.path[0] == "cables" and d.site is not None))
    for drift in wanted:
        if drift.path[0] == "cables" and not drift.device:
            _plug(out, drift)
        else:
            holder = out if not drift.device else _named(out.setdefault("devices", []), drift.device)
            if holder is not None:
                _set(holder, drift.path, drift)
    return out


def _plug(tree: Tree, drift: Drift) -> None:
    ends = set(drift.site or drift.design)
    cables = tree.setdefault("cables", [])
    cables[:] = [c for c in cables if not ends & set(c)] if drift.site else [c for c in cables if set(c) != ends]
    if drift.site:
        cables.append(list(drift.site))


def _named(entries: list[Tree], name: str) -> Tree | None:
    return names_of(entries).get(name)


def _set(part: Tree, path: tuple[str, ...], drift: Drift) -> None:
    """Have one value where a path leads."""
    key, rest = path[0], path[1:]
    if not rest:
        if drift.site is None:
            part.pop(key, None)
        elif isinstance(part.get(key), list) and key in ORDERED:
            entries = names_of(part[key])
            first = [entries[n] for n in drift.site if n in entries]
            part[key] = first + [e for n, e in entries.items() if n not in drift.site]
        else:
            part[key] = copy.deepcopy(drift.site)
        return
    held = part.setdefault(key, {} if isinstance(part.get(key), dict) else [])
    if isinstance(held, dict):
        _set(held, rest, drift)
        return
    entry = _named(held, rest[0])
    if len(rest) > 1:
        if entry is not None:
            _set(entry, rest[1:], drift)
    elif drift.site is None:
        held[:] = [e for e in held if e is not entry]
        if not held:
            del part[key]
    elif entry is None:
        names = list(names_of(held))
        at = 0 if drift.after == "" else names.index(drift.after) + 1 if drift.after in names else len(held)
        held.insert(at, copy.deepcopy(drift.site))
