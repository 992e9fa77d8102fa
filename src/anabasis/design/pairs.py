"""Units and failover pairs."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from anabasis.design.base import AddressText, BoxName, InterfaceText, LineRef, Milliseconds, Name, Part

TraitText = Annotated[str, Field(min_length=1, max_length=80)]
OLDER_TRAITS = ("model", "software", "licence", "storage_gb")
"""Keys of earlier documents; each is read as a trait of that name."""


class Unit(Part):
    """One box that carries the configuration."""

    name: BoxName
    traits: dict[TraitText, str | int] = Field(
        default_factory=dict, description="What both units must share, by any names: {model: M2, software: 8.1.4}."
    )
    address: InterfaceText | None = Field(default=None, description="An address of the unit's own, where it has one.")
    priority: int = Field(default=100, ge=0, le=255)

    @model_validator(mode="before")
    @classmethod
    def _older(cls, value: Any) -> Any:
        older = [k for k in OLDER_TRAITS if k in value] if isinstance(value, dict) else []
        if not older:
            return value
        traits = {k: value[k] for k in older if value[k] is not None} | value.get("traits", {})
        return {k: v for k, v in value.items() if k not in older} | {"traits": traits}


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
    order: list[Literal["watch", "targets", "rank"]] = Field(
        default=["watch", "targets", "rank"],
        min_length=1,
        max_length=3,
        description="What is compared, first to last: watched ports down, targets lost, rank (with preempt the priority, else who is active now).",
    )
    priority_wins: Literal["greater", "smaller"] = Field(
        default="greater", description="Whether the unit of the greater or of the smaller priority comes first."
    )
    preempt: bool = False
    sync_sessions: bool = False
    secret: Literal["default", "own"] | None = Field(
        default=None,
        description="Whether the secret the units know each other by is still the maker's; never the secret itself.",
    )
    drills: list[Drill] = Field(default_factory=list)
