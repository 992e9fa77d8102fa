"""A proof as rows for programs and screens."""

from __future__ import annotations

from typing import Any

from anabasis.facts import Proof, Proved
from anabasis.wording import computed_of, covered, left_out, proof_said, taken_as


def proof_row(result: Proved) -> dict[str, Any]:
    """Return one probe: what was computed of it, and what was seen."""
    probe = result.probe
    return {
        "from": probe.from_,
        "to": probe.to,
        "at": probe.at,
        "source": probe.source,
        "target": probe.target,
        "service": probe.service,
        "computed": "answered" if probe.computed else "silent",
        "why": computed_of(probe),
        "seen": result.seen,
        "differs": result.differs,
    }


def proof_rows(proof: Proof, every: bool = True) -> dict[str, Any]:
    """Return a proof. `every`: each probe, not those alone that differ."""
    return {
        "probes": len(proof.results),
        "differ": [proof_row(r) for r in proof.differ],
        "results": [proof_row(r) for r in proof.results] if every else [],
        "said": proof_said(proof),
        "covered": [covered(kind, *numbers) for kind, numbers in proof.covered.items() if numbers[2]],
        "left_out": [left_out(reason, n) for reason, n in proof.left_out.items()],
        "taken": [taken_as(t) for t in proof.taken],
        "failed": list(proof.failed),
        "kernel": proof.kernel,
        "seconds": round(proof.seconds, 1),
    }
