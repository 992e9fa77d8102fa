"""From the design to the floor and back: build sheets, test sheets, what was ticked and seen, what explains it, and migrations."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Body, Query
from fastapi.responses import PlainTextResponse
from pydantic import BaseModel, Field

from anabasis.building import BuildSheet, Order, build_sheet, outage_rows, pairs_as_rows, sheet_rows
from anabasis.design import Tree
from anabasis.design.items import link
from anabasis.design.pointers import value_at
from anabasis.diagnosis import Answered, diagnose, diagnosis_rows
from anabasis.errors import InputRefused, NoSuchThing, Problem
from anabasis.interchange import drift, seen_of, take_over
from anabasis.server.access import Author, may
from anabasis.server.knowing import Known, KnownState
from anabasis.server.state import State, TheState
from anabasis.server.turns import InTurn
from anabasis.store import SheetRecord
from anabasis.testing import (
    answers_of,
    as_csv,
    key_of,
    proved_pairs,
    read_results,
    read_row,
    sheet_row,
    stale_lines,
    wrong_lines,
)

router = APIRouter(prefix="/designs/{design_id}", tags=["sheets"], dependencies=[may("read")], route_class=InTurn)
EDIT = [may("edit")]
Number = Annotated[int, Field(ge=1, le=2**31 - 1)]
Since = Annotated[str, Query(max_length=40, description="nothing, published, revision:N, or survey:N.")]
EMPTY: Tree = {"anabasis": 1, "name": "nothing", "devices": []}


@dataclass(frozen=True)
class BuildView:
    """The steps from one state to the draft."""

    since: str
    """What it leads from, in words."""
    order: Order
    steps: list[dict[str, Any]]
    outages: list[dict[str, Any]]
    seconds: int
    cut_s: int
    """For how long anybody is cut off at all."""
    outage_s: int
    """Summed over pairs."""
    live: bool
    operator: bool
    unreached: list[str]


@dataclass(frozen=True)
class TestsView:
    """The test sheet of the draft, or how far it is."""

    __test__ = False

    state: KnownState
    done: int
    total: int
    tests: list[dict[str, Any]]
    telling: list[str]
    bound: int
    proved: bool
    faults: int
    unseen: list[dict[str, Any]]
    untested: list[str]


@dataclass(frozen=True)
class SheetHead:
    """One sheet, as a list shows it."""

    number: int
    kind: str
    who: str
    at: datetime
    since: str
    lines: int
    marked: int
    wrong: int
    """Lines of which something else was seen than expected."""


@dataclass(frozen=True)
class SheetView:
    """One sheet with its marks."""

    number: int
    kind: str
    who: str
    at: datetime
    about: dict[str, Any]
    lines: list[dict[str, Any]]
    marks: dict[str, dict[str, Any]]
    stale: list[str]
    """Lines that a later edit has given another expected result, or taken out."""
    wrong: list[str]
    same_draft: bool
    """Whether the draft is as it was."""


@dataclass(frozen=True)
class DiagnosisView:
    """What explains what was seen."""

    state: KnownState
    done: int
    total: int
    explanations: list[dict[str, Any]]
    complete: bool
    next_test: dict[str, Any] | None
    strange: list[str]


@dataclass(frozen=True)
class Proved:
    """Which pairs of segments the last run of tests has proved, and which it has shown to be otherwise."""

    number: int | None
    at: datetime | None
    proved: list[dict[str, str]]
    wrong: list[dict[str, str]]
    pairs: int
    """Ordered pairs of segments that could be."""


@router.get("/draft/build")
def build(design_id: str, state: TheState, since: Since = "published", order: Order = "boxes") -> BuildView:
    """Work out the steps that lead to the draft: from nothing, from a published revision, or from what a survey saw."""
    said, one = _since(state, design_id, since)
    return build_view(said, build_sheet(one, state.store.draft(design_id).tree, order))


def build_view(said: str, sheet: BuildSheet) -> BuildView:
    """Return a build sheet as it is sent. `said`: what it leads from, in words."""
    sums = sheet.seconds, sheet.cut_s, sheet.outage_s
    return BuildView(
        said,
        sheet.order,
        sheet_rows(sheet),
        outage_rows(sheet),
        *sums,
        sheet.live,
        sheet.operator,
        list(sheet.unreached),
    )


def _since(state: State, design_id: str, since: str) -> tuple[str, Tree]:
    """Return what a sheet leads from, in words, and as a document. Raises InputRefused, or NoSuchThing."""
    word, _, text = since.partition(":")
    draft = state.store.draft(design_id)
    if word == "nothing":
        return "nothing", EMPTY | {"name": draft.tree.get("name", "")}
    if word == "published" and not text:
        known = state.history.revisions(design_id)
        if not known:
            return "nothing", EMPTY | {"name": draft.tree.get("name", "")}
        word, text = "revision", str(known[0].number)
    if word in ("revision", "survey") and text.isascii() and text.isdigit() and len(text) < 10:
        if word == "revision":
            return f"revision {text}", state.history.document(design_id, int(text))
        _, said = state.surveys.get(design_id, int(text))
        seen = [seen_of(held["data"], box, held["by_objects"]) for box, held in sorted(said.items())]
        return f"survey {text}", take_over(draft.tree, drift(draft.tree, seen))
    raise InputRefused(
        [Problem("/since", "there is no such state", repr(since), "nothing, published, revision:N, survey:N")]
    )


@router.get("/draft/tests")
def asked(design_id: str, state: TheState, every: bool = False) -> TestsView:
    """Return the test sheet of the draft; what faults show is worked out in the background, and told how far it is. `every`: all that could be made."""
    return _tests_view(_known(state, design_id), every)


@router.get("/draft/tests.csv", response_class=PlainTextResponse, responses={200: {"content": {"text/csv": {}}}})
def asked_csv(design_id: str, state: TheState) -> PlainTextResponse:
    """Return the test sheet as CSV, to print and to fill in. 404 until it is worked out."""
    known = _known(state, design_id)
    if known.sheet is None:
        raise NoSuchThing("The test sheet is being worked out; ask for draft/tests to see how far it is.")
    return PlainTextResponse(as_csv([sheet_row(t) for t in known.sheet.tests]), media_type="text/csv")


@router.post("/draft/tests/stop", dependencies=EDIT)
def stop_asking(design_id: str, state: TheState) -> TestsView:
    """Stop working out what faults show."""
    known = _known(state, design_id)
    state.knowing.stop(design_id)
    return _tests_view(known, False)


def _known(state: State, design_id: str) -> Known:
    draft = state.store.draft(design_id)
    return state.knowing.of(design_id, draft.stamp, lambda: draft.tree)


def _tests_view(known: Known, every: bool) -> TestsView:
    sheet, watch = known.sheet, known.watch
    if sheet is None:
        return TestsView(known.state, watch.done, watch.total, [], [], 0, False, 0, [], [])
    rows = [sheet_row(t) for t in (sheet.pool.tests if every else sheet.tests)]
    unseen = [{"kind": f.kind, "pointers": list(f.guilty)} for f in sheet.unseen]
    return TestsView(
        "ended",
        watch.total,
        watch.total,
        rows,
        sorted(sheet.telling),
        sheet.bound,
        sheet.proved,
        len(sheet.pool.faults),
        unseen,
        list(sheet.untested),
    )


class NewSheet(BaseModel):
    """A sheet to be worked off: of the draft as it is."""

    kind: Literal["build", "test"]
    since: str = Field(default="published", max_length=40)
    order: Order = "boxes"


@router.post("/sheets", status_code=201, dependencies=EDIT)
def keep(design_id: str, wanted: Annotated[NewSheet, Body()], who: Author, state: TheState) -> SheetView:
    """Keep a sheet of the draft as it is, so that it can be worked off on site. A test sheet has to be worked out first."""
    draft = state.store.draft(design_id)
    about: dict[str, Any] = {"stamp": draft.stamp, "name": draft.tree.get("name", ""), "version": draft.version}
    if wanted.kind == "build":
        view = build(design_id, state, wanted.since, wanted.order)
        about |= {
            "since": view.since,
            "order": view.order,
            "seconds": view.seconds,
            "cut_s": view.cut_s,
            "outages": view.outages,
        }
        lines = [
            {k: v for k, v in s.items() if k not in ("edit", "undo_edit")} | {"id": str(s["step"])} for s in view.steps
        ]
    else:
        known = _known(state, design_id)
        if known.sheet is None:
            raise NoSuchThing("The test sheet is being worked out; ask for draft/tests to see how far it is.")
        about |= {"since": "", "bound": known.sheet.bound}
        lines = [sheet_row(t) for t in known.sheet.tests]
    return _sheet_view(state, design_id, state.sheets.add(design_id, wanted.kind, who, state.clock(), about, lines))


@router.get("/sheets")
def listed(design_id: str, state: TheState) -> list[SheetHead]:
    """List the sheets of the design, the newest first."""
    return [
        SheetHead(
            r.number, r.kind, r.author, r.at, str(r.about.get("since", "")), len(r.lines), len(r.marks), len(_wrong(r))
        )
        for r in state.sheets.all(design_id)
    ]


@router.get("/sheets/proved")
def proved(design_id: str, state: TheState) -> Proved:
    """Return which pairs of segments the last test sheet with results has proved."""
    draft = state.store.draft(design_id)
    segments = [s for s in state.climb(draft).site.segments.all if s.kind != "transit"]
    count = len(segments) * (len(segments) - 1)
    for record in state.sheets.all(design_id):
        if record.kind == "test" and record.marks:
            good, bad = (pairs_as_rows(side) for side in proved_pairs(record.lines, record.marks))
            return Proved(record.number, record.at, good, bad, count)
    return Proved(None, None, [], [], count)


@router.get("/sheets/{number}")
def read(design_id: str, number: Number, state: TheState) -> SheetView:
    """Return a sheet with what was ticked and seen, and what is stale since."""
    return _sheet_view(state, design_id, state.sheets.get(design_id, number))


@router.get(
    "/sheets/{number}/results.csv", response_class=PlainTextResponse, responses={200: {"content": {"text/csv": {}}}}
)
def results_csv(design_id: str, number: Number, state: TheState) -> PlainTextResponse:
    """Return a test sheet with its results as CSV."""
    record = state.sheets.get(design_id, number)
    rows = [row | {"seen": record.marks.get(row["id"], {}).get("value", "")} for row in record.lines]
    return PlainTextResponse(as_csv(rows), media_type="text/csv")


class Mark(BaseModel):
    """What was done, or seen, at one line."""

    line: str = Field(max_length=40)
    value: str = Field(default="", max_length=200, description="Of a step `done` or nothing; of a test what was seen.")
    note: str = Field(default="", max_length=2000)
    at: datetime | None = Field(
        default=None, description="When, where it was written down before it could be sent; left out = now."
    )


@router.post("/sheets/{number}/marks", dependencies=EDIT)
def mark(
    design_id: str, number: Number, marks: Annotated[list[Mark], Body(max_length=5000)], who: Author, state: TheState
) -> SheetView:
    """Keep what was ticked or seen; who wrote last at a line counts. Sent twice, it is the same."""
    record = state.sheets.get(design_id, number)
    rows = {row["id"]: row for row in record.lines}
    now = state.clock()
    kept: dict[str, dict[str, Any]] = {}
    problems: list[Problem] = []
    for k, one in enumerate(marks):
        value = one.value.strip()
        row = rows.get(one.line)
        if row is None:
            problems.append(
                Problem(f"/{k}/line", "the sheet has no such line", repr(one.line), f"{next(iter(rows), '')} and so on")
            )
        elif record.kind == "build" and value not in ("", "done"):
            problems.append(Problem(f"/{k}/value", "a step is done, or not", repr(value), "done, or nothing"))
        elif record.kind == "test" and value and read_row(row, value) is None:
            problems.append(
                Problem(
                    f"/{k}/value",
                    "this is nothing that such a test shows",
                    repr(value),
                    "answer, none, up, down, or an address",
                )
            )
        at = min(one.at, now) if one.at is not None and one.at.tzinfo is not None else now
        kept[one.line] = {"value": value, "note": one.note, "at": at.astimezone(UTC).isoformat()}
    if problems:
        raise InputRefused(problems)
    return _sheet_view(state, design_id, state.sheets.mark(design_id, number, who, kept))


class Results(BaseModel):
    """Results as CSV, as `tests.csv` is with the column `seen` filled in."""

    text: str = Field(max_length=4_000_000)


@router.post("/sheets/{number}/results", dependencies=EDIT)
def results(
    design_id: str, number: Number, given: Annotated[Results, Body()], who: Author, state: TheState
) -> SheetView:
    """Read results from CSV into a test sheet; lines are told by where one stands, what one does and to whom."""
    record = state.sheets.get(design_id, number)
    known = _known(state, design_id)
    if known.sheet is None:
        raise NoSuchThing("The tests of this draft are being worked out; ask for draft/tests to see how far they are.")
    found, _ = read_results(given.text, known.sheet.pool)
    by_key = {key_of(row): row["id"] for row in record.lines}
    now = state.clock().astimezone(UTC).isoformat()
    kept = {
        by_key[k]: {"value": r.text, "note": "", "at": now} for r in found if (k := key_of(sheet_row(r.test))) in by_key
    }
    return _sheet_view(state, design_id, state.sheets.mark(design_id, number, who, kept))


@router.get("/sheets/{number}/diagnosis")
def diagnosis(design_id: str, number: Number, state: TheState, pairs: bool = True) -> DiagnosisView:
    """Return the mistakes that explain what was seen, the best first, and the test that tells them apart."""
    record = state.sheets.get(design_id, number)
    known = _known(state, design_id)
    if known.sheet is None:
        return DiagnosisView(known.state, known.watch.done, known.watch.total, [], False, None, [])
    pool = known.sheet.pool
    answers = [Answered(test, seen) for test, seen in answers_of(record.lines, record.marks, pool)]
    found = diagnose(pool, answers, known.scene if pairs else None, pairs)
    following = next((sheet_row(t) for t in pool.tests if t.id == found.next_test), None)
    tree = known.scene.tree if known.scene is not None else {}
    rows = (
        [r | {"where": [asdict(w) for w in _where(tree, r["places"])]} for r in diagnosis_rows(found)]
        if answers
        else []
    )
    return DiagnosisView(
        "ended", known.watch.total, known.watch.total, rows, found.complete, following, list(found.strange)
    )


@dataclass(frozen=True)
class Where:
    """One thing to look at."""

    pointer: str
    title: str


def _where(tree: Tree, pointers: list[str]) -> list[Where]:
    """Return what to look at, by its name; what a mistake has taken out is looked for where it stood."""
    return [
        Where(p, f"{k.kind} {k.title}".strip())
        for p in pointers
        if value_at(tree, p) is not None
        for k in [link(tree, p)]
    ]


def _wrong(record: SheetRecord) -> list[str]:
    return wrong_lines(record.lines, record.marks) if record.kind == "test" else []


def _sheet_view(state: State, design_id: str, record: SheetRecord) -> SheetView:
    draft = state.store.draft(design_id)
    same = record.about.get("stamp") == draft.stamp
    stale: list[str] = []
    if record.kind == "test" and not same:
        known = _known(state, design_id)
        if known.sheet is not None:
            stale = stale_lines(record.lines, known.sheet.pool)
        else:
            stale = [row["id"] for row in record.lines if row["id"] in record.marks]
    return SheetView(
        record.number,
        record.kind,
        record.author,
        record.at,
        record.about,
        record.lines,
        record.marks,
        stale,
        _wrong(record),
        same,
    )
