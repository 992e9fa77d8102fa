"""Cells of a table: separators, quotes, lists in a cell, and what a spreadsheet would take for a formula (RFC 4180)."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from anabasis.cells import escaped, unescaped
from anabasis.errors import InputRefused, Problem

MOST_ROWS, MOST_BYTES = 50_000, 16 * 2**20
_WORD = re.compile(r'"((?:[^"]|"")*)"|[^\s,]+')


@dataclass(frozen=True)
class Line:
    """One row as it was given."""

    number: int
    """Counted from 1, as an editor counts."""
    cells: tuple[str, ...]

    @property
    def text(self) -> str:
        """Return the row as text, tabs between its cells, for mending."""
        return "\t".join(self.cells)


def lines_of(text: str) -> list[Line]:
    """Return the rows of a table: tabs, semicolons or commas between cells, whichever the first line has most of; blank rows left out.

    Raises InputRefused for what is no table: too large, or a quote that is never closed.
    """
    if len(text) > MOST_BYTES:
        raise InputRefused([Problem("", "the table is too large", f"{len(text)} bytes", f"{MOST_BYTES // 2**20} MiB")])
    text = text.removeprefix("\ufeff").replace("\x00", "")
    first = next((x for x in text.splitlines() if x.strip()), "")
    mark = max("\t;,", key=lambda c: (first.count(c), c == "\t"))
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=mark, strict=True)
    found: list[Line] = []
    before = 0
    try:
        for row in reader:
            cells = tuple(unescaped(c.strip()) for c in row)
            if any(cells):
                found.append(Line(before + 1, cells))
            before = reader.line_num
            if len(found) > MOST_ROWS:
                raise InputRefused([Problem("", "the table has too many rows", f"over {MOST_ROWS}", str(MOST_ROWS))])
    except csv.Error as error:
        said = f"line {before + 1} cannot be read: {error}"
        raise InputRefused([Problem("", said, allowed="cells between commas, quotes doubled inside quotes")]) from None
    return found


def written(columns: Sequence[str], rows: Iterable[dict[str, str]]) -> str:
    """Return a table as text: a line of headings, then the rows, lines ended as RFC 4180 section 2 has them."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(columns)
    for row in rows:
        writer.writerow([escaped(row.get(c, "")) for c in columns])
    return out.getvalue()


def words_of(text: str) -> list[str]:
    """Return the entries of a list in a cell: blanks or commas between them; one that holds either stands in quotes."""
    return [m[1].replace('""', '"') if m[0].startswith('"') else m[0] for m in _WORD.finditer(text)]


def as_list(values: Iterable[object]) -> str:
    """Return a list as a cell."""
    return " ".join(_quoted(str(v)) for v in values)


def _quoted(text: str) -> str:
    return '"' + text.replace('"', '""') + '"' if not text or re.search(r'[\s,"]', text) else text


def numbered(lines: Sequence[Line], columns: Sequence[str | None]) -> Iterator[tuple[Line, dict[str, str]]]:
    """Yield each row with its cells by column; cells of columns that mean nothing are left out."""
    for line in lines:
        yield line, {c: v for c, v in zip(columns, line.cells, strict=False) if c is not None}
