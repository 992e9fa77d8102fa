"""Proofs by packets in the background: the newest of each design, made by a process of its own."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from datetime import datetime
from multiprocessing import get_context
from threading import Lock
from typing import Any, Literal

from anabasis.design import Tree
from anabasis.errors import AnabasisError, InputRefused, Problem
from anabasis.packets import check_allowed
from anabasis.proof import proof_rows, prove
from anabasis.store import Draft

LOG = logging.getLogger("anabasis.proofs")
Pairs = Sequence[tuple[str, str]]


@dataclass(frozen=True)
class ProofView:
    """How far a proof is, or what it showed."""

    state: Literal["none", "running", "ended", "failed"]
    stale: bool
    """It was made of another state of the draft."""
    why: str
    """Why it could not be made."""
    version: int
    """The version of the draft it was made of; 0 = there is none."""
    at: str
    """When it was begun."""
    proof: dict[str, Any] | None
    """probes, differ, results, said, covered, left_out, taken, failed, kernel, seconds; of each probe from, to, at, source, target, service, computed, why, seen, differs."""


def _proved(tree: Tree, pairs: Pairs, failed: Sequence[str]) -> tuple[dict[str, Any] | None, str]:
    """Return the rows of a proof, or why there is none."""
    try:
        return proof_rows(prove(tree, pairs, failed)), ""
    except AnabasisError as error:
        return None, str(error)


@dataclass(frozen=True)
class _Made:
    stamp: str
    version: int
    at: str
    work: Future[tuple[dict[str, Any] | None, str]]


class Proofs:
    """The newest proof of each design; one at a time is made."""

    def __init__(self) -> None:
        self._of: dict[str, _Made] = {}
        self._lock = Lock()
        self._pool: ProcessPoolExecutor | None = None

    def begin(self, id_: str, draft: Draft, at: datetime, pairs: Pairs, failed: Sequence[str]) -> None:
        """Begin one. Raises InputRefused where this machine cannot, or another of this design goes on."""
        check_allowed()
        with self._lock:
            held = self._of.get(id_)
            if held is not None and not held.work.done():
                raise InputRefused([Problem("", "a proof of this design goes on already", allowed="one at a time")])
            try:
                begun = self._workers().submit(_proved, draft.tree, pairs, failed)
            except BrokenProcessPool:  # its process was killed
                self._pool = None
                begun = self._workers().submit(_proved, draft.tree, pairs, failed)
            self._of[id_] = _Made(draft.stamp, draft.version, at.isoformat(), begun)

    def _workers(self) -> ProcessPoolExecutor:
        self._pool = self._pool or ProcessPoolExecutor(1, get_context("spawn"))
        return self._pool

    def view(self, id_: str, stamp: str) -> ProofView:
        """Return how far the newest is."""
        held = self._of.get(id_)
        if held is None:
            return ProofView("none", False, "", 0, "", None)
        made = held.stamp != stamp, held.version, held.at
        if not held.work.done():
            return ProofView("running", made[0], "", *made[1:], None)
        error = held.work.exception()
        if error is not None:  # its process was killed, or found a fault of ours
            LOG.error("a proof could not be made", exc_info=error)
            return ProofView("failed", made[0], str(error), *made[1:], None)
        rows, why = held.work.result()
        return ProofView("failed" if rows is None else "ended", made[0], why, *made[1:], rows)

    def forget(self, id_: str) -> None:
        """Drop what is known of a design that is no more."""
        self._of.pop(id_, None)

    def end(self) -> None:
        """The server ends."""
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
