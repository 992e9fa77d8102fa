"""A proof by packets, as a person reads it."""

from __future__ import annotations

from anabasis.facts import Cause, Covers, NotProved, Proof, ProofProbe, TakenAs
from anabasis.wording.causes import say

LEFT_OUT = {
    NotProved.TUNNELS: "what goes through tunnels",
    NotProved.OVERLAY: "what goes over the overlay",
    NotProved.REDUNDANT_GATEWAYS: "what meets a redundant gateway",
    NotProved.SHARED_PAIRS: "what meets a pair that shares its gateways",
    NotProved.EQUAL_ROUTES: "what several equal routes lead",
    NotProved.LUCK: "what is luck: an address held twice",
}
TAKEN = {
    TakenAs.ACTIVE: "which unit of a pair is active",
    TakenAs.BLOCKED: "what the spanning tree blocks",
    TakenAs.LEASES: "the addresses of leases",
    TakenAs.LEARNT: "routes learnt by OSPF",
    TakenAs.BUNDLES: "that the members of a bundle find each other",
}
COVERED = {Covers.RULE: "rules", Covers.ROUTE: "routes", Covers.TRANSLATION: "translations", Covers.ANSWERS: "answers"}


def left_out(reason: NotProved, count: int) -> str:
    """Return what was left out, and how many probes."""
    return f"{LEFT_OUT[reason]}: {count}"


def taken_as(what: TakenAs) -> str:
    """Return what was taken as computed."""
    return TAKEN[what]


def covered(kind: Covers, both: int, one: int, there: int) -> str:
    """Return how much of a kind was met."""
    beside = f", {one} on one side" if one else ""
    return f"{COVERED[kind]}: {both} of {there} on both sides{beside}"


def computed_of(probe: ProofProbe) -> str:
    """Return what was computed of a probe."""
    if probe.computed:
        return "an answer"
    return f"no answer: {say(probe.cause)}" if isinstance(probe.cause, Cause) else "no answer"


def proof_said(proof: Proof) -> str:
    """Return the sum of it."""
    told = "no difference" if not proof.differ else f"{len(proof.differ)} differ from what was computed"
    down = f", with {', '.join(proof.failed)} down" if proof.failed else ""
    return f"{len(proof.results)} packets sent in {proof.seconds:.0f} s by kernel {proof.kernel}{down}: {told}."
