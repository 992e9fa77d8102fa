"""Surveys of a site, kept with its design: who asked when, what each box did, what it said, and what was decided about it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Engine, func, select

from anabasis.design import Tree
from anabasis.errors import NoSuchThing
from anabasis.store.engine import transaction
from anabasis.store.history import note
from anabasis.store.notices import tell
from anabasis.store.tables import DesignRow, SurveyRow


@dataclass(frozen=True)
class SurveyRecord:
    """One survey, without what the boxes said."""

    number: int
    author: str
    at: datetime
    answers: list[dict[str, Any]]
    decided: dict[str, str]
    """Key of a difference -> who decided that the design is right about it."""


class Surveys:
    """The surveys of all designs."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def add(
        self, id_: str, author: str, at: datetime, answers: list[dict[str, Any]], said: dict[str, Tree]
    ) -> SurveyRecord:
        """Keep a survey as the next one of a design. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            if session.get(DesignRow, id_, with_for_update=True) is None:
                raise NoSuchThing(f"There is no design {id_!r}.")
            last = session.scalar(select(func.max(SurveyRow.number)).where(SurveyRow.design_id == id_)) or 0
            row = SurveyRow(
                design_id=id_, number=last + 1, author=author, at=at, answers=answers, said=said, decided={}
            )
            session.add(row)
            known = sum(1 for a in answers if a["why"] is None)
            note(session, author, "surveyed", id_, f"survey {last + 1}: {known} of {len(answers)} boxes answered", at)
            tell(session, {"design": id_, "kind": "surveyed", "number": last + 1, "who": author})
            return _record(row)

    def all(self, id_: str) -> list[SurveyRecord]:
        """Return the surveys of a design, the newest first."""
        with transaction(self._engine) as session:
            found = select(SurveyRow).where(SurveyRow.design_id == id_).order_by(SurveyRow.number.desc())
            return [_record(r) for r in session.scalars(found)]

    def get(self, id_: str, number: int) -> tuple[SurveyRecord, dict[str, Tree]]:
        """Return a survey, and what each box said. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            row = session.scalar(select(SurveyRow).where(SurveyRow.design_id == id_, SurveyRow.number == number))
            if row is None:
                raise NoSuchThing(f"There is no survey {number} of this design.")
            return _record(row), dict(row.said)

    def decide(self, id_: str, number: int, keys: list[str], author: str | None) -> SurveyRecord:
        """Keep that the design is right about some differences; None = nothing is decided about them any more. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            found = select(SurveyRow).where(SurveyRow.design_id == id_, SurveyRow.number == number).with_for_update()
            row = session.scalar(found)
            if row is None:
                raise NoSuchThing(f"There is no survey {number} of this design.")
            kept = {k: who for k, who in row.decided.items() if k not in keys}
            row.decided = kept | ({k: author for k in keys} if author is not None else {})
            tell(session, {"design": id_, "kind": "surveyed", "number": number, "who": author or ""})
            return _record(row)


def _record(row: SurveyRow) -> SurveyRecord:
    return SurveyRecord(row.number, row.author, row.at, list(row.answers), dict(row.decided))
