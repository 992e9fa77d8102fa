"""Units and failover pairs."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from anabasis.design.base import AddressText, Milliseconds, Name, Part


class Unit(Part):
    """One box that carries the configuration."""

    name: Name
    model: str | None = None
    software: str | None = None
    licence: str | None = None
    storage_gb: int | None = Field(default=None, ge=0)
    priority: int = Field(default=100, ge=0, le=255)


class Failover(Part):
    """How two units share one configuration."""

    mode: Literal["standby", "shared"] = "standby"
    group: int = Field(default=1, ge=0, le=255)
    heartbeats: list[Name] = Field(default_factory=list)
    watch: list[Name] = Field(default_factory=list)
    targets: list[AddressText] = Field(default_factory=list)
    hello_ms: Milliseconds = 1000
    misses: int = Field(default=3, ge=1, le=100)
    preempt: bool = False
    sync_sessions: bool = False
