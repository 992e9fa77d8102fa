"""Designs, drafts and edits. Every change checks the whole document first and stores it with its inverse, or changes nothing."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import datetime
from threading import Lock
from typing import Any

from sqlalchemy import Engine, delete, select
from sqlalchemy.orm import Session

from anabasis.design import Design, Patch, Tree, apply, inverse, parse_design
from anabasis.errors import NoSuchThing, NothingToUndo, Outdated
from anabasis.store.engine import errors_translated
from anabasis.store.tables import DesignRow, EditRow

KEPT = 12
"""How many documents are kept in memory beside the database."""


@dataclass(frozen=True)
class Summary:
    """A design in a list."""

    id: str
    name: str
    version: int
    created_at: datetime


@dataclass(frozen=True)
class EditRecord:
    """One edit as it was made."""

    version: int
    kind: str
    patch: Patch
    inverse: Patch
    author: str
    at: datetime


@dataclass(frozen=True)
class Draft:
    """The present state of a design's draft."""

    id: str
    version: int
    tree: Tree
    design: Design
    can_undo: bool
    can_redo: bool


class Store:
    """All designs of one database."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._known: OrderedDict[tuple[str, int], tuple[Tree, Design]] = OrderedDict()
        """The documents last read or written, by design and version: what the database has is never changed, only followed by a new version."""
        self._lock = Lock()

    def _remember(self, id_: str, version: int, tree: Tree, design: Design) -> None:
        with self._lock:
            self._known[id_, version] = tree, design
            while len(self._known) > KEPT:
                self._known.popitem(last=False)

    def _recall(self, id_: str, version: int) -> tuple[Tree, Design] | None:
        with self._lock:
            return self._known.get((id_, version))

    @contextmanager
    def _session(self) -> Iterator[Session]:
        with errors_translated(), Session(self._engine, expire_on_commit=False) as session, session.begin():
            yield session

    def designs(self) -> list[Summary]:
        """Return all designs, the oldest first."""
        with self._session() as session:
            rows = session.scalars(select(DesignRow).order_by(DesignRow.created_at, DesignRow.id))
            return [Summary(r.id, r.name, r.version, r.created_at) for r in rows]

    def create(self, id_: str, tree: Tree, at: datetime) -> Draft:
        """Store a new design. Raises InputRefused where the document is not valid."""
        design = parse_design(tree)
        with self._session() as session:
            session.add(DesignRow(id=id_, name=design.name, created_at=at, version=1, document=tree))
        return Draft(id_, 1, tree, design, False, False)

    def remove(self, id_: str) -> None:
        """Remove a design with all its edits. Raises NoSuchThing."""
        with self._session() as session:
            _locked(session, id_)
            session.execute(delete(DesignRow).where(DesignRow.id == id_))

    def draft(self, id_: str) -> Draft:
        """Return the draft of a design. Raises NoSuchThing."""
        with self._session() as session:
            version = session.scalar(select(DesignRow.version).where(DesignRow.id == id_))
            if version is None:
                raise NoSuchThing(f"There is no design {id_!r}.")
            known = self._recall(id_, version)
            if known is None:
                row = session.get_one(DesignRow, id_)
                version, known = row.version, (row.document, parse_design(row.document))
                self._remember(id_, version, *known)
            stacks = _stacks(session, id_)
            return Draft(id_, version, *known, bool(stacks[0]), bool(stacks[1]))

    def before_last(self, id_: str) -> tuple[Draft, Draft]:
        """Return the draft before its last edit, and as it is now; the same twice where it was never edited. Raises NoSuchThing."""
        now = self.draft(id_)
        with self._session() as session:
            last = session.scalar(select(EditRow).where(EditRow.design_id == id_, EditRow.version == now.version))
            if last is None:
                return now, now
            tree, design = apply(now.tree, last.inverse)
            return replace(now, version=now.version - 1, tree=tree, design=design), now

    def edits(self, id_: str, since: int = 0) -> list[EditRecord]:
        """Return the edits of a design after a version, the oldest first. Raises NoSuchThing."""
        with self._session() as session:
            if session.get(DesignRow, id_) is None:
                raise NoSuchThing(f"There is no design {id_!r}.")
            return _records(session, id_, since)

    def edit(self, id_: str, seen: int, patch: Patch, author: str, at: datetime) -> Draft:
        """Apply a patch to the draft a caller saw at version `seen`. Raises InputRefused, Outdated or NoSuchThing."""
        with self._session() as session:
            row = _locked(session, id_)
            _same_version(session, row, seen)
            return self._apply(session, row, patch, "edit", None, author, at)

    def undo(self, id_: str, seen: int, author: str, at: datetime) -> Draft:
        """Take the last edit back; this is an edit itself. Raises NothingToUndo, Outdated or NoSuchThing."""
        return self._again(id_, seen, "undo", author, at)

    def redo(self, id_: str, seen: int, author: str, at: datetime) -> Draft:
        """Do the last edit taken back again. Raises NothingToUndo, Outdated or NoSuchThing."""
        return self._again(id_, seen, "redo", author, at)

    def _again(self, id_: str, seen: int, kind: str, author: str, at: datetime) -> Draft:
        with self._session() as session:
            row = _locked(session, id_)
            _same_version(session, row, seen)
            done, undone = _stacks(session, id_)
            stack = done if kind == "undo" else undone
            if not stack:
                raise NothingToUndo(f"There is no edit to {kind}.")
            target = session.get_one(EditRow, stack[-1])
            return self._apply(session, row, target.inverse, kind, target.id, author, at)

    def _apply(
        self, session: Session, row: DesignRow, patch: Patch, kind: str, of: int | None, author: str, at: datetime
    ) -> Draft:
        before, sound = self._recall(row.id, row.version) or (row.document, None)
        after, design = apply(before, patch, sound)
        row.version, row.document, row.name = row.version + 1, after, design.name
        entry = EditRow(
            design_id=row.id,
            version=row.version,
            kind=kind,
            of=of,
            patch=patch,
            inverse=inverse(before, after),
            author=author,
            at=at,
        )
        session.add(entry)
        session.flush()
        self._remember(row.id, row.version, after, design)
        return _draft(row, design, _stacks(session, row.id))


def _locked(session: Session, id_: str) -> DesignRow:
    row = session.get(DesignRow, id_, with_for_update=True)
    if row is None:
        raise NoSuchThing(f"There is no design {id_!r}.")
    return row


def _same_version(session: Session, row: DesignRow, seen: int) -> None:
    if row.version != seen:
        changes: list[dict[str, Any]] = [
            {"version": r.version, "kind": r.kind, "patch": r.patch, "author": r.author, "at": r.at.isoformat()}
            for r in _records(session, row.id, seen)
        ]
        raise Outdated(seen, row.version, changes)


def _records(session: Session, id_: str, since: int) -> list[EditRecord]:
    found = select(EditRow).where(EditRow.design_id == id_, EditRow.version > since).order_by(EditRow.version)
    return [EditRecord(r.version, r.kind, r.patch, r.inverse, r.author, r.at) for r in session.scalars(found)]


def _stacks(session: Session, id_: str) -> tuple[list[int], list[int]]:
    """Return (edits that can be taken back, undos that can be taken back), the next one last. Cost: linear in edits."""
    done: list[int] = []
    undone: list[int] = []
    found = select(EditRow.id, EditRow.kind).where(EditRow.design_id == id_).order_by(EditRow.version)
    for number, kind in session.execute(found):
        if kind == "edit":
            done.append(number)
            undone.clear()
        elif kind == "undo":
            done.pop()
            undone.append(number)
        else:
            undone.pop()
            done.append(number)
    return done, undone


def _draft(row: DesignRow, design: Design, stacks: tuple[list[int], list[int]]) -> Draft:
    return Draft(row.id, row.version, row.document, design, bool(stacks[0]), bool(stacks[1]))
