"""Rows of a campaign in a file, CSV or JSON lines, added to as they come; a campaign that was stopped goes on where it was."""

from __future__ import annotations

import csv
import json
from collections.abc import Iterable, Iterator
from dataclasses import fields
from io import StringIO
from pathlib import Path
from typing import Any

from anabasis.campaign.judging import Row
from anabasis.cells import escaped, unescaped
from anabasis.errors import InputRefused, Problem

LISTS = ("failed", "faults", "opened", "closed")
COLUMNS = tuple(f.name for f in fields(Row))


class Rows:
    """A file of rows. What it held before is read first; a line that was cut off while it was written is dropped."""

    def __init__(self, path: Path) -> None:
        """Raises InputRefused where the file is no file of rows."""
        self.path, self.lines = path, path.suffix == ".jsonl"
        if path.suffix not in (".jsonl", ".csv"):
            raise InputRefused(
                [
                    Problem(
                        "--out",
                        "rows are written as CSV or as JSON lines",
                        repr(str(path)),
                        "a name that ends in .csv or .jsonl",
                    )
                ]
            )
        self.held = list(self._read()) if path.exists() else []
        text = self.path.read_text(encoding="utf-8") if path.exists() else ""
        whole = text[: text.rfind("\n") + 1]
        if whole != text:
            self.path.write_text(whole, encoding="utf-8")
        self._file = path.open("a", encoding="utf-8", newline="")
        if not whole and not self.lines:
            self._file.write(",".join(COLUMNS) + "\r\n")

    @property
    def done(self) -> set[tuple[str, str]]:
        """Return (key, digest) of the rows that are there."""
        return {(r.key, r.digest) for r in self.held}

    def add(self, row: Row) -> None:
        """Write one more."""
        self._file.write(json.dumps(row.as_dict()) + "\n" if self.lines else _csv(row))
        self._file.flush()

    def close(self) -> None:
        """Close the file."""
        self._file.close()

    def _read(self) -> Iterator[Row]:
        text = self.path.read_text(encoding="utf-8")
        whole = text[: text.rfind("\n") + 1]
        try:
            if self.lines:
                yield from (read_row(json.loads(line)) for line in whole.splitlines() if line)
                return
            for said in csv.DictReader(StringIO(whole)):
                yield read_row({k: (json.loads(v) if k in LISTS else unescaped(str(v))) for k, v in said.items()})
        except (KeyError, ValueError, TypeError) as error:
            raise InputRefused(
                [
                    Problem(
                        "--out",
                        "this is no file of a campaign's rows",
                        str(self.path),
                        f"one that a campaign wrote ({error})",
                    )
                ]
            ) from None


def read_row(said: dict[str, Any]) -> Row:
    """Return a row of what `as_dict` wrote. Raises KeyError, TypeError, ValueError where it is none."""
    values: dict[str, Any] = {k: str(said[k]) for k in ("design", "digest")}
    values |= {k: tuple(str(x) for x in said[k]) for k in LISTS}
    values |= {k: int(said[k]) for k in ("lost", "meanwhile")}
    values |= {k: said[k] in (True, "True", "true") for k in ("split_brain", "refused")}
    return Row(**values, seconds=float(said["seconds"]))


def as_csv(rows: Iterable[Row]) -> Iterator[str]:
    """Yield the lines of a table of rows (RFC 4180), its head first."""
    yield ",".join(COLUMNS) + "\r\n"
    yield from map(_csv, rows)


def _csv(row: Row) -> str:
    out = StringIO()
    values = row.as_dict()
    csv.writer(out).writerow([json.dumps(values[k]) if k in LISTS else escaped(str(values[k])) for k in COLUMNS])
    return out.getvalue()
