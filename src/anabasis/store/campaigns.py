"""Campaigns, kept: what was asked of which states of which designs, how far it is, and a row a case."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256
from typing import Any

from sqlalchemy import Engine, delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from anabasis.design import Tree
from anabasis.errors import NoSuchThing
from anabasis.store.engine import transaction
from anabasis.store.history import note
from anabasis.store.tables import CampaignDesignRow, CampaignRow, CaseRow


@dataclass(frozen=True)
class Subject:
    """One state of a design that a campaign is about."""

    name: str
    """What its rows call it."""
    design_id: str
    revision: int | None
    """None = the draft."""
    stamp: str


@dataclass(frozen=True)
class CampaignRecord:
    """One campaign, without its documents and rows."""

    id: int
    kind: str
    author: str
    at: datetime
    asked: dict[str, Any]
    subjects: tuple[Subject, ...]
    done: int
    total: int
    state: str


@dataclass(frozen=True)
class Case:
    """What came of one case: what names it, its harm, and the whole of it."""

    key: str
    opened: int
    closed: int
    lost: int
    meanwhile: int
    said: dict[str, Any]


class Campaigns:
    """All campaigns."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def add(
        self,
        kind: str,
        author: str,
        at: datetime,
        asked: dict[str, Any],
        subjects: Sequence[Subject],
        documents: dict[str, Tree],
        total: int,
    ) -> CampaignRecord:
        """Keep a campaign that begins."""
        with transaction(self._engine) as session:
            row = CampaignRow(
                kind=kind, author=author, at=at, asked=asked, documents=documents, done=0, total=total, state="running"
            )
            session.add(row)
            session.flush()
            for s in subjects:
                session.add(CampaignDesignRow(campaign_id=row.id, **vars(s)))
                note(session, author, "campaign", s.design_id, f"campaign {row.id} ({kind})", at)
            session.flush()
            return _record(session, row)

    def all(self, designs: Collection[str] | None, kind: str | None = None) -> list[CampaignRecord]:
        """Return the campaigns that are about designs of these alone, the newest first; None = all. One whose design is gone is dropped."""
        with transaction(self._engine) as session:
            about = select(CampaignDesignRow.campaign_id)
            session.execute(delete(CampaignRow).where(CampaignRow.id.not_in(about)))
            found = select(CampaignRow).order_by(CampaignRow.id.desc())
            if kind is not None:
                found = found.where(CampaignRow.kind == kind)
            held = [_record(session, r) for r in session.scalars(found)]
        return [c for c in held if designs is None or {s.design_id for s in c.subjects} <= set(designs)]

    def newest(self, design: str, kind: str) -> CampaignRecord | None:
        """Return the newest campaign of a kind about a design."""
        with transaction(self._engine) as session:
            found = (
                select(CampaignRow)
                .join(CampaignDesignRow)
                .where(CampaignDesignRow.design_id == design, CampaignRow.kind == kind)
                .order_by(CampaignRow.id.desc())
                .limit(1)
            )
            row = session.scalar(found)
            return _record(session, row) if row is not None else None

    def get(self, id_: int) -> CampaignRecord:
        """Return a campaign. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            return _record(session, _row(session, id_))

    def documents(self, id_: int) -> dict[str, Tree]:
        """Return the documents it is about, by what its rows call them. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            return dict(_row(session, id_).documents)

    def keep(self, id_: int, cases: Sequence[Case], done: int, total: int, state: str) -> None:
        """Keep rows and how far it is; a row that is there already stays. Raises NoSuchThing where it was taken out meanwhile."""
        with transaction(self._engine) as session:
            row = _row(session, id_)
            row.done, row.total, row.state = done, total, state
            if cases:
                held = [
                    {
                        "campaign_id": id_,
                        "key": _digest(c.key),
                        "opened": c.opened,
                        "closed": c.closed,
                        "lost": c.lost,
                        "meanwhile": c.meanwhile,
                        "said": c.said,
                    }
                    for c in cases
                ]
                session.execute(insert(CaseRow).values(held).on_conflict_do_nothing())

    def rows(self, id_: int, most: int | None = None, skip: int = 0, harmful: bool = False) -> list[dict[str, Any]]:
        """Return rows, the worst first. `harmful`: only those that do harm."""
        order = (CaseRow.opened, CaseRow.closed, CaseRow.lost, CaseRow.meanwhile)
        found = select(CaseRow.said).where(CaseRow.campaign_id == id_)
        if harmful:
            found = found.where(CaseRow.opened + CaseRow.closed + CaseRow.lost + CaseRow.meanwhile > 0)
        found = found.order_by(*(c.desc() for c in order), CaseRow.key).offset(skip)
        with transaction(self._engine) as session:
            return [dict(said) for said in session.scalars(found.limit(most) if most is not None else found)]

    def every_row(self, id_: int, at_once: int = 5_000) -> Iterator[dict[str, Any]]:
        """Yield all rows, the worst first, so many at a time."""
        skip = 0
        while held := self.rows(id_, at_once, skip):
            yield from held
            skip += len(held)

    def row(self, id_: int, key: str) -> dict[str, Any]:
        """Return the row of a case. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            held = session.get(CaseRow, (id_, _digest(key)))
            if held is None:
                raise NoSuchThing("This campaign has no such case.")
            return dict(held.said)

    def counts(self, id_: int) -> tuple[int, int, int]:
        """Return how many rows there are, how many do harm, and how many open something."""
        harm = CaseRow.opened + CaseRow.closed + CaseRow.lost + CaseRow.meanwhile
        with transaction(self._engine) as session:
            found = select(func.count(), func.count().filter(harm > 0), func.count().filter(CaseRow.opened > 0))
            held = session.execute(found.where(CaseRow.campaign_id == id_)).one()
            return int(held[0]), int(held[1]), int(held[2])

    def remove(self, id_: int) -> None:
        """Take a campaign out, with its rows. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            session.delete(_row(session, id_))


def _digest(key: str) -> str:
    return sha256(key.encode()).hexdigest()


def _row(session: Session, id_: int) -> CampaignRow:
    row = session.get(CampaignRow, id_)
    if row is None:
        raise NoSuchThing(f"There is no campaign {id_}.")
    return row


def _record(session: Session, row: CampaignRow) -> CampaignRecord:
    about = select(CampaignDesignRow).where(CampaignDesignRow.campaign_id == row.id).order_by(CampaignDesignRow.name)
    subjects = tuple(Subject(s.name, s.design_id, s.revision, s.stamp) for s in session.scalars(about))
    return CampaignRecord(
        row.id, row.kind, row.author, row.at, dict(row.asked), subjects, row.done, row.total, row.state
    )
