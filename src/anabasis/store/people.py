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
from sqlalchemy import Engine, delete, func, select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from anabasis.design.look_alikes import folded, skeleton
from anabasis.errors import InputRefused, NoSuchThing, NotLetIn, Problem, TooManyTries, nearest
from anabasis.store.designs import root_of
from anabasis.store.engine import transaction
from anabasis.store.history import note
from anabasis.store.notices import tell
from anabasis.store.passwords import Hashes, check_password
from anabasis.store.tables import (
    ROLES,
    AccountRow,
    AttemptRow,
    DesignRow,
    KnownRow,
    LinkRow,
    RoleRow,
    SessionRow,
    TokenRow,
)

SESSION_LASTS = timedelta(days=14)
LINK_LASTS = timedelta(hours=12)
KNOWN_LASTS = timedelta(days=180)
TRIES, TRIES_FROM, TRIES_OF = 5, 60, 40
"""Failed sign-ins within `TRIES_WITHIN`: for one name from one place, from one place at all, for one name from anywhere. A browser that
the account knows is a place of its own, and only the first counts there: nobody's wrong guesses shut another out."""
TRIES_WITHIN = timedelta(minutes=5)


@dataclass(frozen=True)
class Person:
    """One account."""

    id: int
    name: str
    owner: bool
    disabled: bool = False
    has_password: bool = False


@dataclass(frozen=True)
class Bearer(Person):
    """A program that acts for a person, within the scope of its token. It is never an owner: people and accounts are no business of programs."""

    token: str = ""
    """What the token is called."""
    scope: str = ROLES[0]
    only: str | None = None
    """The one design it is for."""
    of_owner: bool = False
    """Its person may everything."""

    def capped(self, design: str, role: str | None) -> str | None:
        """Return what is left of a person's role with a design that is no what-if."""
        if role is None or self.only not in (None, design):
            return None
        return min(role, self.scope, key=ROLES.index)


@dataclass(frozen=True)
class Entered:
    """What a browser is given when somebody signs in: two secrets, each kept by us as a digest only."""

    cookie: str
    """The session."""
    known: str
    """That it was let in, for the next time."""


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
        self._engine, self._hashes, self._token = engine, Hashes(hasher), token

    def all(self) -> list[Person]:
        """Return every account, by name."""
        with transaction(self._engine) as session:
            return [_person(r) for r in session.scalars(select(AccountRow).order_by(AccountRow.name))]

    def add(self, name: str, password: str | None, owner: bool, by: str, at: datetime) -> Person:
        """Add an account. Raises InputRefused where the name is taken, or looks like another, or the password is weak."""
        name = _fit(name)
        hashed = self._hashed(password, name) if password is not None else None
        with transaction(self._engine) as session:
            session.execute(text("lock table account in share row exclusive mode"))  # two look-alikes at once are two
            for other in session.scalars(select(AccountRow.name)):
                if other == name:
                    raise InputRefused([Problem("/name", "an account of this name is there already", repr(name))])
                if skeleton(other) == skeleton(name) or folded(other) == folded(name):
                    said = "an account is there already that one would take it for"
                    raise InputRefused([Problem("/name", said, repr(name), f"a name unlike {other!r}")])
            row = AccountRow(name=name, password=hashed, owner=owner, disabled=False, created_at=at)
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
        with transaction(self._engine) as session:
            row = session.get_one(AccountRow, id_)
            name, before = row.name, row.password
        check_password(password, name)
        if before is not None and self._hashes.fits(before, password):
            raise InputRefused([Problem("/password", "this is the password already", allowed="another one")])
        hashed = self._hashes.of(password)
        with transaction(self._engine) as session:
            session.get_one(AccountRow, id_).password = hashed
            _end(session, id_, keep)
            note(session, name, "changed their password", None, "", at)

    def end_sessions(self, name: str, keep: str | None, by: str, at: datetime) -> None:
        """End the sessions of an account, but for the one of a cookie. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            _end(session, _named(session, name).id, keep)
            note(session, by, "ended sessions", None, name, at)

    def reset(self, name: str, by: str, at: datetime) -> str:
        """Take an account's password away, and end its sessions and tokens; return the secret of a link by which they enter once and set another."""
        with transaction(self._engine) as session:
            row = _named(session, name)
            row.password = None
            _end(session, row.id, None)
            session.execute(delete(LinkRow).where(LinkRow.account_id == row.id))
            session.execute(delete(TokenRow).where(TokenRow.account_id == row.id))
            note(session, by, "reset a password", None, name, at)
            id_ = row.id
        return self.link(id_, at)

    def switch(self, name: str, disabled: bool, by: str, at: datetime) -> Person:
        """Shut an account out, or let it in again; shut out, its sessions end. Raises NoSuchThing, or InputRefused for the last owner."""
        with transaction(self._engine) as session:
            row = _named(session, name)
            row.disabled = disabled
            _an_owner_stays(session)
            if disabled:
                _end(session, row.id, None)
            note(session, by, "shut out an account" if disabled else "let in an account", None, name, at)
            return _person(row)

    def set_owner(self, name: str, owner: bool, by: str, at: datetime) -> Person:
        """Make somebody an owner, or no longer one. Raises NoSuchThing, or InputRefused for the last owner."""
        with transaction(self._engine) as session:
            row = _named(session, name)
            row.owner = owner
            _an_owner_stays(session)
            tell(session, {"kind": "rights", "person": row.id})
            note(session, by, "made an owner" if owner else "made no owner", None, name, at)
            return _person(row)

    def remove(self, name: str, by: str, at: datetime) -> None:
        """Remove an account with its roles and sessions; what it did stays told. Raises NoSuchThing, or InputRefused for the last owner."""
        with transaction(self._engine) as session:
            row = _named(session, name)
            session.execute(delete(AttemptRow).where(AttemptRow.name == name))
            tell(session, {"kind": "rights", "person": row.id})
            session.delete(row)
            _an_owner_stays(session)
            note(session, by, "removed an account", None, name, at)

    def sign_in(self, name: str, password: str, at: datetime, source: str = "", known: str | None = None) -> Entered:
        """Let a person in. Raises NotLetIn, or TooManyTries after some failures.

        Args:
            name: of the account.
            password: theirs.
            at: now.
            source: the address it comes from.
            known: the secret of a browser that was let in before.
        """
        name = name[:80]
        with transaction(self._engine) as session:
            row = session.scalar(select(AccountRow).where(AccountRow.name == name))
            place, familiar = _place(session, row, source, known, at)
            for key in sorted({f"name {name}", f"place {place}"}):  # counted and checked by one after the other
                session.execute(text("select pg_advisory_xact_lock(hashtextextended(:key, 0))"), {"key": key})
            _count(session, name, place, familiar, at)
            usable = row is not None and row.password is not None and not row.disabled
            hashed = row.password if row is not None and usable and row.password else self._hashes.nobody
        right = self._hashes.fits(hashed, password) and usable  # a name that is none takes as long as one that is
        with transaction(self._engine) as session:
            if right and row is not None:
                # A try is counted before it is compared: of many at once only so many are compared.
                session.execute(delete(AttemptRow).where(AttemptRow.name == name, AttemptRow.source == place))
                note(session, name, "signed in", None, "by password", at)
                return self._begin(session, row.id, at)
            note(session, name, "was not let in", None, "", at)
        raise NotLetIn("There is no account of this name with this password.")

    def link(self, id_: int, at: datetime) -> str:
        """Return the secret of a link that signs a person in once."""
        secret = self._token()
        with transaction(self._engine) as session:
            session.execute(delete(LinkRow).where(LinkRow.expires_at < at))
            session.add(LinkRow(token=digest_of(secret), account_id=id_, expires_at=at + LINK_LASTS))
        return secret

    def enter(self, secret: str, at: datetime) -> Entered:
        """Let a person in by the secret of a link, which is used up. Raises NotLetIn."""
        with transaction(self._engine) as session:
            row = session.get(LinkRow, digest_of(secret), with_for_update=True)
            account = session.get(AccountRow, row.account_id) if row is not None else None
            if row is None or account is None or account.disabled or row.expires_at < at:
                raise NotLetIn("This link was used already, or is too old. `make start` prints a new one.")
            session.delete(row)
            note(session, account.name, "signed in", None, "by a link", at)
            return self._begin(session, account.id, at)

    def _begin(self, session: Session, id_: int, at: datetime) -> Entered:
        session.execute(delete(SessionRow).where(SessionRow.expires_at < at))
        session.execute(delete(KnownRow).where(KnownRow.expires_at < at))
        entered, csrf = Entered(self._token(), self._token()), self._token()
        session.add(
            SessionRow(token=digest_of(entered.cookie), account_id=id_, csrf=csrf, expires_at=at + SESSION_LASTS)
        )
        session.add(KnownRow(token=digest_of(entered.known), account_id=id_, expires_at=at + KNOWN_LASTS))
        return entered

    def signed(self, cookie: str | None, at: datetime) -> Signed | None:
        """Return who a cookie stands for; None where it stands for nobody."""
        if not cookie:
            return None
        found = (
            select(SessionRow.csrf, AccountRow)
            .join(AccountRow, AccountRow.id == SessionRow.account_id)
            .where(SessionRow.token == digest_of(cookie), SessionRow.expires_at > at)
        )
        with transaction(self._engine) as session:
            row = session.execute(found).first()
            return Signed(_person(row[1]), row[0]) if row is not None and not row[1].disabled else None

    def sign_out(self, cookie: str) -> None:
        """End a session."""
        with transaction(self._engine) as session:
            ended = delete(SessionRow).where(SessionRow.token == digest_of(cookie)).returning(SessionRow.account_id)
            for person in session.scalars(ended):
                tell(session, {"kind": "rights", "person": person})

    def role(self, person: Person, design: str) -> str | None:
        """Return what a person may do with a design; None = nothing. A what-if follows the design it was branched off."""
        if person.owner:
            return ROLES[-1]
        with transaction(self._engine) as session:
            root = root_of(session, design)
            found = select(RoleRow.role).where(RoleRow.account_id == person.id, RoleRow.design_id == root)
            if not isinstance(person, Bearer):
                return session.scalar(found)
            known = session.get(DesignRow, root) is not None
            return person.capped(root, ROLES[-1] if person.of_owner and known else session.scalar(found))

    def roles_of(self, person: Person) -> dict[str, str]:
        """Return what a person who is no owner may do, by design, what-ifs among them."""
        with transaction(self._engine) as session:
            found = select(RoleRow.design_id, RoleRow.role).where(RoleRow.account_id == person.id)
            roles: dict[str, str] = {design: role for design, role in session.execute(found)}
            if isinstance(person, Bearer):
                if person.of_owner:
                    roles = dict.fromkeys(session.scalars(select(DesignRow.id)), ROLES[-1])
                capped = {design: person.capped(design, role) for design, role in roles.items()}
                roles = {design: role for design, role in capped.items() if role is not None}
            branches = session.execute(
                select(DesignRow.id, DesignRow.branch_of).where(DesignRow.branch_of.is_not(None))
            )
            of = {branch: origin for branch, origin in branches if origin is not None}
        for branch in of:
            root = branch
            while root in of:
                root = of[root]
            roles.pop(branch, None)
            if root in roles:
                roles[branch] = roles[root]
        return roles

    def roles(self, design: str) -> dict[str, str]:
        """Return who may do what with a design, by name; owners aside."""
        with transaction(self._engine) as session:
            found = (
                select(AccountRow.name, RoleRow.role)
                .join(AccountRow, AccountRow.id == RoleRow.account_id)
                .where(RoleRow.design_id == root_of(session, design))
            )
            return {name: role for name, role in session.execute(found.order_by(AccountRow.name))}

    def set_role(self, design: str, name: str, role: str | None, by: str, at: datetime) -> None:
        """Let a person do something with a design and its what-ifs, or nothing. Raises NoSuchThing where there is no such account."""
        with transaction(self._engine) as session:
            account, design = _named(session, name).id, root_of(session, design)
            if role is None:
                session.execute(delete(RoleRow).where(RoleRow.account_id == account, RoleRow.design_id == design))
            else:
                new = insert(RoleRow).values(account_id=account, design_id=design, role=role)
                session.execute(
                    new.on_conflict_do_update(index_elements=["account_id", "design_id"], set_={"role": role})
                )
            tell(session, {"kind": "rights", "person": account})
            note(session, by, "set a role", design, f"{name}: {role or 'none'}", at)

    def _hashed(self, password: str, name: str) -> str:
        check_password(password, name)
        return self._hashes.of(password)


def _place(session: Session, row: AccountRow | None, source: str, known: str | None, at: datetime) -> tuple[str, bool]:
    """Return the place that a try is counted for, and whether it is a browser that the account knows."""
    if row is not None and known:
        found = session.get(KnownRow, digest_of(known))
        if found is not None and found.account_id == row.id and found.expires_at > at:
            return f"known {found.token}", True
    return source[:80], False


def _count(session: Session, name: str, place: str, familiar: bool, at: datetime) -> None:
    """Count a try. Raises TooManyTries where there were too many."""
    session.execute(delete(AttemptRow).where(AttemptRow.at < at - TRIES_WITHIN))
    tries = select(func.count()).select_from(AttemptRow)
    strangers = tries.where(AttemptRow.name == name, ~AttemptRow.source.startswith("known "))
    limits = [(tries.where(AttemptRow.name == name, AttemptRow.source == place), TRIES)]
    if not familiar:
        limits += [(tries.where(AttemptRow.source == place), TRIES_FROM), (strangers, TRIES_OF)]
    if any((session.scalar(found) or 0) >= limit for found, limit in limits):
        raise TooManyTries(int(TRIES_WITHIN.total_seconds()))
    session.add(AttemptRow(name=name, source=place, at=at))


def _end(session: Session, account: int, keep: str | None) -> None:
    """End the sessions of an account, but for the one of a cookie; open pages are told."""
    ended = delete(SessionRow).where(SessionRow.account_id == account)
    session.execute(ended.where(SessionRow.token != digest_of(keep)) if keep else ended)
    tell(session, {"kind": "rights", "person": account})


def _an_owner_stays(session: Session) -> None:
    """Raise InputRefused where nobody would be left who may administer everything."""
    session.flush()
    owners = select(AccountRow.id).where(AccountRow.owner, ~AccountRow.disabled).with_for_update()
    if not session.scalars(owners).all():
        raise InputRefused([Problem("/name", "this is the last owner", allowed="make somebody else an owner first")])


def _fit(name: str) -> str:
    name = " ".join(name.split())
    carried = not set(name) & set("/\\?#%") and name.strip(".") != ""
    if not 0 < len(name) <= 80 or not name.isprintable() or not carried:
        allowed = "1 to 80 printable characters, none of / \\ ? # %, not dots alone"
        raise InputRefused([Problem("/name", "this is no name for an account", repr(name[:90]), allowed)])
    return name


def _named(session: Session, name: str) -> AccountRow:
    row = session.scalar(select(AccountRow).where(AccountRow.name == name))
    if row is None:
        close = nearest(name, list(session.scalars(select(AccountRow.name))))
        raise NoSuchThing(f"There is no account {name!r}." + (f" Did you mean {close!r}?" if close else ""))
    return row


def digest_of(secret: str) -> str:
    return sha256(secret.encode()).hexdigest()


def _person(row: AccountRow) -> Person:
    return Person(row.id, row.name, row.owner, row.disabled, row.password is not None)
