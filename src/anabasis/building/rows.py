"""A build sheet as rows: for JSON (the promise of the command line), tables and pages."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from anabasis.building.sheet import BuildSheet, BuildStep, Pair
from anabasis.wording import back_said, check_said, line_said, state_said, step_title, undo_said, wait_said


def pairs_as_rows(pairs: Iterable[Pair]) -> list[dict[str, str]]:
    """Return ordered pairs of segments."""
    return [{"from": a, "to": b} for a, b in pairs]


def step_row(step: BuildStep) -> dict[str, Any]:
    """Return one step, its sentences included."""
    lines = [line_said(n, step.subject) for n in step.lines]
    return {
        "device": step.device,
        "step": step.number,
        "title": step_title(step.subject, step.sign, step.device),
        "do": "; ".join(lines),
        "lines": lines,
        "check": check_said(step.subject, step.sign),
        "see": "; ".join(state_said(s) for s in step.states),
        "wait_s": step.wait_s,
        "wait": wait_said(step.wait.why) if step.wait is not None else "",
        "takes_s": step.takes_s,
        "reach_lost": pairs_as_rows(step.lost),
        "closed": pairs_as_rows(step.closed),
        "regained": pairs_as_rows(step.regained),
        "opened_meanwhile": pairs_as_rows(step.opened),
        "broken": list(step.broken),
        "console": step.console,
        "cuts": list(step.cuts),
        "way_back": back_said(step.back) if step.back is not None else "",
        "undo": undo_said(step.sign, step.lines),
        "subject": step.subject.value,
        "edit": step.edit,
        "undo_edit": step.undo,
    }


def sheet_rows(sheet: BuildSheet, device: str | None = None) -> list[dict[str, Any]]:
    """Return the steps, or those of one device; their numbers stay those of the whole."""
    return [step_row(s) for s in sheet.steps if device is None or s.device == device]


def outage_rows(sheet: BuildSheet) -> list[dict[str, Any]]:
    """Return who is cut off, from which step to which."""
    return [
        {"from": o.source, "to": o.target, "whole": o.whole, "first": o.first, "last": o.last, "seconds": o.seconds}
        for o in sheet.outages
    ]
