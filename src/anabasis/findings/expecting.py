"""Findings about expectations that do not hold."""

from __future__ import annotations

from collections.abc import Iterator

from anabasis.facts import Says
from anabasis.findings.catalogue import Finding, finding
from anabasis.findings.tenants import out_of_place
from anabasis.verdicts import Verdicts, judge_all


def check(verdicts: Verdicts) -> Iterator[Finding]:
    """One finding an expectation, with the flow that shows it."""
    for judged in judge_all(verdicts):
        if not judged.holds:
            says = Says.EXPECTATION_UNKNOWN if judged.verdict == "unknown" else Says.EXPECTATION_BROKEN
            gateways = () if judged.cause is not None else out_of_place(verdicts.sweep.site, judged.pointer)
            places = (judged.pointer, *(p for p in (*gateways, *judged.decided_by) if p != judged.pointer))
            yield finding(says, *places, cause=judged.cause, name=judged.name, ground=judged.ground)
