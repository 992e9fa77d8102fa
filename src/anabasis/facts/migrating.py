"""What a migration took for granted, and what it leaves to be decided, as facts."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum


class Took(StrEnum):
    """What follows from what is there, and is said so that a person can say no."""

    GATEWAY_GIVES_UP = "gateway-gives-up"
    GATEWAY_STAYS = "gateway-stays"
    GATEWAY_TAKES = "gateway-takes"
    LINK_GOES = "link-goes"
    CARRIES = "carries"
    TELLS = "tells"
    REACHES = "reaches"
    REACHES_ALL = "reaches-all"


class Left(StrEnum):
    """What only a person can decide."""

    SET_MISSES = "set-misses"
    NO_ANSWERS = "no-answers"
    NO_LISTS = "no-lists"
    NO_WAY = "no-way"
    NO_ZONE = "no-zone"
    TRANSLATIONS = "translations"
    PORT_BESIDE = "port-beside"
    HEARTBEATS = "heartbeats"


@dataclass(frozen=True)
class Noted:
    """One of them, with the names and values it speaks of."""

    what: Took | Left
    known: dict[str, str] = field(default_factory=dict)
