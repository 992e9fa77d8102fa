"""Findings about expectations that do not hold."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.findings.catalogue import Finding
from anabasis.verdicts import Verdicts, judge_all


def check(verdicts: Verdicts) -> Iterator[Finding]:
    """One finding an expectation, with the flow that shows it."""
    for judged in judge_all(verdicts):
        if not judged.holds:
            code = "expectation-unknown" if judged.verdict == "unknown" else "expectation-broken"
            places = (judged.pointer, *(p for p in judged.decided_by if p != judged.pointer))
            yield Finding(code, f"{judged.name}: {judged.reason}.", places, cause=judged.cause)
