"""Tables: designs with their draft and edits, published revisions, people with what they may, and what was done."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    JSON,
    BigInteger,
    Boolean,
    CheckConstraint,
    DateTime,
    ForeignKey,
    Identity,
    Index,
    Integer,
    String,
    UniqueConstraint,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

ROLES = ("read", "edit", "publish", "administer")
"""What a person may do with a design; each includes those before it."""


class Base(DeclarativeBase):
    """The root of all tables."""


class DesignRow(Base):
    """One design, and the state of its draft."""

    __tablename__ = "design"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    removed_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    """When it was removed; it can be brought back for a while."""
    version: Mapped[int] = mapped_column(Integer)
    """Grows by one with every edit, undo and redo."""
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    """PostgreSQL `json`, which keeps the text as written: the order of keys is part of a document."""
    stamp: Mapped[str | None] = mapped_column(String(64))
    """What the document says, as a digest: what is kept in memory is found by it, never by a number that a restore gives out again."""
    branch_of: Mapped[str | None] = mapped_column(ForeignKey("design.id", ondelete="CASCADE"))
    """For a what-if, the design it was branched off."""
    branch_title: Mapped[str | None] = mapped_column(String(80))
    branched_from: Mapped[str | None] = mapped_column(String(40))
    """The state it began as, in words: `revision 3`, `draft 17`."""
    base: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    """The document it began as."""


class EditRow(Base):
    """One edit of a draft."""

    __tablename__ = "edit"
    __table_args__ = (
        UniqueConstraint("design_id", "version"),
        CheckConstraint("kind in ('edit', 'undo', 'redo')", name="edit_kind"),
    )

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    design_id: Mapped[str] = mapped_column(ForeignKey("design.id", ondelete="CASCADE"))
    version: Mapped[int] = mapped_column(Integer)
    """The version of the draft that the edit made."""
    kind: Mapped[str] = mapped_column(String(4))
    of: Mapped[int | None] = mapped_column(BigInteger)
    """For undo and redo, the edit taken back or done again."""
    patch: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    inverse: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    author: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class RevisionRow(Base):
    """One published revision; a trigger of the database refuses to change it."""

    __tablename__ = "revision"
    __table_args__ = (UniqueConstraint("design_id", "number"),)

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    design_id: Mapped[str] = mapped_column(ForeignKey("design.id", ondelete="CASCADE"))
    number: Mapped[int] = mapped_column(Integer)
    version: Mapped[int] = mapped_column(Integer)
    """The version of the draft it is."""
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    reason: Mapped[str] = mapped_column(String(2000))
    forced: Mapped[str | None] = mapped_column(String(2000))
    """Why it was published although expectations failed."""
    failing: Mapped[list[str]] = mapped_column(JSON)
    """The expectations that failed then."""
    author: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class SurveyRow(Base):
    """One survey of the site of a design. Credentials are in none of it."""

    __tablename__ = "survey"
    __table_args__ = (UniqueConstraint("design_id", "number"),)

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    design_id: Mapped[str] = mapped_column(ForeignKey("design.id", ondelete="CASCADE"))
    number: Mapped[int] = mapped_column(Integer)
    author: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    answers: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    """What each box that was asked did."""
    said: Mapped[dict[str, Any]] = mapped_column(JSON)
    """Box -> its data, and whether they came by SNMP alone."""
    decided: Mapped[dict[str, str]] = mapped_column(JSON)
    """Key of a difference -> who decided that the design is right about it."""


class SheetRow(Base):
    """One sheet that is worked off on site."""

    __tablename__ = "sheet"
    __table_args__ = (UniqueConstraint("design_id", "number"),)

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    design_id: Mapped[str] = mapped_column(ForeignKey("design.id", ondelete="CASCADE"))
    number: Mapped[int] = mapped_column(Integer)
    kind: Mapped[str] = mapped_column(String(10))
    """`build` or `test`."""
    author: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    about: Mapped[dict[str, Any]] = mapped_column(JSON)
    lines: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    marks: Mapped[dict[str, Any]] = mapped_column(JSON)
    """Line -> what was ticked or seen, with who and when."""


class CampaignRow(Base):
    """One campaign."""

    __tablename__ = "campaign"

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    kind: Mapped[str] = mapped_column(String(10))
    """`harm` or `defence`."""
    author: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    asked: Mapped[dict[str, Any]] = mapped_column(JSON)
    documents: Mapped[dict[str, Any]] = mapped_column(JSON)
    """Name -> document as it was when the campaign began: it goes on with these."""
    done: Mapped[int] = mapped_column(Integer)
    total: Mapped[int] = mapped_column(Integer)
    state: Mapped[str] = mapped_column(String(10))
    """As last stored: `running`, `ended`, `stopped` or `failed`."""


class CampaignDesignRow(Base):
    """One state of a design that a campaign is about."""

    __tablename__ = "campaign_design"

    campaign_id: Mapped[int] = mapped_column(ForeignKey("campaign.id", ondelete="CASCADE"), primary_key=True)
    name: Mapped[str] = mapped_column(String(200), primary_key=True)
    """What its rows call it."""
    design_id: Mapped[str] = mapped_column(ForeignKey("design.id", ondelete="CASCADE"))
    revision: Mapped[int | None] = mapped_column(Integer)
    """None = the draft."""
    stamp: Mapped[str] = mapped_column(String(64))


class CaseRow(Base):
    """What came of one case of a campaign."""

    __tablename__ = "campaign_row"
    __table_args__ = (Index("campaign_row_harm", "campaign_id", "opened", "closed", "lost", "meanwhile"),)

    campaign_id: Mapped[int] = mapped_column(ForeignKey("campaign.id", ondelete="CASCADE"), primary_key=True)
    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    """SHA-256 of what names the case."""
    opened: Mapped[int] = mapped_column(Integer)
    closed: Mapped[int] = mapped_column(Integer)
    lost: Mapped[int] = mapped_column(Integer)
    meanwhile: Mapped[int] = mapped_column(Integer)
    said: Mapped[dict[str, Any]] = mapped_column(JSON)
    """The whole row."""


class AccountRow(Base):
    """One person."""

    __tablename__ = "account"

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    password: Mapped[str | None] = mapped_column(String(200))
    """An Argon2id hash (RFC 9106); None = enters by a link only."""
    owner: Mapped[bool] = mapped_column(Boolean)
    """May administer every design, and people."""
    disabled: Mapped[bool] = mapped_column(Boolean, default=False)
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class SessionRow(Base):
    """One signed-in browser."""

    __tablename__ = "session"

    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    """SHA-256 of the cookie's value: the table alone lets nobody in."""
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"))
    csrf: Mapped[str] = mapped_column(String(64))
    expires_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class LinkRow(Base):
    """One link that signs a person in, once."""

    __tablename__ = "link"

    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"))
    expires_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class TokenRow(Base):
    """One secret by which a program acts for a person."""

    __tablename__ = "token"
    __table_args__ = (
        UniqueConstraint("account_id", "name"),
        CheckConstraint("scope in ('read', 'edit', 'publish', 'administer')", name="scope_known"),
    )

    id: Mapped[str] = mapped_column(String(16), primary_key=True)
    digest: Mapped[str] = mapped_column(String(64), unique=True)
    """SHA-256 of the secret."""
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(40))
    scope: Mapped[str] = mapped_column(String(10))
    """The most it may do with a design."""
    design_id: Mapped[str | None] = mapped_column(ForeignKey("design.id", ondelete="CASCADE"))
    """The one design it is for; None = all."""
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    expires_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    used_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class KnownRow(Base):
    """One browser in which a person has signed in before: a stranger's wrong guesses do not shut it out."""

    __tablename__ = "known"

    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    """SHA-256 of the cookie's value."""
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"))
    expires_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class AttemptRow(Base):
    """One sign-in that failed; old ones are removed."""

    __tablename__ = "attempt"

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(String(80), index=True)
    source: Mapped[str] = mapped_column(String(80), index=True, default="")
    """Where it came from: an address, or a browser that the account knows."""
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class RoleRow(Base):
    """What one person may do with one design."""

    __tablename__ = "role"
    __table_args__ = (CheckConstraint("role in ('read', 'edit', 'publish', 'administer')", name="role_known"),)

    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"), primary_key=True)
    design_id: Mapped[str] = mapped_column(ForeignKey("design.id", ondelete="CASCADE"), primary_key=True)
    role: Mapped[str] = mapped_column(String(10))


class AuditRow(Base):
    """One thing done; a trigger of the database refuses to change or remove it."""

    __tablename__ = "audit"

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    who: Mapped[str] = mapped_column(String(80))
    what: Mapped[str] = mapped_column(String(40))
    design_id: Mapped[str | None] = mapped_column(String(32))
    """Not a reference: the log outlives what it tells of."""
    detail: Mapped[str] = mapped_column(String(300))
