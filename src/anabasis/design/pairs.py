"""Units and failover pairs."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from anabasis.design.base import AddressText, BoxName, LineRef, Milliseconds, Name, Part


class Unit(Part):
    """One box that carries the configuration."""

    name: BoxName
    model: str | None = None
    software: str | None = None
    licence: str | None = None
    storage_gb: int | None = Field(default=None, ge=0)
    priority: int = Field(default=100, ge=0, le=255)


class DrillResult(Part):
    """What was seen at one step of a drill, beside what was to be expected."""

    step: Name
    expected: str
    seen: str
    done: bool = True


class Drill(Part):
    """One failover drill, as it went."""

    at: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$", description="The day, as in ISO 8601.")
    who: str | None = None
    results: list[DrillResult] = Field(default_factory=list)
    note: str | None = None


class Failover(Part):
    """How two units share one configuration."""

    mode: Literal["standby", "shared"] = "standby"
    group: int = Field(default=1, ge=0, le=255)
    heartbeats: list[LineRef] = Field(default_factory=list)
    watch: list[LineRef] = Field(default_factory=list)
    targets: list[AddressText] = Field(default_factory=list)
    hello_ms: Milliseconds = 1000
    misses: int = Field(default=3, ge=1, le=100)
    preempt: bool = False
    sync_sessions: bool = False
    secret: Literal["default", "own"] | None = Field(
        default=None,
        description="Whether the secret the units know each other by is still the maker's; never the secret itself.",
    )
    drills: list[Drill] = Field(default_factory=list)
