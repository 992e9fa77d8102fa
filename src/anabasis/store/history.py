"""Published revisions: numbered, with a reason, never changed; and the log of what was done."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Engine, func, select
from sqlalchemy.orm import Session

from anabasis.design import Tree
from anabasis.errors import NoSuchThing, Outdated
from anabasis.store.engine import transaction
from anabasis.store.notices import tell
from anabasis.store.stamps import stamp_of
from anabasis.store.tables import AuditRow, DesignRow, RevisionRow


@dataclass(frozen=True)
class Revision:
    """One published revision."""

    number: int
    version: int
    """The version of the draft it is."""
    reason: str
    forced: str | None
    """Why it was published although expectations failed."""
    failing: list[str]
    author: str
    at: datetime


@dataclass(frozen=True)
class Deed:
    """One line of the log."""

    id: int
    at: datetime
    who: str
    what: str
    design_id: str | None
    detail: str


class History:
    """The revisions of all designs."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def publish(
        self,
        id_: str,
        seen: int,
        stamp: str,
        reason: str,
        failing: list[str],
        forced: str | None,
        author: str,
        at: datetime,
    ) -> Revision:
        """Make the draft at version `seen`, which says what `stamp` stands for, the next revision. Raises NoSuchThing or Outdated."""
        with transaction(self._engine) as session:
            row = session.get(DesignRow, id_, with_for_update=True)
            if row is None:
                raise NoSuchThing(f"There is no design {id_!r}.")
            if (row.version, row.stamp or stamp_of(row.document)) != (seen, stamp):
                raise Outdated(seen, row.version, [])
            last = session.scalar(select(func.max(RevisionRow.number)).where(RevisionRow.design_id == id_)) or 0
            entry = RevisionRow(
                design_id=id_, number=last + 1, version=seen, document=row.document, reason=reason,
                forced=forced, failing=failing, author=author, at=at,
            )  # fmt: skip
            session.add(entry)
            note(session, author, "published", id_, f"revision {last + 1}: {reason}", at)
            tell(session, {"design": id_, "kind": "published", "number": last + 1, "who": author})
            return _revision(entry)

    def revisions(self, id_: str) -> list[Revision]:
        """Return the revisions of a design, the newest first."""
        with transaction(self._engine) as session:
            found = select(RevisionRow).where(RevisionRow.design_id == id_).order_by(RevisionRow.number.desc())
            return [_revision(r) for r in session.scalars(found)]

    def document(self, id_: str, number: int) -> Tree:
        """Return the document of a revision. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            found = select(RevisionRow.document).where(RevisionRow.design_id == id_, RevisionRow.number == number)
            tree: Tree | None = session.scalar(found)
        if tree is None:
            raise NoSuchThing(f"There is no revision {number} of this design.")
        return tree

    def note(self, who: str, what: str, design: str | None, detail: str, at: datetime) -> None:
        """Add a line to the log."""
        with transaction(self._engine) as session:
            note(session, who, what, design, detail, at)

    def log(self, design: str | None, before: int | None = None, limit: int = 200) -> list[Deed]:
        """Return what was done, the newest first: with one design, or at all."""
        found = select(AuditRow).order_by(AuditRow.id.desc()).limit(limit)
        found = found.where(AuditRow.design_id == design) if design is not None else found
        found = found.where(AuditRow.id < before) if before is not None else found
        with transaction(self._engine) as session:
            return [Deed(r.id, r.at, r.who, r.what, r.design_id, r.detail) for r in session.scalars(found)]


def note(session: Session, who: str, what: str, design: str | None, detail: str, at: datetime) -> None:
    """Add a line to the log, in the transaction of what was done. Secrets have no place in it."""
    session.add(AuditRow(at=at, who=who[:80], what=what, design_id=design, detail=detail[:300]))


def _revision(row: RevisionRow) -> Revision:
    return Revision(row.number, row.version, row.reason, row.forced, row.failing, row.author, row.at)
