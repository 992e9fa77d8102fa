"""Tables: designs, their current draft, and every edit with its inverse."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    JSON,
    BigInteger,
    CheckConstraint,
    DateTime,
    ForeignKey,
    Identity,
    Integer,
    String,
    UniqueConstraint,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """The root of all tables."""


class DesignRow(Base):
    """One design, and the state of its draft."""

    __tablename__ = "design"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    version: Mapped[int] = mapped_column(Integer)
    """Grows by one with every edit, undo and redo."""
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    """PostgreSQL `json`, which keeps the text as written: the order of keys is part of a document."""


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
