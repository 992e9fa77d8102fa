"""Campaigns over HTTP: begun, looked at while they go on, gone on with, each row put on stage; and how deep closed expectations are defended."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import uuid4

from fastapi import APIRouter, Body, Depends
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, ConfigDict, Field

from anabasis.campaign import (
    Harm,
    Mistake,
    as_csv,
    check_sizes,
    digest_of,
    fault_named,
    mistakes_of,
    read_row,
)
from anabasis.design import Tree
from anabasis.design.together import together
from anabasis.errors import InputRefused, NoSuchThing, Problem
from anabasis.server.access import Author, ThePerson, by_whom, check, may, may_begin
from anabasis.server.state import State, TheState
from anabasis.server.turns import InTurn
from anabasis.store import Branch, CampaignRecord, Person, Subject
from anabasis.wording import case_said, depth_said, mistake_said

MOST_SUBJECTS, SHOWN = 400, 200
router = APIRouter(prefix="/campaigns", tags=["campaigns"])
defence = APIRouter(
    prefix="/designs/{design_id}/draft/defence", tags=["campaigns"], dependencies=[may("read")], route_class=InTurn
)
CampaignId = Annotated[int, Field(ge=1, le=2**62)]
State_ = Literal["running", "ended", "stopped", "failed"]


class About(BaseModel):
    """One state of a design."""

    model_config = ConfigDict(extra="forbid")
    design: Annotated[str, Field(max_length=32)]
    revision: Annotated[int, Field(ge=1, le=2**31 - 1)] | None = Field(
        default=None, description="A published revision; left out = the draft."
    )


class WantedCampaign(BaseModel):
    """What is to be judged: states of designs, each crossed with what may happen to it."""

    model_config = ConfigDict(extra="forbid")
    about: Annotated[list[About], Field(min_length=1, max_length=MOST_SUBJECTS)]
    failures: int = Field(default=1, description="How many parts fail at once, at most: 0 to 3.")
    faults: int = Field(default=1, description="How many mistakes are made at once, at most: 0 to 2.")
    together: bool = Field(default=False, description="Each failure with each mistake, besides.")
    sample: Annotated[int, Field(ge=1, le=100_000)] = Field(
        default=1_000, description="Of three failures at once so many are drawn."
    )
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 0


@dataclass(frozen=True)
class CampaignHead:
    """One campaign, as a list shows it."""

    id: int
    who: str
    at: datetime
    about: list[Subject]
    failures: int
    faults: int
    together: bool
    state: State_
    why: str
    """Why it failed."""
    done: int
    total: int
    left_s: float | None
    """About how long it goes on."""


@dataclass(frozen=True)
class HarmRow:
    """One case, and what it does."""

    key: str
    design: str
    failed: list[str]
    mistakes: list[Mistake]
    opened: list[str]
    closed: list[str]
    lost: int
    meanwhile: int
    split_brain: bool
    refused: bool


@dataclass(frozen=True)
class CampaignView:
    """One campaign: how far it is, what matters, and the worst of it."""

    head: CampaignHead
    judged: int
    harmful: int
    opening: int
    """How many break something open."""
    harm: Harm
    worst: list[HarmRow]


@dataclass(frozen=True)
class OnStage:
    """Where a case is to be seen: a design or a what-if of it, with what has failed there."""

    design: str
    failed: list[str]


@router.get("")
def listed_campaigns(state: TheState, person: ThePerson) -> list[CampaignHead]:
    """List the campaigns about designs that one may read, the newest first."""
    mine = None if person.owner else set(state.people.roles_of(person))
    return [_head(state, r) for r in state.campaigns.all(mine, "harm")]


@router.post("", status_code=202, dependencies=[Depends(may_begin)])
def begin_campaign(wanted: Annotated[WantedCampaign, Body()], person: ThePerson, state: TheState) -> CampaignHead:
    """Begin a campaign in the background, of the drafts as they are now and of revisions."""
    check_sizes(wanted.failures, wanted.faults)
    if len({(a.design, a.revision) for a in wanted.about}) < len(wanted.about):
        raise InputRefused([Problem("/about", "a state of a design is named twice", allowed="each once")])
    subjects: list[Subject] = []
    documents: dict[str, Tree] = {}
    for about in wanted.about:
        check(state, person, about.design, "read")
        draft = state.store.draft(about.design)
        tree = draft.tree if about.revision is None else state.history.document(about.design, about.revision)
        name = f"{tree['name']}, " + (f"revision {about.revision}" if about.revision else "draft")
        name = name if name not in documents else f"{name} ({about.design[:8]})"
        documents[name] = tree
        subjects.append(Subject(name, about.design, about.revision, digest_of(tree)))
    asked = wanted.model_dump(exclude={"about"})
    record = state.campaigns.add("harm", by_whom(person), state.clock(), asked, subjects, documents, 0)
    state.campaigning.start(record)
    return _head(state, record)


@router.get("/{number}")
def campaign(number: CampaignId, person: ThePerson, state: TheState) -> CampaignView:
    """Return how far a campaign is, which parts and mistakes matter, and the worst two hundred cases."""
    record = _readable(state, person, number, "harm")
    judged, harmful, opening = state.campaigns.counts(number)
    rows = state.campaigns.rows(number, SHOWN, harmful=True)
    known = state.campaigning.mistakes(number) if rows else {}
    harm = state.campaigning.harm(number, judged)
    return CampaignView(_head(state, record), judged, harmful, opening, harm, [_row(r, known) for r in rows])


@router.post("/{number}/stop")
def stop_campaign(number: CampaignId, person: ThePerson, state: TheState) -> CampaignHead:
    """Let a campaign end with what is judged by then."""
    record = _readable(state, person, number, "harm")
    state.campaigning.stop(number)
    return _head(state, record)


@router.post("/{number}/go-on", status_code=202)
def go_on_with(number: CampaignId, person: ThePerson, state: TheState) -> CampaignHead:
    """Let a campaign that was stopped, or lost its server, go on where it was."""
    record = _readable(state, person, number, "harm")
    state.campaigning.start(record)
    return _head(state, record)


@router.delete("/{number}", status_code=204)
def remove_campaign(number: CampaignId, person: ThePerson, state: TheState) -> None:
    """Take a campaign out, with its rows."""
    record = _readable(state, person, number, "harm")
    for subject in record.subjects:
        check(state, person, subject.design_id, "edit")
    state.campaigning.stop(number)
    state.campaigns.remove(number)


@router.get("/{number}/rows.csv", response_class=StreamingResponse, responses={200: {"content": {"text/csv": {}}}})
def campaign_table(number: CampaignId, person: ThePerson, state: TheState) -> StreamingResponse:
    """Return every row as CSV (RFC 4180), the worst first, as `anabasis campaign --out` writes them."""
    _readable(state, person, number, "harm")

    def lines() -> Iterator[str]:
        yield from as_csv(read_row(said) for said in state.campaigns.every_row(number))

    return StreamingResponse(
        lines(),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="campaign-{number}.csv"'},
    )


@router.post("/{number}/stage")
def put_on_stage(
    number: CampaignId,
    key: Annotated[str, Body(embed=True, max_length=4000)],
    person: ThePerson,
    state: TheState,
) -> OnStage:
    """Say where a case is to be seen; for one with mistakes a what-if that has them is begun."""
    record = _readable(state, person, number, "harm")
    row = read_row(state.campaigns.row(number, key))
    subject = next(s for s in record.subjects if s.name == row.design)
    tree = state.campaigns.documents(number)[row.design]
    same = digest_of(state.store.draft(subject.design_id).tree) == subject.stamp
    if not row.faults and same:
        return OnStage(subject.design_id, list(row.failed))
    return _staged(state, person, subject.design_id, tree, list(row.failed), list(row.faults))


def _staged(state: State, person: Person, design_id: str, tree: Tree, failed: list[str], faults: list[str]) -> OnStage:
    check(state, person, design_id, "edit")
    spoilt = together(tree, [fault_named(tree, f).edit for f in faults]) if faults else tree
    known = mistakes_of(tree)
    said = [mistake_said(known[f].meaning, known[f].place, known[f].value) for f in faults]
    title = case_said(failed, said)[:80]
    for other in state.store.designs():
        if (other.branch_of, other.branch_title) == (design_id, title) and other.version == 1:
            return OnStage(other.id, failed)
    new = state.store.create(uuid4().hex, spoilt, state.clock(), Branch(design_id, title, "a campaign"))
    state.history.note(by_whom(person), "began a what-if", design_id, f"{title}, of a campaign", state.clock())
    return OnStage(new.id, failed)


def _readable(state: State, person: Person, number: int, kind: str) -> CampaignRecord:
    record = state.campaigns.get(number)
    if record.kind != kind:
        raise NoSuchThing(f"There is no campaign {number}.")
    for subject in record.subjects:
        check(state, person, subject.design_id, "read")
    return record


def _head(state: State, record: CampaignRecord) -> CampaignHead:
    going, asked = state.campaigning.get(record.id), record.asked
    ran: Any = going.state if going is not None else ("stopped" if record.state == "running" else record.state)
    known = going is not None and going.done >= record.done  # of two servers the one that is further
    done, total = (going.done, going.total) if going is not None and known else (record.done, record.total)
    left = going.left_s if going is not None and going.state == "running" else None
    return CampaignHead(
        record.id,
        record.author,
        record.at,
        list(record.subjects),
        asked["failures"],
        asked["faults"],
        asked["together"],
        ran,
        going.why if going is not None else "",
        done,
        max(total, done),
        left,
    )


def _row(said: dict[str, Any], known: dict[str, dict[str, Mistake]]) -> HarmRow:
    row = read_row(said)
    made = [known[row.design][f] for f in row.faults]
    return HarmRow(
        row.key,
        row.design,
        list(row.failed),
        made,
        list(row.opened),
        list(row.closed),
        row.lost,
        row.meanwhile,
        row.split_brain,
        row.refused,
    )


@dataclass(frozen=True)
class WayIn:
    """What together opens an expectation."""

    failed: list[str]
    mistakes: list[Mistake]
    faults: list[str]
    """The mistakes as the catalogue counts them."""


@dataclass(frozen=True)
class DepthRow:
    """How deep one closed expectation is defended."""

    name: str
    depth: int
    exact: bool
    words: str
    ways: list[WayIn]


@dataclass(frozen=True)
class DefenceView:
    """How deep closed expectations are defended, as far as that is known."""

    state: Literal["none", "running", "ended", "stopped", "failed"]
    why: str
    stale: bool
    """It is of another state of the draft."""
    done: int
    total: int
    left_s: float | None
    rows: list[DepthRow]


@defence.get("")
def depth_of_defence(design_id: str, state: TheState) -> DefenceView:
    """Return how deep each closed expectation of the draft is defended, as far as the newest search has come."""
    record = state.campaigns.newest(design_id, "defence")
    if record is None:
        return DefenceView("none", "", False, 0, 0, None, [])
    search, head = state.campaigning.search(record), _head(state, record)
    (known,) = state.campaigning.mistakes(record.id).values()
    rows = [
        DepthRow(
            d.expectation,
            d.depth,
            d.exact,
            depth_said(d.depth, d.exact),
            [WayIn(list(w.failed), [known[f] for f in w.faults], list(w.faults)) for w in d.ways],
        )
        for d in search.depths
    ]
    stale = digest_of(state.store.draft(design_id).tree) != record.subjects[0].stamp
    return DefenceView(head.state, head.why, stale, head.done, head.total, head.left_s, rows)


@defence.post("", status_code=202)
def look_for_depth(design_id: str, who: Author, state: TheState) -> DefenceView:
    """Search in the background how deep each closed expectation of the draft as it is now is defended; a search of this same draft goes on where it was."""
    draft = state.store.draft(design_id)
    stamp = digest_of(draft.tree)
    record = state.campaigns.newest(design_id, "defence")
    if record is None or record.subjects[0].stamp != stamp:
        if record is not None:
            state.campaigning.stop(record.id)
            state.campaigns.remove(record.id)
        name = str(draft.tree["name"])
        asked = {"failures": 1, "faults": 1, "together": True}
        record = state.campaigns.add(
            "defence", who, state.clock(), asked, [Subject(name, design_id, None, stamp)], {name: draft.tree}, 0
        )
    state.campaigning.start(record)
    return depth_of_defence(design_id, state)


@defence.post("/stop")
def stop_looking(design_id: str, state: TheState) -> DefenceView:
    """Let the search end with what is known."""
    record = state.campaigns.newest(design_id, "defence")
    if record is None:
        raise NoSuchThing("No search of this design has been begun.")
    state.campaigning.stop(record.id)
    return depth_of_defence(design_id, state)


class WayWanted(BaseModel):
    """A way in, to be seen."""

    model_config = ConfigDict(extra="forbid")
    failed: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=3)] = []
    faults: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=3)] = []


@defence.post("/stage")
def put_way_on_stage(
    design_id: str, wanted: Annotated[WayWanted, Body()], person: ThePerson, state: TheState
) -> OnStage:
    """Say where a way in is to be seen; for one with mistakes a what-if that has them is begun."""
    tree = state.store.draft(design_id).tree
    if not wanted.faults:
        return OnStage(design_id, wanted.failed)
    return _staged(state, person, design_id, tree, wanted.failed, wanted.faults)
