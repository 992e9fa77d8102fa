"""Surveys that go on in the background: one a design, each belonging to who began it; credentials live as long as they do, and nowhere else."""

from __future__ import annotations

import asyncio
import logging
from collections.abc import Callable
from dataclasses import dataclass
from threading import Lock, Thread
from time import sleep
from typing import Literal

from anabasis.errors import NoSuchThing, NotAllowed, StoreUnavailable
from anabasis.survey import Credentials, Survey, run

KEEP_TRIES, KEEP_WAIT_S = 60, 2.0
"""How often, and how far apart, it is tried to keep what came of a survey while the database does not answer."""
LOG = logging.getLogger("anabasis.surveys")
SurveyState = Literal["running", "ended", "failed"]


@dataclass
class Running:
    """One survey that goes on, or has ended."""

    survey: Survey
    by: str
    state: SurveyState = "running"
    number: int | None = None
    """What it is kept as, once it has ended."""


class Asking:
    """The surveys of an application that go on: one a design."""

    def __init__(self) -> None:
        self._of: dict[str, Running] = {}
        self._lock = Lock()

    def start(
        self, id_: str, survey: Survey, credentials: Credentials, by: str, keep: Callable[[Survey], int]
    ) -> Running:
        """Begin a survey; `keep` stores what came of it and returns its number. Raises NotAllowed while another one goes on."""
        with self._lock:
            known = self._of.get(id_)
            if known is not None and known.state == "running":
                raise NotAllowed(f"A survey that {known.by} began goes on.")
            running = self._of[id_] = Running(survey, by)
        Thread(target=self._run, args=(running, credentials, keep), daemon=True, name="survey").start()
        return running

    def get(self, id_: str) -> Running:
        """Return the survey of a design that goes on, or went on last. Raises NoSuchThing."""
        known = self._of.get(id_)
        if known is None:
            raise NoSuchThing("No survey of this design has been started.")
        return known

    def stop(self, id_: str) -> Running:
        """Let a survey end with what is known. Raises NoSuchThing."""
        known = self.get(id_)
        known.survey.stopped = True
        return known

    def end(self) -> None:
        """Stop all of them: the server ends."""
        for known in self._of.values():
            known.survey.stopped = True

    def _run(self, running: Running, credentials: Credentials, keep: Callable[[Survey], int]) -> None:
        try:
            asyncio.run(run(running.survey, credentials))
            running.number = _kept(running.survey, keep)
            running.state = "ended"
        except Exception:  # the design is gone, or a fault of ours: it is over, and says so
            LOG.exception("a survey failed")
            running.state = "failed"


def _kept(survey: Survey, keep: Callable[[Survey], int]) -> int:
    """Keep a survey; a database that is away for a while loses nothing of it."""
    for _ in range(KEEP_TRIES):
        try:
            return keep(survey)
        except StoreUnavailable:
            sleep(KEEP_WAIT_S)
    return keep(survey)
