"""Sheets that are worked off on site, kept with their design: what was to be done or tested, and who ticked or saw what, and when."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Engine, func, select

from anabasis.errors import NoSuchThing
from anabasis.store.engine import transaction
from anabasis.store.history import note
from anabasis.store.notices import tell
from anabasis.store.tables import DesignRow, SheetRow

MOST_LINES, MOST_MARKS = 20_000, 100_000


@dataclass(frozen=True)
class SheetRecord:
    """One sheet."""

    number: int
    kind: str
    author: str
    at: datetime
    about: dict[str, Any]
    """What it leads from, and the stamp of the draft it leads to."""
    lines: list[dict[str, Any]]
    marks: dict[str, dict[str, Any]]
    """Line -> the last mark: value, note, who, at."""


class Sheets:
    """The sheets of all designs."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def add(
        self, id_: str, kind: str, author: str, at: datetime, about: dict[str, Any], lines: list[dict[str, Any]]
    ) -> SheetRecord:
        """Keep a sheet as the next one of a design. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            if session.get(DesignRow, id_, with_for_update=True) is None:
                raise NoSuchThing(f"There is no design {id_!r}.")
            last = session.scalar(select(func.max(SheetRow.number)).where(SheetRow.design_id == id_)) or 0
            row = SheetRow(
                design_id=id_,
                number=last + 1,
                kind=kind,
                author=author,
                at=at,
                about=about,
                lines=lines[:MOST_LINES],
                marks={},
            )
            session.add(row)
            note(session, author, "sheet", id_, f"{kind} sheet {last + 1}: {len(lines)} lines", at)
            tell(session, {"design": id_, "kind": "sheet", "number": last + 1, "who": author})
            return _record(row)

    def all(self, id_: str) -> list[SheetRecord]:
        """Return the sheets of a design, the newest first."""
        with transaction(self._engine) as session:
            found = select(SheetRow).where(SheetRow.design_id == id_).order_by(SheetRow.number.desc())
            return [_record(r) for r in session.scalars(found)]

    def get(self, id_: str, number: int) -> SheetRecord:
        """Return a sheet. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            row = session.scalar(select(SheetRow).where(SheetRow.design_id == id_, SheetRow.number == number))
            if row is None:
                raise NoSuchThing(f"There is no sheet {number} of this design.")
            return _record(row)

    def mark(self, id_: str, number: int, author: str, marks: dict[str, dict[str, Any]]) -> SheetRecord:
        """Keep what was ticked or seen at some lines; a mark with an older time than the one that is there changes nothing. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            found = select(SheetRow).where(SheetRow.design_id == id_, SheetRow.number == number).with_for_update()
            row = session.scalar(found)
            if row is None:
                raise NoSuchThing(f"There is no sheet {number} of this design.")
            held = dict(row.marks)
            for line, mark in marks.items():
                known = held.get(line)
                if known is None or known["at"] <= mark["at"]:
                    held[line] = mark | {"who": author}
            row.marks = {k: m for k, m in held.items() if m["value"] or m["note"]}
            tell(session, {"design": id_, "kind": "sheet", "number": number, "who": author})
            return _record(row)


def _record(row: SheetRow) -> SheetRecord:
    return SheetRecord(row.number, row.kind, row.author, row.at, dict(row.about), list(row.lines), dict(row.marks))
