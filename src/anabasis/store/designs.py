"""Designs, drafts and edits. Every change checks the whole document first and stores it with its inverse, or changes nothing."""

from __future__ import annotations

from collections import OrderedDict
from contextlib import AbstractContextManager
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from threading import Lock
from typing import Any

from sqlalchemy import Engine, delete, func, select, update
from sqlalchemy.orm import Session

from anabasis.design import Design, Patch, Tree, apply, inverse, parse_design
from anabasis.design.edits import patched
from anabasis.errors import NoSuchThing, NothingToUndo, Outdated
from anabasis.store.engine import transaction
from anabasis.store.notices import Notice, tell
from anabasis.store.stamps import stamp_of
from anabasis.store.tables import DesignRow, EditRow, RevisionRow

KEPT_REMOVED = timedelta(days=30)
"""How long a design that is removed can be brought back."""
KEPT = 12
"""How many documents are kept in memory beside the database."""


@dataclass(frozen=True)
class Summary:
    """A design in a list."""

    id: str
    name: str
    version: int
    created_at: datetime
    branch_of: str | None = None
    """For a what-if, the design it was branched off."""
    branch_title: str | None = None
    branched_from: str | None = None
    published: int | None = None
    """The number of the newest published revision."""
    last_author: str | None = None
    """Who edited it last; None = nobody did since it was brought in."""
    last_at: datetime | None = None
    removed_at: datetime | None = None


@dataclass(frozen=True)
class Branch:
    """What a branch was made of."""

    of: str
    title: str
    start: str
    """The state it began as, in words."""


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
    stamp: str
    """What the document says, as a digest; two drafts with one stamp are the same document."""
    design: Design
    can_undo: bool
    can_redo: bool
    undo_of: str | None
    """Whose edit an undo takes back; what was done again counts as theirs who did so."""


class Store:
    """All designs of one database."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._known: OrderedDict[str, tuple[Tree, Design]] = OrderedDict()
        """The documents last read or written, by their stamp: what is kept is right whatever becomes of the database."""
        self._lock = Lock()

    def _remember(self, draft: Draft) -> Draft:
        with self._lock:
            self._known[draft.stamp] = draft.tree, draft.design
            self._known.move_to_end(draft.stamp)
            while len(self._known) > KEPT:
                self._known.popitem(last=False)
        return draft

    def _recall(self, stamp: str | None) -> tuple[Tree, Design] | None:
        with self._lock:
            return self._known.get(stamp) if stamp is not None else None

    @property
    def engine(self) -> Engine:
        """Return the database."""
        return self._engine

    def _session(self) -> AbstractContextManager[Session]:
        return transaction(self._engine)

    def tell(self, notice: Notice) -> None:
        """Tell every server something that is not stored."""
        with self._session() as session:
            tell(session, notice)

    def answers(self) -> None:
        """Ask the database for nothing. Raises StoreUnavailable where it does not answer."""
        with self._session() as session:
            session.execute(select(1))

    @property
    def untouched(self) -> bool:
        """Tell whether nothing was ever stored, or nothing is left of it."""
        with self._session() as session:
            return session.scalar(select(func.count()).select_from(DesignRow)) == 0

    def designs(self, removed: bool = False) -> list[Summary]:
        """Return all designs, the oldest first; or those that are removed and can be brought back."""
        newest = select(RevisionRow.design_id, func.max(RevisionRow.number)).group_by(RevisionRow.design_id)
        columns = (DesignRow.id, DesignRow.name, DesignRow.version, DesignRow.created_at)
        gone = DesignRow.removed_at
        branch = (DesignRow.branch_of, DesignRow.branch_title, DesignRow.branched_from)
        with self._session() as session:
            published = {id_: number for id_, number in session.execute(newest)}
            found = select(*columns, *branch, gone).where(gone.isnot(None) if removed else gone.is_(None))
            rows = session.execute(found.order_by(DesignRow.created_at, DesignRow.id)).all()
            edited = select(EditRow.design_id, EditRow.author, EditRow.at).join(
                DesignRow, (DesignRow.id == EditRow.design_id) & (DesignRow.version == EditRow.version)
            )
            last = {id_: (author, at) for id_, author, at in session.execute(edited)}
            out = [Summary(*r[:4], *r[4:7], published.get(r[0]), removed_at=r[7]) for r in rows]
            return [replace(s, last_author=a, last_at=t) for s in out for a, t in (last.get(s.id, (None, None)),)]

    def create(self, id_: str, tree: Tree, at: datetime, branch: Branch | None = None) -> Draft:
        """Store a new design, or a branch of one. Raises InputRefused where the document is not valid."""
        design = parse_design(tree)
        stamp = stamp_of(tree)
        row = DesignRow(id=id_, name=design.name, created_at=at, version=1, document=tree, stamp=stamp)
        if branch is not None:
            row.branch_of, row.branch_title, row.branched_from = branch.of, branch.title, branch.start
            row.base = tree
        with self._session() as session:
            session.add(row)
        return Draft(id_, 1, tree, stamp, design, False, False, None)

    def branch(self, id_: str) -> tuple[Branch, Tree]:
        """Return what a branch was made of, and the document it began as. Raises NoSuchThing where it is none."""
        with self._session() as session:
            row = session.get(DesignRow, id_)
            if row is None or row.branch_of is None or row.base is None:
                raise NoSuchThing(f"There is no what-if {id_!r}.")
            return Branch(row.branch_of, row.branch_title or "", row.branched_from or ""), row.base

    def root_of(self, id_: str) -> str:
        """Return the design that a what-if, or a what-if of one, was branched off; any other name is itself."""
        with self._session() as session:
            return root_of(session, id_)

    def tree_at(self, id_: str, version: int) -> Tree:
        """Return the draft as it was at an earlier version. Raises NoSuchThing. Cost: one patch an edit since."""
        now = self.draft(id_)
        tree = now.tree
        for edit in reversed(self.edits(id_, version) if 0 < version <= now.version else []):
            tree = patched(tree, edit.inverse)
        return tree

    def remove(self, id_: str, at: datetime) -> None:
        """Remove a design and its what-ifs; it can be brought back until `KEPT_REMOVED` has passed. Raises NoSuchThing."""
        with self._session() as session:
            _locked(session, id_)
            mine = (DesignRow.id == id_) | (DesignRow.branch_of == id_)
            session.execute(update(DesignRow).where(mine, DesignRow.removed_at.is_(None)).values(removed_at=at))
            session.execute(delete(DesignRow).where(DesignRow.removed_at < at - KEPT_REMOVED))

    def drop(self, id_: str) -> None:
        """Take a design out for good. Raises NoSuchThing."""
        with self._session() as session:
            _locked(session, id_)
            session.execute(delete(DesignRow).where(DesignRow.id == id_))

    def bring_back(self, id_: str) -> None:
        """Bring back a design that was removed, with the what-ifs that went with it. Raises NoSuchThing."""
        with self._session() as session:
            row = session.get(DesignRow, id_, with_for_update=True)
            if row is None or row.removed_at is None:
                raise NoSuchThing(f"No design {id_!r} was removed, or its time to be brought back is over.")
            mine = (DesignRow.id == id_) | ((DesignRow.branch_of == id_) & (DesignRow.removed_at == row.removed_at))
            session.execute(update(DesignRow).where(mine).values(removed_at=None))

    def draft(self, id_: str) -> Draft:
        """Return the draft of a design. Raises NoSuchThing."""
        with self._session() as session:
            here = (DesignRow.id == id_) & DesignRow.removed_at.is_(None)
            found = session.execute(select(DesignRow.version, DesignRow.stamp).where(here)).first()
            if found is None:
                raise NoSuchThing(f"There is no design {id_!r}.")
            version, stamp = found
            known = self._recall(stamp)
            if known is None or stamp is None:
                row = session.get_one(DesignRow, id_)
                version, stamp = row.version, row.stamp or stamp_of(row.document)
                known = row.document, parse_design(row.document)
            return self._remember(_draft(id_, version, stamp, *known, _stacks(session, id_)))

    def before_last(self, id_: str) -> tuple[Draft, Draft]:
        """Return the draft before its last edit, and as it is now; the same twice where it was never edited. Raises NoSuchThing."""
        now = self.draft(id_)
        with self._session() as session:
            last = session.scalar(select(EditRow).where(EditRow.design_id == id_, EditRow.version == now.version))
            if last is None:
                return now, now
            tree, design = apply(now.tree, last.inverse)
            return replace(now, version=now.version - 1, tree=tree, stamp=stamp_of(tree), design=design), now

    def edits(self, id_: str, since: int = 0, limit: int | None = None) -> list[EditRecord]:
        """Return the edits of a design after a version, the oldest first, `limit` at most. Raises NoSuchThing."""
        with self._session() as session:
            if session.get(DesignRow, id_) is None:
                raise NoSuchThing(f"There is no design {id_!r}.")
            return _records(session, id_, since, limit)

    def edit(self, id_: str, seen: int, patch: Patch, author: str, at: datetime) -> Draft:
        """Apply a patch to the draft a caller saw at version `seen`. Raises InputRefused, Outdated or NoSuchThing."""
        with self._session() as session:
            row = _locked(session, id_)
            _same_version(session, row, seen)
            draft = self._apply(session, row, patch, "edit", None, author, at)
        return self._remember(draft)

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
            target = session.get_one(EditRow, stack[-1][0])
            draft = self._apply(session, row, target.inverse, kind, target.id, author, at)
        return self._remember(draft)

    def _apply(
        self, session: Session, row: DesignRow, patch: Patch, kind: str, of: int | None, author: str, at: datetime
    ) -> Draft:
        """Write an edit; nothing is remembered before the database has answered that it keeps it."""
        before, sound = self._recall(row.stamp) or (row.document, None)
        after, design = apply(before, patch, sound)
        row.version, row.document, row.name, row.stamp = row.version + 1, after, design.name, stamp_of(after)
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
        tell(session, {"design": row.id, "kind": kind, "version": row.version, "who": author})
        return _draft(row.id, row.version, row.stamp, after, design, _stacks(session, row.id))


def _locked(session: Session, id_: str) -> DesignRow:
    row = session.get(DesignRow, id_, with_for_update=True)
    if row is None or row.removed_at is not None:
        raise NoSuchThing(f"There is no design {id_!r}.")
    return row


def _same_version(session: Session, row: DesignRow, seen: int) -> None:
    if row.version != seen:
        changes: list[dict[str, Any]] = [
            {"version": r.version, "kind": r.kind, "patch": r.patch, "author": r.author, "at": r.at.isoformat()}
            for r in _records(session, row.id, seen)
        ]
        raise Outdated(seen, row.version, changes)


def _records(session: Session, id_: str, since: int, limit: int | None = None) -> list[EditRecord]:
    found = select(EditRow).where(EditRow.design_id == id_, EditRow.version > since).order_by(EditRow.version)
    found = found.limit(limit) if limit is not None else found
    return [EditRecord(r.version, r.kind, r.patch, r.inverse, r.author, r.at) for r in session.scalars(found)]


Stack = list[tuple[int, str]]
"""Edits with their authors."""


def _stacks(session: Session, id_: str) -> tuple[Stack, Stack]:
    """Return (edits that can be taken back, undos that can be taken back), the next one last. Cost: linear in edits."""
    done: Stack = []
    undone: Stack = []
    found = select(EditRow.id, EditRow.kind, EditRow.author).where(EditRow.design_id == id_).order_by(EditRow.version)
    for number, kind, author in session.execute(found):
        if kind == "edit":
            done.append((number, author))
            undone.clear()
        elif kind == "undo":
            done.pop()
            undone.append((number, author))
        else:
            undone.pop()
            done.append((number, author))
    return done, undone


def _draft(id_: str, version: int, stamp: str, tree: Tree, design: Design, stacks: tuple[Stack, Stack]) -> Draft:
    done, undone = stacks
    return Draft(id_, version, tree, stamp, design, bool(done), bool(undone), done[-1][1] if done else None)


def root_of(session: Session, design: str) -> str:
    """Return the design that a what-if, or a what-if of one, was branched off; any other is itself."""
    origin = session.scalar(select(DesignRow.branch_of).where(DesignRow.id == design))
    return design if origin is None else root_of(session, origin)
