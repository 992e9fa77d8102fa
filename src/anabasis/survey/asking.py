"""A survey: every box that is named, asked by both protocols at once, and what came of it. Nothing is written to a box, and nobody else is asked."""

from __future__ import annotations

import asyncio
import logging
import socket
import time
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from typing import Any

import httpx2 as httpx

from anabasis.design import Tree
from anabasis.facts import Answer, Silence
from anabasis.interchange import Seen, from_objects, joined, seen_of
from anabasis.survey import restconf, snmp
from anabasis.survey.restconf import NotAllowed, TooMuch
from anabasis.survey.targets import Credentials, Target

AT_ONCE, PATIENCE_S, LONGEST_S = 16, 4.0, 60.0
"""How many boxes are asked at the same time, how long one may keep silent, and how long it may take in all."""


@dataclass
class Survey:
    """What is known so far."""

    targets: list[Target]
    answers: list[Answer] = field(default_factory=list)
    said: dict[str, tuple[Tree, bool]] = field(default_factory=dict)
    """Box -> its data, and whether they came by SNMP alone."""
    stopped: bool = False

    @property
    def seen(self) -> list[Seen]:
        """Return the boxes that answered, in the order of their names."""
        return [seen_of(data, name, by_objects) for name, (data, by_objects) in sorted(self.said.items())]


async def run(
    survey: Survey,
    credentials: Credentials,
    told: Callable[[Answer], None] = lambda _: None,
    patience_s: float = PATIENCE_S,
    longest_s: float = LONGEST_S,
) -> None:
    """Ask every box of a survey; what each did stands in it as soon as it is known. Setting `stopped` ends it with what there is."""
    logging.getLogger("httpx2").setLevel(logging.WARNING)
    gate, engine = asyncio.Semaphore(AT_ONCE), snmp.make_engine()

    async def one(target: Target) -> None:
        async with gate:
            begun = time.monotonic()
            if survey.stopped:
                answer = Answer(target.text, "", (), Silence.STOPPED, 0.0)
            else:
                answer = await _asked(survey, engine, target, credentials, patience_s, longest_s, begun)
            survey.answers.append(answer)
            told(answer)

    asked = [asyncio.create_task(one(t)) for t in survey.targets]
    while not all(t.done() for t in asked):
        await asyncio.wait(asked, timeout=0.2)
        if survey.stopped:
            for task in asked:
                task.cancel()
            await asyncio.gather(*asked, return_exceptions=True)
    engine.close_dispatcher()
    known = {a.target for a in survey.answers}
    survey.answers += [Answer(t.text, "", (), Silence.STOPPED, 0.0) for t in survey.targets if t.text not in known]


async def _asked(
    survey: Survey,
    engine: Any,
    target: Target,
    credentials: Credentials,
    patience_s: float,
    longest_s: float,
    begun: float,
) -> Answer:
    """Ask one box by both protocols, and keep what it said."""
    why: list[Silence] = []

    async def tried(by: str, asking: Awaitable[Tree | None]) -> Tree | None:
        try:
            async with asyncio.timeout(longest_s):
                said = await asking
        except NotAllowed:
            why.append(Silence.NOT_ALLOWED)
        except TooMuch:
            why.append(Silence.TOO_MUCH)
        except (TimeoutError, httpx.TimeoutException):
            why.append(Silence.NO_ANSWER)
        except (httpx.ConnectError, ConnectionError):
            why.append(Silence.REFUSED)
        except socket.gaierror:
            why.append(Silence.UNKNOWN_NAME)
        except Exception:  # whatever a stranger sends: it is no reason to lose the others
            why.append(Silence.NONSENSE)
        else:
            if said is None and by == "snmp":
                why.append(Silence.NO_ANSWER)
            return said
        return None

    async def by_objects() -> Tree | None:
        held = await snmp.ask(engine, target, credentials, patience_s)
        return from_objects(held) if held is not None else None

    asked: dict[str, Awaitable[Tree | None]] = {}
    if target.only != "snmp":
        asked["restconf"] = tried("restconf", restconf.ask(target, credentials, patience_s))
    if target.only != "restconf":
        asked["snmp"] = tried("snmp", by_objects())
    said = dict(zip(asked, await asyncio.gather(*asked.values()), strict=True))
    held = {by: data for by, data in said.items() if data}
    seconds = time.monotonic() - begun
    if not held:
        return Answer(target.text, "", (), _worst(why, any(d is not None for d in said.values())), seconds)
    data = held.get("restconf", {})
    data = joined(data, held["snmp"]) if data and "snmp" in held else data or held["snmp"]
    try:
        box = seen_of(data, target.text, "restconf" not in held)
    except Exception:  # data that are shaped as none of the modules
        return Answer(target.text, "", tuple(held), Silence.NONSENSE, seconds)
    if not box.told and not box.whole:
        return Answer(target.text, "", tuple(held), Silence.NOTHING_SAID, seconds)
    if not box.possible:
        return Answer(target.text, box.box, tuple(held), Silence.NONSENSE, seconds)
    survey.said[box.box] = data, box.by_objects
    return Answer(target.text, box.box, tuple(held), None, seconds)


def _worst(why: list[Silence], answered: bool) -> Silence:
    """Return which reason to tell: one that says something of the box comes before silence."""
    order = (
        Silence.NOT_ALLOWED,
        Silence.TOO_MUCH,
        Silence.NONSENSE,
        Silence.UNKNOWN_NAME,
        Silence.NO_ANSWER,
        Silence.REFUSED,
    )
    return next((w for w in order if w in why), Silence.NOTHING_SAID if answered else Silence.NO_ANSWER)
