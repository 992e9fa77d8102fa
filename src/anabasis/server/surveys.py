"""Surveys of a design's site: asking, what differs, what that would do, and taking it over."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Body
from pydantic import BaseModel, Field

from anabasis.design import apply
from anabasis.design.edits import difference
from anabasis.errors import AnabasisError
from anabasis.facts import Answer, Differs, Drift, Silence
from anabasis.interchange import Seen, changed, drift, seen_of, take_over
from anabasis.server.access import Author, may
from anabasis.server.asking import Running, SurveyState
from anabasis.server.drafts import Preview, preview_of
from anabasis.server.state import State, TheState
from anabasis.server.turns import InTurn
from anabasis.store import SurveyRecord
from anabasis.survey import Credentials, Survey, parse_targets
from anabasis.wording import drift_said, place_of, silence_said, value_said

router = APIRouter(
    prefix="/designs/{design_id}/surveys", tags=["surveys"], dependencies=[may("read")], route_class=InTurn
)
EDIT = [may("edit")]
Number = Annotated[int, Field(ge=1, le=2**31 - 1)]
Keys = Annotated[list[Annotated[str, Field(max_length=2000)]], Field(max_length=5000)]
WEIGHED = 60
"""Of how many differences it is said at once what taking them over would do."""


class Ask(BaseModel):
    """Whom to ask, and how one shows who asks; the latter is kept nowhere."""

    targets: Annotated[list[Annotated[str, Field(max_length=300)]], Field(min_length=1, max_length=1000)]
    community: str = Field(default="public", max_length=200)
    snmp_user: str = Field(default="", max_length=200)
    snmp_secret: str = Field(default="", max_length=200)
    snmp_privacy: str = Field(default="", max_length=200)
    user: str = Field(default="", max_length=200)
    password: str = Field(default="", max_length=200)


@dataclass(frozen=True)
class Told:
    """What one box that was asked did."""

    target: str
    box: str
    by: list[str]
    why: str | None
    """Why it is not known, in words; None = it is."""
    seconds: float


@dataclass(frozen=True)
class Going:
    """A survey that goes on, or has ended."""

    state: SurveyState
    by: str
    asked: int
    answers: list[Told]
    number: int | None
    """What it is kept as, once it has ended."""


@dataclass(frozen=True)
class SiteDifference:
    """One thing that is otherwise on the site."""

    key: str
    device: str
    what: Differs
    place: str
    design: str
    site: str
    sentence: str
    decided: str | None
    """Who decided that the design is right about it."""
    writable: bool
    """Whether the design could say what the site says."""


@dataclass(frozen=True)
class SurveyHead:
    """One survey, as a list shows it."""

    number: int
    who: str
    at: datetime
    asked: int
    answered: int


@dataclass(frozen=True)
class SurveyView:
    """One survey, held against the draft as it is."""

    number: int
    who: str
    at: datetime
    answers: list[Told]
    differences: list[SiteDifference]


@dataclass(frozen=True)
class Weighed:
    """What taking one difference over would do to reach."""

    key: str
    opened: int
    closed: int
    changed: int
    broken: int
    """Expectations that would no longer hold."""
    refused: str | None
    """Why the document would not take it; None = it would."""


@router.post("", status_code=202, dependencies=EDIT)
def begin(design_id: str, wanted: Annotated[Ask, Body()], who: Author, state: TheState) -> Going:
    """Ask the boxes that are named what they are, in the background. Nobody else is asked, nothing is written to them, no credentials are kept."""
    survey = Survey(parse_targets(wanted.targets))
    held = Credentials(**wanted.model_dump(exclude={"targets"}))
    state.store.draft(design_id)

    def keep(done: Survey) -> int:
        answers = [asdict(a) for a in done.answers]
        said = {box: {"data": data, "by_objects": by_objects} for box, (data, by_objects) in done.said.items()}
        return state.surveys.add(design_id, who, state.clock(), answers, said).number

    return _going(state.asking.start(design_id, survey, held, who, keep))


@router.get("/running")
def going_on(design_id: str, state: TheState) -> Going:
    """Return how far the last survey of the design is."""
    return _going(state.asking.get(design_id))


@router.post("/stop", dependencies=EDIT)
def stop(design_id: str, state: TheState) -> Going:
    """Let a survey end with what is known by then."""
    return _going(state.asking.stop(design_id))


@router.get("")
def listed(design_id: str, state: TheState) -> list[SurveyHead]:
    """List the surveys of the design, the newest first."""
    return [
        SurveyHead(r.number, r.author, r.at, len(r.answers), sum(a["why"] is None for a in r.answers))
        for r in state.surveys.all(design_id)
    ]


@router.get("/{number}")
def read(design_id: str, number: Number, state: TheState) -> SurveyView:
    """Return a survey: what each box did, and what differs from the draft as it is now."""
    record, found = _held(state, design_id, number)
    answers = [_told(Answer(a["target"], a["box"], tuple(a["by"]), a["why"] and Silence(a["why"]), a["seconds"])) for a in record.answers]  # fmt: skip
    return SurveyView(number, record.author, record.at, answers, [_difference(d, record) for d in found])


@router.get("/{number}/weighed")
def weighed(design_id: str, number: Number, state: TheState) -> list[Weighed]:
    """Say of each difference what the design would open and close if it said what the site says; of the first sixty."""
    draft = state.store.draft(design_id)
    _, found = _held(state, design_id, number)
    before = state.climb(draft)
    out: list[Weighed] = []
    for one in [d for d in found if d.what != Differs.DOWN][:WEIGHED]:
        try:
            after = apply(draft.tree, difference(draft.tree, take_over(draft.tree, [one])), draft.design)[1]
            seen = before.edited(after).consequences_since(before)
        except AnabasisError as error:
            out.append(Weighed(one.key, 0, 0, 0, 0, str(error)))
            continue
        opened, closed, changed, broken = map(len, (seen.opened, seen.closed, seen.changed, seen.broken))
        out.append(Weighed(one.key, opened, closed, changed, broken, None))
    return out


@router.post("/{number}/take-over")
def preview_take_over(
    design_id: str, number: Number, keys: Annotated[Keys, Body(embed=True)], state: TheState
) -> Preview:
    """Work out the edit by which the design says what the site says, in these differences; send the patch to make it."""
    draft = state.store.draft(design_id)
    _, found = _held(state, design_id, number)
    after = take_over(draft.tree, [d for d in found if d.key in set(keys)])
    return preview_of(state, draft, difference(draft.tree, after))


class Decision(BaseModel):
    """That the design is right about some differences; `right` false takes that back."""

    keys: Keys
    right: bool = True


@router.post("/{number}/decide", dependencies=EDIT)
def decide(
    design_id: str, number: Number, wanted: Annotated[Decision, Body()], who: Author, state: TheState
) -> SurveyView:
    """Keep that the design is right about some differences: they are to be put right on the site."""
    state.surveys.decide(design_id, number, wanted.keys, who if wanted.right else None)
    return read(design_id, number, state)


@router.get("/{number}/since/{other}")
def since(design_id: str, number: Number, other: Number, state: TheState) -> list[SiteDifference]:
    """Return what a survey found otherwise than an earlier one: `design` is then, `site` is now."""
    _, then = state.surveys.get(design_id, other)
    now, said = state.surveys.get(design_id, number)
    return [_difference(d, now) for d in changed(_seen(then), _seen(said))]


def _held(state: State, design_id: str, number: int) -> tuple[SurveyRecord, list[Drift]]:
    record, said = state.surveys.get(design_id, number)
    return record, drift(state.store.draft(design_id).tree, _seen(said))


def _seen(said: dict[str, Any]) -> list[Seen]:
    return [seen_of(held["data"], box, held["by_objects"]) for box, held in sorted(said.items())]


def _told(answer: Answer) -> Told:
    why = silence_said(answer.why) if answer.why else None
    return Told(answer.target, answer.box, list(answer.by), why, round(answer.seconds, 1))


def _going(running: Running) -> Going:
    answers = [_told(a) for a in list(running.survey.answers)]
    return Going(running.state, running.by, len(running.survey.targets), answers, running.number)


def _difference(one: Drift, record: SurveyRecord) -> SiteDifference:
    sides = value_said(one.design), value_said(one.site)
    decided, writable = record.decided.get(one.key), one.what != Differs.DOWN
    return SiteDifference(one.key, one.device, one.what, place_of(one), *sides, drift_said(one), decided, writable)
