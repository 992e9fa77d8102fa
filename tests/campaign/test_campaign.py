"""Campaigns: the same rows however they are worked out, by whom, and after whatever happened meanwhile."""

from __future__ import annotations

import json
import os
import signal
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from distributed import LocalCluster

from anabasis.campaign import Progress, Row, Rows, cases_of, check_sizes, digest_of, run
from anabasis.campaign.cases import Case, fault_named
from anabasis.campaign.judging import Judge
from anabasis.climb import Climb
from anabasis.design import load_file, parse_design
from anabasis.design.edits import patched
from anabasis.errors import InputRefused, UnknownPlace, WorkersLost
from anabasis.faults import faults_of
from tests.conftest import ROOT
from tests.processes import multiprocessing_children
from tests.sites import Tree
from tests.sound import sound_site


def plain(tree: Any) -> Any:
    """Return a document as JSON has it."""
    return json.loads(json.dumps(tree))


DESIGNS: dict[str, Tree] = {f"s{k}": plain(sound_site(k)) for k in (3, 106)}


def some() -> list[Case]:
    """Return cases of two designs: all failures, every fifth mistake."""
    return [c for name, tree in DESIGNS.items() for k, c in enumerate(cases_of(name, tree)) if c.failed or k % 5 == 0]


def bare(rows: list[Row]) -> dict[str, Row]:
    """Return rows by their case, without what they took."""
    return {r.key: replace(r, seconds=0.0) for r in rows}


def test_cases_are_counted_out() -> None:
    """Nothing, each failure, each mistake; of two at once each pair; of three a sample, the same for the same number; each named once."""
    tree = DESIGNS["s3"]
    ones = list(cases_of("x", tree))
    faults = len(list(faults_of(tree, opening=True)))
    assert sum(len(c.faults) for c in ones) == faults
    assert ones[0] == Case("x")
    parts = len(ones) - 1 - faults
    twos = list(cases_of("x", tree, failures=2, faults=0))
    assert len(twos) == 1 + parts + parts * (parts - 1) // 2
    drawn = [list(cases_of("x", tree, failures=3, faults=0, sample=40, seed=s)) for s in (1, 1, 2)]
    assert drawn[0] == drawn[1] != drawn[2]
    assert sum(len(c.failed) == 3 for c in drawn[0]) == 40
    both = list(cases_of("x", tree, together=True))
    assert len(both) == 1 + parts + faults + parts * faults
    for many in (ones, twos, *drawn, both):
        assert len({c.key for c in many}) == len(many)


def test_a_row_says_what_the_design_says() -> None:
    """Of every kind of mistake one: expectations as the climb of the spoilt design has them; and of failures as `failover` has them."""
    tree = plain(load_file(ROOT / "demo" / "tidewrack.yaml").raw)
    judge = Judge(tree)
    sound = {j.name for j in judge.sound.expectations if j.holds}
    for kind in sorted({f.kind for f in faults_of(tree)})[::3]:
        row = judge.judge(Case("demo", faults=(f"{kind}#0",)))
        climb = Climb(parse_design(patched(tree, fault_named(tree, f"{kind}#0").edit)))
        assert {*row.opened, *row.closed} == {j.name for j in climb.expectations if not j.holds and j.name in sound}, (
            kind
        )
    for part in ("gate-a", "hall-sw"):
        row = judge.judge(Case("demo", failed=(part,)))
        event = Climb(parse_design(tree)).failover([part])
        assert {*row.opened, *row.closed} == set(event.settled.broken)
        assert row.lost == len(event.settled.lost)


def test_what_must_stay_closed_and_opens() -> None:
    """Harm of its own kind, and the worst: a mistake that puts an address where nobody stands any more, and a failure that does."""
    tree = plain(load_file(ROOT / "demo" / "tidewrack.yaml").raw)
    tree["expectations"].append({"name": "keepers not cameras", "from": "keepers", "to": "cameras", "expect": "closed"})
    judge = Judge(tree)
    cases = [
        Case("demo", faults=("tag-missing#0",)),
        Case("demo", failed=("recorder:1--tank-sw:6",)),
        Case("demo", failed=("gate-a",)),
    ]
    rows = [judge.judge(c) for c in cases]
    assert [r.opened for r in rows] == [("keepers not cameras",), ("keepers not cameras",), ()]
    assert max(rows, key=lambda r: r.harm).opened
    for row in rows[:2]:
        assert row.harm > rows[2].harm


@pytest.mark.slow
def test_one_process_and_two_workers_say_the_same() -> None:
    """In whatever order; told how far it is; and no process is left behind."""
    before = set(multiprocessing_children())
    told: list[Progress] = []
    cases = some()
    one = bare(list(run(DESIGNS, cases)))
    two = bare(list(run(DESIGNS, cases, workers=2, tell=lambda p: bool(told.append(p)) or True)))
    assert one == two
    assert set(one) == {c.key for c in cases}
    assert told[-1].done == told[-1].total == len(cases)
    assert set(multiprocessing_children()) <= before


@pytest.mark.slow
def test_a_worker_killed_in_the_middle_changes_nothing() -> None:
    """Its chunks are judged by the other."""
    cases = some()
    one = bare(list(run(DESIGNS, cases)))
    killed: list[int] = []
    rows = []
    for row in run(DESIGNS, cases, workers=2):
        rows.append(row)
        if not killed and len(rows) > 8:
            killed.append(multiprocessing_children()[-1])
            os.kill(killed[0], signal.SIGKILL)
    assert killed
    assert bare(rows) == one
    assert len(rows) == len(cases)


@pytest.mark.slow
def test_a_scheduler_that_is_gone_is_told() -> None:
    """With what came until then; nobody waits for ever."""
    with LocalCluster(n_workers=1, threads_per_worker=1, host="127.0.0.1", dashboard_address="127.0.0.1:0") as cluster:
        rows = run(DESIGNS, some(), scheduler=cluster.scheduler_address)
        assert next(rows).key
        cluster.close()
        with pytest.raises(WorkersLost):
            list(rows)


@pytest.mark.parametrize("name", ["rows.csv", "rows.jsonl"])
def test_a_campaign_goes_on_where_it_was(tmp_path: Path, name: str) -> None:
    """Stopped after ten rows, the last of them cut off in the middle; begun again it judges what is missing, and no row is there twice."""
    tree = DESIGNS["s3"]
    cases = [c for k, c in enumerate(cases_of("s3", tree)) if k % 9 == 0]
    path = tmp_path / name
    first = Rows(path)
    for row, _ in zip(run({"s3": tree}, cases), range(10), strict=False):
        first.add(row)
    first.close()
    text = path.read_text(encoding="utf-8")
    path.write_text(text[:-20], encoding="utf-8")
    again = Rows(path)
    assert len(again.held) == 9
    left = [c for c in cases if (c.key, digest_of(tree)) not in again.done]
    assert len(left) == len(cases) - 9
    for row in run({"s3": tree}, left):
        again.add(row)
    again.close()
    whole = Rows(path)
    whole.close()
    assert bare(whole.held) == bare(list(run({"s3": tree}, cases)))
    assert len(whole.held) == len(cases)
    for row in whole.held[:5]:  # each is made again from what it says
        assert replace(Judge(tree).judge(Case(row.design, row.failed, row.faults)), seconds=0.0) == replace(
            row, seconds=0.0
        )


def test_what_cannot_be_is_refused(tmp_path: Path) -> None:
    """Files of another kind, sizes nobody can wait for, mistakes that are none, an address where nobody is."""
    with pytest.raises(InputRefused, match="ends in"):
        Rows(tmp_path / "rows.xlsx")
    other = tmp_path / "other.csv"
    other.write_text("a,b\\n1,2\\n".replace("\\n", "\n"), encoding="utf-8")
    with pytest.raises(InputRefused, match="no file of a campaign"):
        Rows(other)
    assert other.read_text(encoding="utf-8") == "a,b\n1,2\n", "what is somebody else's is left alone"
    with pytest.raises(InputRefused, match="0 to 3"):
        check_sizes(4, 0)
    for name in ("no-such#0", "tag-missing#99999", "tag-missing"):
        with pytest.raises(UnknownPlace):
            fault_named(DESIGNS["s3"], name)


@pytest.mark.slow
def test_nobody_answers_at_the_address() -> None:
    """Said within seconds, not waited for."""
    with pytest.raises(InputRefused, match="no scheduler"):
        list(run(DESIGNS, some()[:2], scheduler="tcp://127.0.0.1:9"))


@pytest.mark.parametrize("name", ["rows.csv", "rows.jsonl"])
def test_odd_names_come_back(tmp_path: Path, name: str) -> None:
    """Names with separators, quotes, line feeds' signs, and what a spreadsheet takes for a formula: as they were, and no formula in the file."""
    odd = ('=1+1; "a", b', "-x", "\u00e4 | b")
    row = Row("@site", "0" * 16, odd, odd[:1], odd[1:], (), 1, 2, True, False, 0.5)
    one = Rows(tmp_path / name)
    one.add(row)
    one.close()
    two = Rows(tmp_path / name)
    two.close()
    assert two.held == [row]
    cells = (tmp_path / name).read_text(encoding="utf-8").splitlines()[-1]
    assert not cells.startswith(("=", "@", "-", "+"))
