"""Which lost pairs are judged where there are very many: those judged show every cause that all of them show."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.design import apply, parse_design
from anabasis.facts import Cause, Layer
from anabasis.verdicts import Verdicts, verdicts
from bench.generated import generated_site
from bench.reach import SIZES, edits

RAW = generated_site(*SIZES["S"])


def roots(judged: Verdicts) -> set[Cause]:
    """Return what is broken below the rules."""
    causes = {v.cause.root for v in judged.lost if v.cause is not None and v.tone == "broken"}
    return {c for c in causes if c.layer not in (Layer.RULE, Layer.NAT)}


@pytest.mark.parametrize("edit", ["a tag out", "a route out"])
def test_a_few_show_what_all_show(edit: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """No broken thing goes unseen because only some pairs are walked."""
    _, design = apply(RAW, edits(RAW)[edit])
    few = Climb(design).verdicts()
    told = {(c.wrong, c.guilty) for c in roots(few)}
    monkeypatch.setattr(verdicts, "JUDGED", 10**9)
    whole = Climb(design).verdicts()
    assert told == {(c.wrong, c.guilty) for c in roots(whole)}
    assert len(few.lost) < len(whole.lost) / 2


def test_no_segment_is_lost_to_itself() -> None:
    """A pair is two segments."""
    lost = Climb(parse_design(RAW)).verdicts().lost
    assert lost
    assert all(v.source != v.target for v in lost)
