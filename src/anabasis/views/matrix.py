"""The matrix: segments x segments, grouped by zone, transit segments apart; each cell a verdict and the layer that stops the rest."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass

from anabasis.design import has_schedules
from anabasis.fabric import Fabric, Inside, Segment, inside
from anabasis.facts import Layer, Passes, Tone
from anabasis.verdicts import Verdict, Verdicts, read_flows

DRAWN = 40
"""Up to how many segments the matrix has cells, each with its reason; of more there is the map."""


@dataclass(frozen=True)
class MatrixSegment:
    """One row and column."""

    name: str
    kind: str
    """`vlan`, `line`, `transit` or `outside`."""
    subnets: list[str]
    vlan_ids: list[int]
    zone: str | None
    island: bool
    pointer: str
    inside: Inside
    """Whether its hosts reach each other: the diagonal."""


@dataclass(frozen=True)
class MatrixCell:
    """One ordered pair."""

    verdict: Passes
    layer: Layer | None
    reason: str
    tone: Tone
    sometimes: bool = False
    """By the hour: at some time more passes than at any time."""


@dataclass(frozen=True)
class Matrix:
    """All pairs: cells[from][to], None on the diagonal. Of more segments than `DRAWN` there are no cells: `matrix_map` has them."""

    segments: list[MatrixSegment]
    cells: list[list[MatrixCell | None]]
    scheduled: bool = False
    """Whether any rule has hours."""


def matrix(verdicts: Verdicts, transits: bool = False, always: Verdicts | None = None) -> Matrix:
    """Return the matrix for a question; transits, and segments nobody can stand in, are folded away (docs/semantics.md, "Frames and segments").

    `always`: the same question about what is so at any time, where rules have hours.
    """
    site = verdicts.sweep.site
    zones = site.zones
    shown = [k for k, s in enumerate(site.segments.all) if transits or (s.kind != "transit" and s.attachments)]
    first = {z: n for n, z in reversed(list(enumerate(zones)))}
    shown.sort(key=lambda k: (zones[k] is None, first[zones[k]], k))
    rows: list[list[MatrixCell | None]] = []
    if len(shown) > DRAWN:
        return Matrix([_segment(site.fabric, site.segments.all[k], zones[k]) for k in shown], rows)
    for a in shown:
        found = [verdicts.judge(a, b) if a != b else None for b in shown]
        rows.append(
            [_cell(v, _by_the_hour(verdicts, always, a, b)) if v else None for b, v in zip(shown, found, strict=True)]
        )
    segments = [_segment(site.fabric, site.segments.all[k], zones[k]) for k in shown]
    return Matrix(segments, rows, has_schedules(site.design))


def _cell(verdict: Verdict, sometimes: bool) -> MatrixCell:
    return MatrixCell(verdict.verdict, verdict.layer, verdict.reason, verdict.tone, sometimes)


def _by_the_hour(verdicts: Verdicts, always: Verdicts | None, a: int, b: int) -> bool:
    """Tell whether a pair is opened further at some time than at any time: its flows differ, and with them what is asked."""
    if always is None or verdicts.sweep.fingerprints[a, b] == always.sweep.fingerprints[a, b]:
        return False
    now, ever = verdicts.judge(a, b).verdict, always.judge(a, b).verdict
    return now != ever or verdicts.flows(a, b) != always.flows(a, b)


def _segment(fabric: Fabric, segment: Segment, zone: str | None) -> MatrixSegment:
    return MatrixSegment(
        segment.name,
        segment.kind,
        list(segment.subnets),
        list(segment.vlan_ids),
        zone,
        segment.island,
        segment.pointer,
        inside(fabric, segment),
    )


def matrix_csv(verdicts: Verdicts, transits: bool = False) -> str:
    """Return the matrix as CSV (RFC 4180), one line an ordered pair, with its exact flows."""
    kinds = [s.kind for s in verdicts.sweep.site.segments.all]
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(("from", "to", "verdict", "layer", "reason", "flows"))
    for (a, b), v in zip(verdicts.sweep.pairs, verdicts.all, strict=True):
        if transits or "transit" not in (kinds[a], kinds[b]):
            said = (
                f"{f['sources']} -> {f['destinations']}: {f['services']}"
                for f in read_flows(verdicts.sweep, a, b, verdicts.flows(a, b))
            )
            writer.writerow((v.source, v.target, v.verdict, v.layer or "", v.reason, "; ".join(said)))
    return out.getvalue()
