"""Tokens: secrets by which a program acts for a person, within a scope and for a time (RFC 6750). Only their SHA-256 is kept."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import Engine, delete, func, select

from anabasis.errors import InputRefused, NoSuchThing, Problem
from anabasis.store.designs import root_of
from anabasis.store.engine import transaction
from anabasis.store.history import note
from anabasis.store.notices import tell
from anabasis.store.people import Bearer, Person, digest_of
from anabasis.store.tables import AccountRow, DesignRow, TokenRow

MARK = "anabasis_"
"""What every token begins with, so that one that lies about is known for what it is."""
DAYS = 366
"""How long a token may last."""
MOST = 40
"""How many tokens a person may have."""
USED = timedelta(minutes=10)
"""How exactly it is kept when a token was used last."""


@dataclass(frozen=True)
class Token:
    """One token, without its secret."""

    id: str
    name: str
    scope: str
    """The most it may do with a design: a role."""
    design: str | None
    """The one design it is for, what-ifs included; null = all that its person may."""
    created_at: datetime
    expires_at: datetime
    used_at: datetime | None


class Tokens:
    """All tokens of one database."""

    def __init__(self, engine: Engine, secret: Callable[[], str] = lambda: secrets.token_urlsafe(32)) -> None:
        """`secret`: where secrets come from."""
        self._engine, self._secret = engine, secret

    def of(self, person: Person, at: datetime) -> list[Token]:
        """Return a person's tokens that are not over, the newest first."""
        with transaction(self._engine) as session:
            mine = select(TokenRow).where(TokenRow.account_id == person.id, TokenRow.expires_at > at)
            return [_token(r) for r in session.scalars(mine.order_by(TokenRow.created_at.desc(), TokenRow.id))]

    def make(
        self, person: Person, name: str, scope: str, design: str | None, days: int, at: datetime
    ) -> tuple[Token, str]:
        """Return a new token and its secret, which is told this once. Raises InputRefused, or NoSuchThing where there is no such design."""
        name = name.strip()
        if not name or not name.isprintable():
            raise InputRefused([Problem("/name", "a token is told apart by its name", repr(name), "letters")])
        secret = MARK + self._secret()
        with transaction(self._engine) as session:
            session.execute(delete(TokenRow).where(TokenRow.account_id == person.id, TokenRow.expires_at <= at))
            session.get_one(AccountRow, person.id, with_for_update=True)  # two at once are counted one after the other
            mine = select(TokenRow.name).where(TokenRow.account_id == person.id)
            if session.scalar(mine.where(TokenRow.name == name)) is not None:
                raise InputRefused([Problem("/name", "you have a token of this name already", repr(name))])
            if (session.scalar(select(func.count()).select_from(mine.subquery())) or 0) >= MOST:
                raise InputRefused([Problem("", "you have as many tokens as one may", str(MOST), "end one first")])
            if design is not None and session.get(DesignRow, design) is None:
                raise NoSuchThing(f"There is no design {design!r}.")
            row = TokenRow(
                id=secrets.token_hex(6),
                digest=digest_of(secret),
                account_id=person.id,
                name=name,
                scope=scope,
                design_id=design and root_of(session, design),
                created_at=at,
                expires_at=at + timedelta(days=days),
            )
            session.add(row)
            note(session, person.name, "made a token", design, f"{name}: {scope}", at)
            session.flush()
            return _token(row), secret

    def end(self, person: Person, id_: str, at: datetime) -> None:
        """End one of a person's tokens. Raises NoSuchThing."""
        with transaction(self._engine) as session:
            row = session.get(TokenRow, id_)
            if row is None or row.account_id != person.id:
                raise NoSuchThing(f"You have no token {id_!r}.")
            session.delete(row)
            tell(session, {"kind": "rights", "person": person.id})
            note(session, person.name, "ended a token", None, row.name, at)

    def bearer(self, secret: str, at: datetime) -> Bearer | None:
        """Return for whom a secret acts, and within what; None where it is no token, or over, or its person is shut out."""
        found = (
            select(TokenRow, AccountRow)
            .join(AccountRow, AccountRow.id == TokenRow.account_id)
            .where(TokenRow.digest == digest_of(secret), TokenRow.expires_at > at)
        )
        with transaction(self._engine) as session:
            known = session.execute(found).first()
            if known is None or known[1].disabled:
                return None
            token, account = known
            if token.used_at is None or at - token.used_at > USED:
                token.used_at = at
            return Bearer(
                account.id,
                account.name,
                owner=False,
                token=token.name,
                scope=token.scope,
                only=token.design_id,
                of_owner=account.owner,
            )


def _token(row: TokenRow) -> Token:
    return Token(row.id, row.name, row.scope, row.design_id, row.created_at, row.expires_at, row.used_at)
