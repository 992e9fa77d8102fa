"""The reach matrix as a picture (SVG 1.1): rows send, columns are sent to; shapes tell what passes, so that it reads without colour."""

from __future__ import annotations

from collections.abc import Iterator
from html import escape

from anabasis.views import Matrix, MatrixCell

CELL, HEAD, LETTER = 18, 20, 6.2
STYLE = "text{font:10px system-ui,sans-serif;fill:#222}.cell{fill:#fff;stroke:#c9d2cf}.self{fill:#e6ebe9}.tone-broken{fill:#f6dcdc}.mark{fill:#1f5b4a}"
SHADE = {"broken": " tone-broken"}


def matrix_svg(matrix: Matrix) -> str:
    """Return the matrix as a picture; of a site so large that it has no cells, its segments alone."""
    names = [s.name for s in matrix.segments]
    head = HEAD + LETTER * max((len(n) for n in names), default=0)
    side = head + CELL * len(names) + 4
    body = "".join((*_heads(names, head), *_cells(matrix, head)))
    size = f'width="{side:.0f}" height="{side:.0f}" viewBox="0 0 {side:.0f} {side:.0f}"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size} role="img"><title>Reach</title><style>{STYLE}</style>{body}</svg>\n'


def _heads(names: list[str], head: float) -> Iterator[str]:
    for k, name in enumerate(names):
        at = head + CELL * k + CELL / 2 + 3.5
        yield f'<text x="{head - 6:.1f}" y="{at:.1f}" text-anchor="end">{escape(name)}</text>'
        yield f'<text transform="translate({at:.1f} {head - 6:.1f}) rotate(-90)">{escape(name)}</text>'


def _cells(matrix: Matrix, head: float) -> Iterator[str]:
    for a, row in enumerate(matrix.cells):
        for b, cell in enumerate(row):
            x, y = head + CELL * b, head + CELL * a
            look = "cell self" if cell is None else f"cell{SHADE.get(cell.tone, '')}"
            said = "" if cell is None else _said(matrix.segments[a].name, matrix.segments[b].name, cell)
            yield f'<rect class="{look}" x="{x:.1f}" y="{y:.1f}" width="{CELL}" height="{CELL}">{said}</rect>'
            if cell is not None and cell.verdict != "none":
                yield _mark(x + CELL / 2, y + CELL / 2, whole=cell.verdict == "all")


def _said(source: str, target: str, cell: MatrixCell) -> str:
    return f"<title>{escape(f'{source} to {target}: {cell.verdict}; {cell.reason}')}</title>"


def _mark(x: float, y: float, whole: bool) -> str:
    if whole:
        return f'<circle class="mark" cx="{x:.1f}" cy="{y:.1f}" r="5"/>'
    return f'<path class="mark" d="M{x:.1f} {y - 5:.1f}A5 5 0 0 1 {x:.1f} {y + 5:.1f}Z"/>'
