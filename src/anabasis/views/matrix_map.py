"""The matrix of a large site as a map: one letter a pair, groups folded into one row, like beside like; what letters leave open is told tile by tile."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from anabasis.allpairs import Tally
from anabasis.classes import Mask, Numbers
from anabasis.site import Site
from anabasis.verdicts import Verdicts
from anabasis.views.matrix import MatrixCell

GROUPINGS = ("zone", "vlan", "device")
ORDERS = ("plan", "like")
ALL, SOME, NONE, UNLED, SELF = b"asnu-"
"""Letters: everything passes, some flows, none by rule, something below the rules has a say, itself.

Where the pairs of folded groups differ, a digit: in how many tenths of them something passes.
"""
TILE = 64
"""How many rows, and columns, a tile has at most."""


@dataclass(frozen=True)
class MapRow:
    """One row and column: a segment, or a group that is folded."""

    name: str
    group: str
    pointer: str
    segments: list[str]
    folded: bool


@dataclass(frozen=True)
class MatrixMap:
    """All pairs. `rows[a][b]` is the letter of the pair from a to b."""

    axis: list[MapRow]
    rows: list[str]
    groups: list[str]
    """Every group, in the order of the axis."""


@dataclass(frozen=True)
class TileCell:
    """What one pair says that its letter left open."""

    row: int
    column: int
    cell: MatrixCell


def matrix_map(
    verdicts: Verdicts,
    grouping: str = "zone",
    order: str = "plan",
    folded: frozenset[str] = frozenset(),
    transits: bool = False,
) -> MatrixMap:
    """Return the map. `grouping`: one of GROUPINGS; `order`: one of ORDERS; `folded`: the groups shown as one row."""
    site, codes = verdicts.sweep.site, letters(verdicts.tally)
    shown = [k for k, s in enumerate(site.segments.all) if transits or (s.kind != "transit" and s.attachments)]
    group_of = {k: name for k, name in zip(shown, _groups(site, shown, grouping), strict=True)}
    groups = list(dict.fromkeys(group_of[k] for k in shown))
    like = {k: codes[k].tobytes() + codes[:, k].tobytes() for k in shown} if order == "like" else {}
    units: list[tuple[str, list[int]]] = []
    for group in groups:
        mine = sorted((k for k in shown if group_of[k] == group), key=lambda k: like.get(k, b""))
        units += [(group, mine)] if group in folded else [(group, [k]) for k in mine]
    segments = site.segments.all
    axis = [
        MapRow(
            group if group in folded else segments[mine[0]].name,
            group,
            segments[mine[0]].pointer,
            [segments[k].name for k in mine],
            group in folded,
        )
        for group, mine in units
    ]
    joined = _joined(codes, [np.array(mine, dtype=np.intp) for _, mine in units])
    return MatrixMap(axis, [row.tobytes().decode() for row in joined], groups)


def letters(tally: Tally) -> npt.NDArray[np.uint8]:
    """Return uint8[segment, segment]: the letter of every ordered pair."""
    out = np.where(tally.full, ALL, np.where(tally.some, SOME, NONE))
    out = np.where(tally.led, out, UNLED).astype(np.uint8)
    np.fill_diagonal(out, SELF)
    return out


def _joined(codes: npt.NDArray[np.uint8], units: list[Numbers]) -> npt.NDArray[np.uint8]:
    """Return uint8[unit, unit]: one letter for all pairs of two units, a digit where they differ; a unit with itself included."""
    order = np.concatenate(units) if units else np.zeros(0, dtype=np.intp)
    starts = np.cumsum([0, *(len(u) for u in units[:-1])]).astype(np.intp)
    if not len(order):
        return np.zeros((0, 0), dtype=np.uint8)
    laid = codes[np.ix_(order, order)]
    least = np.where(laid == SELF, 255, laid)
    low = np.minimum.reduceat(np.minimum.reduceat(least, starts, axis=0), starts, axis=1)
    high = np.maximum.reduceat(np.maximum.reduceat(np.where(laid == SELF, 0, laid), starts, axis=0), starts, axis=1)
    passing = _sums((laid == ALL) | (laid == SOME), starts) * 10 // np.maximum(_sums(laid != SELF, starts), 1)
    return np.where(high == 0, SELF, np.where(low == high, low, ord("0") + np.minimum(passing, 9))).astype(np.uint8)


def _sums(marks: Mask, starts: Numbers) -> Numbers:
    return np.add.reduceat(np.add.reduceat(marks.astype(np.intp), starts, axis=0), starts, axis=1)


def matrix_tile(verdicts: Verdicts, sources: list[str], targets: list[str]) -> list[TileCell]:
    """Return the verdict of every pair of some segments that its letter leaves open. Cost: a walk a pair."""
    at, codes = verdicts.sweep.site.segments.by_name, letters(verdicts.tally)
    out: list[TileCell] = []
    for row, one in enumerate(sources[:TILE]):
        for column, two in enumerate(targets[:TILE]):
            a, b = at.get(one), at.get(two)
            if a is not None and b is not None and codes[a, b] == UNLED:
                v = verdicts.judge(a, b)
                out.append(TileCell(row, column, MatrixCell(v.verdict, v.layer, v.reason, v.tone)))
    return out


def _groups(site: Site, shown: list[int], grouping: str) -> list[str]:
    if grouping == "vlan":
        names = {v.id: v.name for v in site.design.vlans}
        found = [next((names.get(v) or str(v) for v in site.segments.all[k].vlan_ids), None) for k in shown]
        return [f or site.segments.all[k].name for k, f in zip(shown, found, strict=True)]
    if grouping == "device":
        return [_router(site, k) or "no gateway" for k in shown]
    return [site.zones[k] or "no zone" for k in shown]


def _router(site: Site, segment: int) -> str | None:
    """Return the device that is the gateway of a segment's hosts; an outside is its own."""
    if site.segments.all[segment].kind == "outside":
        return site.segments.all[segment].name
    for group in site.net.groups_of[segment]:
        holders = site.net.gateways(group.gateway) if group.gateway is not None else []
        if holders:
            return holders[0].device
    return None
