"""The cabling as a picture (SVG 1.1): boxes in tiers from outside to hosts, placed so that few lines cross (Sugiyama's method)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from html import escape

import igraph

from anabasis.views import Cabling

WIDE, HIGH, GAP_X, GAP_Y, MARGIN = 116, 34, 22, 92, 24
PAPER = 1_000
"""How wide a row of hosts may become before it is broken, in units of the drawing."""
STYLE = (
    "text{font:12px system-ui,sans-serif;fill:#222}.port{font-size:9px;fill:#555}.box{fill:#fff;stroke:#222}.outside{stroke-dasharray:2 2}"
    ".firewall{stroke-width:2.5}.standby{fill:#eee}.line{stroke:#222;fill:none}.down{stroke:#b00020;stroke-dasharray:6 4}.standby-line{stroke:#999}"
    ".bundle{stroke-width:2.5}.wireless{stroke-dasharray:1 3}.tunnel,.overlay{stroke-dasharray:8 3 2 3}.heartbeat{stroke-dasharray:2 2}"
)


@dataclass(frozen=True)
class Placed:
    """Where the middle of each box is, and how large the sheet."""

    at: dict[str, tuple[float, float]]
    width: float
    height: float


def cabling_svg(cabling: Cabling) -> str:
    """Return the drawing by itself."""
    placed = _placed(cabling)
    size = (
        f'width="{placed.width:.0f}" height="{placed.height:.0f}" viewBox="0 0 {placed.width:.0f} {placed.height:.0f}"'
    )
    body = "".join((*_lines(cabling, placed), *_boxes(cabling, placed)))
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size} role="img"><title>Cabling</title><style>{STYLE}</style>{body}</svg>\n'


def _placed(cabling: Cabling) -> Placed:
    """Place boxes by tier; a tier that is too wide for paper is broken into rows."""
    names = [b.name for b in cabling.boxes]
    index = {name: k for k, name in enumerate(names)}
    if not names:
        return Placed({}, 2 * MARGIN, 2 * MARGIN)
    edges = [(index[a], index[b]) for a, b in (line.ends for line in cabling.lines) if a in index and b in index]
    graph = igraph.Graph(n=len(names), edges=[e for e in edges if e[0] != e[1]])
    tiers = [b.tier for b in cabling.boxes]
    order = graph.layout_sugiyama(layers=tiers, maxiter=100)
    at: dict[str, tuple[float, float]] = {}
    row, widest = 0, 0.0
    for tier in sorted(set(tiers)):
        mine = sorted((k for k in range(len(names)) if tiers[k] == tier), key=lambda k: order[k][0])
        many = max(1, PAPER // (WIDE + GAP_X))
        for start in range(0, len(mine), many):
            part = mine[start : start + many]
            width = len(part) * (WIDE + GAP_X) - GAP_X
            widest = max(widest, width)
            for k, n in enumerate(part):
                at[names[n]] = (k * (WIDE + GAP_X) - width / 2, row * GAP_Y)
            row += 1
    middle = widest / 2 + MARGIN
    shifted = {n: (x + middle + WIDE / 2, y + MARGIN + HIGH / 2) for n, (x, y) in at.items()}
    return Placed(shifted, widest + 2 * MARGIN, (row - 1) * GAP_Y + HIGH + 2 * MARGIN)


def _boxes(cabling: Cabling, placed: Placed) -> Iterator[str]:
    for box in cabling.boxes:
        x, y = placed.at[box.name]
        look = f"box {box.kind}{' standby' if box.standby else ''}"
        round_ = HIGH / 2 if box.kind in ("outside", "endpoint") else 4
        yield f'<rect class="{look}" x="{x - WIDE / 2:.1f}" y="{y - HIGH / 2:.1f}" width="{WIDE}" height="{HIGH}" rx="{round_}"/>'
        yield f'<text x="{x:.1f}" y="{y + 4:.1f}" text-anchor="middle">{escape(_short(box.name))}</text>'


def _short(name: str) -> str:
    return name if len(name) <= 17 else f"{name[:16]}…"


def _lines(cabling: Cabling, placed: Placed) -> Iterator[str]:
    among: dict[frozenset[str], int] = {}
    for line in cabling.lines:
        if not all(end in placed.at for end in line.ends):
            continue
        pair = frozenset(line.ends)
        k = among[pair] = among.get(pair, -1) + 1
        aside = (k + 1) // 2 * 20 * (1 if k % 2 else -1)
        (ax, ay), (bx, by) = (placed.at[end] for end in line.ends)
        look = f"line {line.kind}{' bundle' if line.bundle else ''}{' down' if line.state == 'down' else ''}{' standby-line' if line.state in ('standby', 'blocked') else ''}"
        bend = (ax + bx) / 2 + aside, (ay + by) / 2 + (aside if ay == by else 0) + (-34 if ay == by and ax != bx else 0)
        yield f'<path class="{look}" d="M{ax:.1f} {ay:.1f}Q{bend[0]:.1f} {bend[1]:.1f} {bx:.1f} {by:.1f}"><title>{escape(_said(line.ends, line.ports, line.state))}</title></path>'
        for (x, y), (fx, fy), ports in zip(((ax, ay), (bx, by)), ((bx, by), (ax, ay)), line.ports, strict=True):
            reach = (HIGH / 2 + 10) / max(abs(fy - y), 1) if fy != y else 0.35
            px, py = x + (fx - x) * reach + aside * 0.7, y + (fy - y) * reach + 3
            yield f'<text class="port" x="{px:.1f}" y="{py:.1f}" text-anchor="middle">{escape(",".join(ports)[:18])}</text>'


def _said(ends: list[str], ports: list[list[str]], state: str) -> str:
    return " to ".join(f"{end} {', '.join(p)}" for end, p in zip(ends, ports, strict=True)) + f": {state}"
