"""One fault put in, the sheet answered on the faulty site: diagnosis names it."""

from __future__ import annotations

import json
from functools import cache
from random import Random
from typing import Any

import pytest

from anabasis.diagnosis import Answered, diagnose, diagnosis_rows
from anabasis.diagnosis.explaining import Diagnosis
from anabasis.errors import InputRefused
from anabasis.facts import Shown
from anabasis.testing import Scene, Signatures, TestSheet, ask, scene_of, signatures
from anabasis.testing.sheet import sheet_of
from tests.counts import count
from tests.sound import sound_site

SITES = [3, 106, *range(200, 1198)]
FAULTS, PAIRS = 8, 4
"""How many single faults, and pairs, are put into a site."""
FIRST, THREE, TEN = 0.90, 0.98, 0.80


def plain(tree: Any) -> Any:
    """Return a document as JSON has it."""
    return json.loads(json.dumps(tree))


@cache
def site(seed: int) -> tuple[Scene, Signatures, TestSheet]:
    """Return a sound site with its sheet."""
    scene = scene_of(plain(sound_site(seed)))
    pool = signatures(scene, ask(scene))
    return scene, pool, sheet_of(scene, pool, 2)


def seen(seed: int, *faults: int) -> list[Answered] | None:
    """Return the sheet answered with faults in the site; None where they do not go together."""
    scene, pool, sheet = site(seed)
    try:
        shown = scene.shows(sheet.tests, *(pool.faults[f].edit for f in faults))
    except InputRefused:
        return None
    return [Answered(t.id, s) for t, s in zip(sheet.tests, shown, strict=True)]


def rank(found: Diagnosis, pool: Signatures, *faults: int) -> int | None:
    """Return at which place an explanation is told; those that no test of all tells from it count as it."""
    wanted = {id(pool.faults[f]) for f in faults}
    places = [k for k, e in enumerate(found.explanations) for g in (e.faults, *e.alike) if {id(f) for f in g} == wanted]
    return min(places, default=None)


def visible(seed: int) -> list[int]:
    """Return the faults that some test shows."""
    _, pool, sheet = site(seed)
    unseen = {id(f) for f in sheet.unseen}
    return [k for k, f in enumerate(pool.faults) if id(f) not in unseen]


@pytest.mark.slow
def test_one_fault_is_named() -> None:
    """First in nine of ten, among the first three in 98 of 100."""
    ranks: list[int | None] = []
    for seed in SITES[: count(1000, 2)]:
        _, pool, _ = site(seed)
        for fault in Random(seed).sample(visible(seed), FAULTS):
            answers = seen(seed, fault)
            assert answers is not None
            ranks.append(rank(diagnose(pool, answers), pool, fault))
    first, three = (sum(r is not None and r < n for r in ranks) / len(ranks) for n in (1, 3))
    print(len(ranks), first, three)
    assert first >= FIRST - (0.1 if len(ranks) < 100 else 0)
    assert three >= THREE - (0.05 if len(ranks) < 100 else 0)


@pytest.mark.slow
def test_two_faults_are_among_the_first_ten() -> None:
    """In four of five."""
    ranks: list[int | None] = []
    for seed in SITES[: count(200, 2)]:
        scene, pool, _ = site(seed)
        rng = Random(seed)
        for _ in range(PAIRS):
            one, two = rng.sample(visible(seed), 2)
            answers = seen(seed, one, two)
            if answers is not None:
                found = diagnose(pool, answers, scene)
                single = found.complete and len(found.explanations[0].faults) < 2  # one of the two hides the other
                ranks.append(0 if single else rank(found, pool, one, two))
    good = sum(r is not None and r < 10 for r in ranks) / len(ranks)
    print(len(ranks), good)
    assert good >= TEN - (0.2 if len(ranks) < 50 else 0)


def test_a_sound_site_has_nothing_wrong() -> None:
    """All as expected: nothing explains it best, and no test is left to make."""
    _, pool, sheet = site(SITES[0])
    found = diagnose(pool, [Answered(t.id, t.expect) for t in sheet.tests])
    assert found.complete
    assert found.explanations[0].faults == ()


def test_the_next_test_tells_apart() -> None:
    """Asked one after the other, from one answer on: the fault is found with fewer tests than the sheet has."""
    scene, pool, _ = site(SITES[0])
    fault = visible(SITES[0])[5]
    all_shown = dict(zip([t.id for t in pool.tests], scene.shows(pool.tests, pool.faults[fault].edit), strict=True))
    wrong = next(t.id for t in pool.tests if all_shown[t.id] != t.expect)
    answers = [Answered(wrong, all_shown[wrong])]
    for _ in range(12):
        found = diagnose(pool, answers)
        if found.next_test is None:
            break
        assert found.next_test not in {a.test for a in answers}
        answers.append(Answered(found.next_test, all_shown[found.next_test]))
    place = rank(diagnose(pool, answers), pool, fault)
    assert place is not None
    assert place < 3


def test_what_nothing_explains_is_said() -> None:
    """With what comes nearest; a value that no fault shows is named."""
    _, pool, sheet = site(SITES[0])
    answers = [Answered(t.id, Shown("address", "192.0.2.0/24")) for t in sheet.tests]
    found = diagnose(pool, answers)
    assert not found.complete
    assert set(found.strange) == {t.id for t in sheet.tests}
    assert found.explanations
    assert all(r["explains"] < r["of"] for r in diagnosis_rows(found))
