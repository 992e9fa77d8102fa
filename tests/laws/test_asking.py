"""Questions about random sites: what nobody asked for is open, an answer takes the question away; whatever has a name is found by it."""

from __future__ import annotations

from hypothesis import assume, given
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import Tree, all_links, apply, parse_design
from anabasis.design.expecting import expect
from anabasis.finder import find
from tests.counts import law
from tests.sites import sites


@law(400, 15)
@given(sites(), st.data())
def test_what_nobody_asked_for_is_open_and_an_answer_ends_it(tree: Tree, data: st.DataObject) -> None:
    """Whichever the answer; no pair twice, and no transit."""
    climb = Climb(parse_design(tree))
    listed = [(p.source, p.target) for p in climb.unasked.open]
    assert len(set(listed)) == len(listed)
    opened = {(v.source, v.target) for v in climb.verdicts().all if v.verdict != "none"}
    assert set(listed) <= opened
    transits = {s.name for s in climb.site.segments.all if s.kind == "transit"}
    assert not transits & {name for pair in listed for name in pair}
    assume(listed)
    one = data.draw(st.sampled_from(climb.unasked.open))
    for said in (one.expectation, one.closed):
        if said is None:
            continue
        after = Climb(apply(tree, expect(tree, [said]))[1])
        assert (one.source, one.target) not in {(p.source, p.target) for p in after.unasked.open}
        assert after.expectations[-1].holds == (said is one.expectation)


@law(400, 15)
@given(sites(), st.data())
def test_whatever_has_a_name_is_found_by_it(tree: Tree, data: st.DataObject) -> None:
    """The thing itself is on the page; nothing is on it twice, and a page is never longer than was asked."""
    climb = Climb(parse_design(tree))
    link = data.draw(st.sampled_from(all_links(tree)))
    hits = find(climb, tree, f"{link.kind} {link.title}", most=200)
    assert link.pointer in [h.pointer for h in hits]
    assert len({(h.sort, h.pointer, h.title) for h in hits}) == len(hits)
    most = data.draw(st.integers(1, 9))
    assert [h for h in hits[:most] if h.sort == "thing"] == [
        h for h in find(climb, tree, f"{link.kind} {link.title}", most=most) if h.sort == "thing"
    ]
