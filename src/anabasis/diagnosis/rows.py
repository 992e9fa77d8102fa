"""A diagnosis as rows: for JSON (the promise of the command line), tables and pages."""

from __future__ import annotations

from typing import Any

from anabasis.diagnosis.explaining import Diagnosis
from anabasis.faults import KINDS, Fault


def diagnosis_rows(found: Diagnosis) -> list[dict[str, Any]]:
    """Return the explanations, the best first."""
    return [
        {
            "faults": [_fault(f) for f in e.faults],
            "explains": e.explains,
            "of": e.of,
            "next_test": e.next_test,
            "said": said(e.faults),
            "places": list(dict.fromkeys(p for f in e.faults for p in f.guilty)),
            "alike": [{"faults": [_fault(f) for f in faults], "said": said(faults)} for faults in e.alike],
            "verified": e.verified,
        }
        for e in found.explanations
    ]


def _fault(fault: Fault) -> dict[str, Any]:
    return {
        "kind": fault.kind,
        "pointers": list(fault.guilty),
        "edit": fault.edit,
        "meaning": KINDS[fault.kind].meaning,
        "layer": KINDS[fault.kind].layer,
    }


def said(faults: tuple[Fault, ...]) -> str:
    """Return what is wrong, as the catalogue says it."""
    return "; and ".join(KINDS[f.kind].meaning for f in faults) or "nothing is wrong"
