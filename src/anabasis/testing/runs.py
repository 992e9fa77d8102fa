"""What a run of tests says: lines of a sheet as they were kept, and what somebody typed in at each."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from anabasis.facts import Shown
from anabasis.testing.results import key_of, read_row, sheet_row
from anabasis.testing.signatures import Signatures

Row = Mapping[str, Any]
Marks = Mapping[str, Mapping[str, Any]]
"""Line -> what was typed in, under `value`."""


def typed(row: Row, marks: Marks) -> str:
    """Return what was typed in at a line; empty where nothing was."""
    return str(marks.get(row["id"], {}).get("value", ""))


def wrong_lines(rows: Iterable[Row], marks: Marks) -> list[str]:
    """Return the lines at which something else was seen than expected."""
    seen = [(dict(row), typed(row, marks)) for row in rows]
    return [row["id"] for row, said in seen if said and read_row(row, said) != read_row(row, row["expect"])]


def stale_lines(rows: Iterable[Row], pool: Signatures) -> list[str]:
    """Return the lines that another result is to be expected at now, or that no test is asked by any more."""
    now = {key_of(row): row["expect"] for row in map(sheet_row, pool.tests)}
    return [row["id"] for row in rows if now.get(key_of(dict(row))) != row["expect"]]


def proved_pairs(rows: Iterable[Row], marks: Marks) -> tuple[list[tuple[str, str]], list[tuple[str, str]]]:
    """Return the ordered pairs of segments that were seen as expected, and those that were not, each once."""
    made = [r for r in rows if r["id"] in marks and r.get("segment") and r.get("to") and r["segment"] != r["to"]]
    wrong = set(wrong_lines(made, marks))
    good, bad = ([(r["segment"], r["to"]) for r in made if (r["id"] in wrong) == is_bad] for is_bad in (False, True))
    return list(dict.fromkeys(good)), list(dict.fromkeys(bad))


def answers_of(rows: Sequence[Row], marks: Marks, pool: Signatures) -> list[tuple[str, Shown]]:
    """Return what was seen, by the tests as they are now; lines that no test is asked by are left out."""
    tests = {key_of(sheet_row(t)): t for t in pool.tests}
    out: list[tuple[str, Shown]] = []
    for row in map(dict, rows):
        said, test = typed(row, marks), tests.get(key_of(row))
        seen = read_row(row, said, pool.values, test) if said and test is not None else None
        if seen is not None and test is not None:
            out.append((test.id, seen))
    return out
