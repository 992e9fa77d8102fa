"""People: accounts, signing in and out, and what each may do with which design.

Passwords are kept as Argon2id hashes (RFC 9106); of sessions and links only a SHA-256 is kept, so that a copy of the tables lets nobody in.
"""

from __future__ import annotations

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from hashlib import sha256

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import Engine, delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from anabasis.errors import InputRefused, NoSuchThing, NotLetIn, Problem, TooManyTries, nearest
from anabasis.store.engine import transaction
from anabasis.store.history import note
from anabasis.store.tables import ROLES, AccountRow, AttemptRow, LinkRow, RoleRow, SessionRow

SESSION_LASTS = timedelta(days=14)
LINK_LASTS = timedelta(hours=12)
TRIES, TRIES_AT_ALL = 5, 100
"""Failed sign-ins allowed within `TRIES_WITHIN`: for one name, and for all together."""
TRIES_WITHIN = timedelta(minutes=5)
SHORTEST = 10
"""Characters of a password."""
LONGEST = 200


@dataclass(frozen=True)
class Person:
    """One account."""

    id: int
    name: str
    owner: bool
    disabled: bool = False
    has_password: bool = False


@dataclass(frozen=True)
class Signed:
    """A person in one browser."""

    person: Person
    csrf: str


class People:
    """All accounts of one database."""

    def __init__(
        self,
        engine: Engine,
        hasher: PasswordHasher | None = None,
        token: Callable[[], str] = lambda: secrets.token_urlsafe(32),
    ) -> None:
        """`hasher` and `token`: how passwords are hashed and where secrets come from."""
        self._engine, self._hasher, self._token = engine, hasher or PasswordHasher(), token
        self._nobody = self._hasher.hash(self._token())

    def all(self) -> list[Person]:
        """Return every account, by name."""
        with transaction(self._engine) as session:
            return [_person(r) for r in session.scalars(select(AccountRow).order_by(AccountRow.name))]

    def add(self, name: str, password: str | None, owner: bool, by: str, at: datetime) -> Person:
        """Add an account. Raises InputRefused where the name is taken or the password too short."""
        hashed = self._hashed(password) if password is not None else None
        row = AccountRow(name=_fit(name), password=hashed, owner=owner, disabled=False, created_at=at)
        with transaction(self._engine) as session:
            if session.scalar(select(AccountRow.id).where(AccountRow.name == row.name)) is not None:
                raise InputRefused([Problem("/name", "an account of this name is there already", repr(row.name))])
            session.add(row)
            note(session, by, "added an account", None, row.name, at)
            session.flush()
            return _person(row)

    def ensure(self, name: str, at: datetime) -> Person:
        """Return the owner of this name, who enters by links; made if there is none."""
        with transaction(self._engine) as session:
            row = session.scalar(select(AccountRow).where(AccountRow.name == name))
            if row is None:
                row = AccountRow(name=name, password=None, owner=True, disabled=False, created_at=at)
                session.add(row)
                session.flush()
            return _person(row)

    def set_password(self, id_: int, password: str, keep: str | None, at: datetime) -> None:
        """Give an account another password; its other sessions end. `keep`: the cookie of the one that stays. Raises InputRefused."""
        hashed = self._hashed(password)
        with transaction(self._engine) as session:
            row = session.get_one(AccountRow, id_)
            row.password = hashed
            others = delete(SessionRow).where(SessionRow.account_id == id_)
            session.execute(others.where(SessionRow.token != _hash(keep)) if keep else others)
            note(session, row.name, "changed their password", None, "", at)

    def switch(self, name: str, disabled: bool, by: str, at: datetime) -> Person:
        """Shut an account out, or let it in again; shut out, its sessions end. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            row = _named(session, name)
            row.disabled = disabled
            if disabled:
                session.execute(delete(SessionRow).where(SessionRow.account_id == row.id))
            note(session, by, "shut out an account" if disabled else "let in an account", None, name, at)
            return _person(row)

    def sign_in(self, name: str, password: str, at: datetime) -> str:
        """Return a new session's cookie. Raises NotLetIn, or TooManyTries after some failures."""
        name = name[:80]
        with transaction(self._engine) as session:
            session.execute(delete(AttemptRow).where(AttemptRow.at < at - TRIES_WITHIN))
            tries = select(func.count()).select_from(AttemptRow)
            mine, all_ = session.scalar(tries.where(AttemptRow.name == name)), session.scalar(tries)
            if (mine or 0) >= TRIES or (all_ or 0) >= TRIES_AT_ALL:
                raise TooManyTries(int(TRIES_WITHIN.total_seconds()))
            row = session.scalar(select(AccountRow).where(AccountRow.name == name))
            usable = row is not None and row.password is not None and not row.disabled
            hashed = row.password if row is not None and usable and row.password else self._nobody
        right = self._verified(hashed, password) and usable  # a name that is none takes as long as one that is
        with transaction(self._engine) as session:
            if not right or row is None:
                session.add(AttemptRow(name=name, at=at))
                note(session, name, "was not let in", None, "", at)
            else:
                session.execute(delete(AttemptRow).where(AttemptRow.name == name))
                note(session, name, "signed in", None, "by password", at)
                return self._begin(session, row.id, at)
        raise NotLetIn("There is no account of this name with this password.")

    def link(self, id_: int, at: datetime) -> str:
        """Return the secret of a link that signs a person in once."""
        secret = self._token()
        with transaction(self._engine) as session:
            session.execute(delete(LinkRow).where(LinkRow.expires_at < at))
            session.add(LinkRow(token=_hash(secret), account_id=id_, expires_at=at + LINK_LASTS))
        return secret

    def enter(self, secret: str, at: datetime) -> str:
        """Return a new session's cookie for the secret of a link, which is used up. Raises NotLetIn."""
        with transaction(self._engine) as session:
            row = session.get(LinkRow, _hash(secret), with_for_update=True)
            account = session.get(AccountRow, row.account_id) if row is not None else None
            if row is None or account is None or account.disabled or row.expires_at < at:
                raise NotLetIn("This link was used already, or is too old. `make start` prints a new one.")
            session.delete(row)
            note(session, account.name, "signed in", None, "by a link", at)
            return self._begin(session, account.id, at)

    def _begin(self, session: Session, id_: int, at: datetime) -> str:
        session.execute(delete(SessionRow).where(SessionRow.expires_at < at))
        cookie, csrf = self._token(), self._token()
        session.add(SessionRow(token=_hash(cookie), account_id=id_, csrf=csrf, expires_at=at + SESSION_LASTS))
        return cookie

    def signed(self, cookie: str | None, at: datetime) -> Signed | None:
        """Return who a cookie stands for; None where it stands for nobody."""
        if not cookie:
            return None
        found = (
            select(SessionRow.csrf, AccountRow)
            .join(AccountRow, AccountRow.id == SessionRow.account_id)
            .where(SessionRow.token == _hash(cookie), SessionRow.expires_at > at)
        )
        with transaction(self._engine) as session:
            row = session.execute(found).first()
            return Signed(_person(row[1]), row[0]) if row is not None and not row[1].disabled else None

    def sign_out(self, cookie: str) -> None:
        """End a session."""
        with transaction(self._engine) as session:
            session.execute(delete(SessionRow).where(SessionRow.token == _hash(cookie)))

    def role(self, person: Person, design: str) -> str | None:
        """Return what a person may do with a design; None = nothing."""
        if person.owner:
            return ROLES[-1]
        with transaction(self._engine) as session:
            found = select(RoleRow.role).where(RoleRow.account_id == person.id, RoleRow.design_id == design)
            return session.scalar(found)

    def roles_of(self, person: Person) -> dict[str, str]:
        """Return what a person who is no owner may do, by design."""
        with transaction(self._engine) as session:
            found = select(RoleRow.design_id, RoleRow.role).where(RoleRow.account_id == person.id)
            return {design: role for design, role in session.execute(found)}

    def roles(self, design: str) -> dict[str, str]:
        """Return who may do what with a design, by name; owners aside."""
        with transaction(self._engine) as session:
            found = (
                select(AccountRow.name, RoleRow.role)
                .join(AccountRow, AccountRow.id == RoleRow.account_id)
                .where(RoleRow.design_id == design)
            )
            return {name: role for name, role in session.execute(found.order_by(AccountRow.name))}

    def set_role(self, design: str, name: str, role: str | None, by: str, at: datetime) -> None:
        """Let a person do something with a design, or nothing. Raises NoSuchThing where there is no such account."""
        with transaction(self._engine) as session:
            account = _named(session, name).id
            if role is None:
                session.execute(delete(RoleRow).where(RoleRow.account_id == account, RoleRow.design_id == design))
            else:
                new = insert(RoleRow).values(account_id=account, design_id=design, role=role)
                session.execute(
                    new.on_conflict_do_update(index_elements=["account_id", "design_id"], set_={"role": role})
                )
            note(session, by, "set a role", design, f"{name}: {role or 'none'}", at)

    def copy_roles(self, design: str, other: str) -> None:
        """Let everybody do with another design what they may do with one."""
        with transaction(self._engine) as session:
            for row in session.scalars(select(RoleRow).where(RoleRow.design_id == design)).all():
                session.add(RoleRow(account_id=row.account_id, design_id=other, role=row.role))

    def _hashed(self, password: str) -> str:
        if not SHORTEST <= len(password) <= LONGEST:
            allowed = f"{SHORTEST} to {LONGEST} characters"
            raise InputRefused(
                [Problem("/password", "the password is too short or too long", f"{len(password)} characters", allowed)]
            )
        return self._hasher.hash(password)

    def _verified(self, hashed: str, password: str) -> bool:
        try:
            return self._hasher.verify(hashed, password[: LONGEST + 1])
        except (VerificationError, InvalidHashError):
            return False


def _fit(name: str) -> str:
    name = " ".join(name.split())
    if not 0 < len(name) <= 80 or not name.isprintable():
        raise InputRefused(
            [Problem("/name", "this is no name for an account", repr(name[:90]), "1 to 80 printable characters")]
        )
    return name


def _named(session: Session, name: str) -> AccountRow:
    row = session.scalar(select(AccountRow).where(AccountRow.name == name))
    if row is None:
        close = nearest(name, list(session.scalars(select(AccountRow.name))))
        raise NoSuchThing(f"There is no account {name!r}." + (f" Did you mean {close!r}?" if close else ""))
    return row


def _hash(secret: str) -> str:
    return sha256(secret.encode()).hexdigest()


def _person(row: AccountRow) -> Person:
    return Person(row.id, row.name, row.owner, row.disabled, row.password is not None)
