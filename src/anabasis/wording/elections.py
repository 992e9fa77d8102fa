"""Why a unit is active, what happens when parts fail, and what one does in a drill, in sentences."""

from __future__ import annotations

from collections.abc import Sequence

from anabasis.facts import DecidedBy, Decision, DrillKind, MomentKind, Refusal, Refuses

_REFUSED: dict[Refuses, str] = {
    "traits-unlike": "the units differ in {names}",
    "no-heartbeat": "no heartbeat is cabled",
    "heartbeat-astray": "heartbeat {names} does not lead to the other unit",
    "ports-apart": "{names} of the units stand in different segments",
}

_DECIDED: dict[DecidedBy, str] = {
    "nobody-alive": "no unit is alive: {others} failed",
    "other-failed": "{others} failed, so {unit} is active",
    "only-unit": "{unit} is the only unit",
    "not-heard": "no heartbeat works, so {unit} and {others} each take the other for dead: both are active",
    "watch": "{others} has more watched ports down ({lost}), so {unit} is active",
    "targets": "{others} has more targets lost ({lost}), so {unit} is active",
    "stays-untold": "nothing before it tells the units apart, and without preempt {unit} stays active",
    "stays": "{unit} is active, and nothing speaks against it",
    "rank": "{unit} comes first by priority and name",
    "refused": "{refusals}, so the units refuse each other: {unit} stays active",
    "refused-failed": "{unit} failed, and {others} does not take over: {refusals}, so the units refuse each other",
}

_DO: dict[DrillKind, str] = {
    "plug": "Pull the plug of {active}.",
    "return": "Start {active} again, and wait until it hears {standby}.",
    "turn-back": "Pull the plug of {standby}, so that {active} takes over again; then start it.",
    "watch": "Pull {ends} ({port}, watched).",
    "heartbeat": "Pull the heartbeat {ends}; leave the others.",
    "all-heartbeats": "Pull every heartbeat, for a few seconds and with nobody at work.",
}


def refused_because(refusal: Refusal) -> str:
    """Return why units refuse each other as a sentence without its full stop."""
    return _REFUSED[refusal.why].format(names=", ".join(refusal.names))


def decided(decision: Decision) -> str:
    """Return what decided an election as a sentence without its full stop."""
    return _DECIDED[decision.by].format(
        unit=decision.unit,
        others=", ".join(decision.others),
        lost=", ".join(decision.lost),
        refusals=" and ".join(map(refused_because, decision.refusals)),
    )


def all_decided(decisions: Sequence[Decision], nobody: str = "no pair has a part in it") -> str:
    """Return what decided about every pair; `nobody` where there is none."""
    return "; ".join(map(decided, decisions)) or nobody


def what_happens(kind: MomentKind, at_ms: int, decisions: Sequence[Decision]) -> str:
    """Return what happens at a moment of a failure as a sentence without its full stop."""
    if kind == "fault":
        return "the parts fail; nobody has taken over yet"
    if kind == "settled":
        return all_decided(decisions, "there is no pair")
    return (f"noticed after {at_ms} ms: " if at_ms else "noticed at once: ") + all_decided(decisions)


def drill_do(kind: DrillKind, active: str, standby: str, port: str, ends: Sequence[str]) -> str:
    """Return what one does at a step of a drill."""
    return _DO[kind].format(active=active, standby=standby, port=port, ends=" and ".join(ends))


def drill_measure(noticed: bool) -> str:
    """Return what one measures at a step: `noticed`, somebody takes over."""
    return "seconds without a reply" if noticed else "that nothing is lost"


def drill_before(active: str, standby: str) -> tuple[str, ...]:
    """Return what is to be so before a drill begins."""
    return (
        f"{active} is active, {standby} stands by; both run the same configuration.",
        "Someone at the console of each unit; a ping from each segment named below is running.",
        "The house knows, and the way back is agreed.",
    )
