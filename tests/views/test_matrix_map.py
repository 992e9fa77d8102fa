"""The matrix as a map, the boxes' own addresses, and the rules that decide a pair."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import Loaded, apply, parse_design
from anabasis.probe import own_addresses
from anabasis.verdicts import deciding_rules
from anabasis.views import TILE, matrix, matrix_map, matrix_tile
from anabasis.views.matrix_map import GROUPINGS, letters
from bench.generated import generated_site
from tests.counts import law
from tests.sites import Tree, sites

LETTERS = {"all": "a", "some": "s", "none": "n"}


@law(300, 60)
@given(sites())
def test_letters_and_tiles_say_what_the_matrix_says(tree: Tree) -> None:
    """Every cell of the matrix is told by its letter, or by its tile where the letter leaves it open."""
    verdicts = Climb(parse_design(tree)).verdicts()
    small, large = matrix(verdicts), matrix_map(verdicts)
    assert [s.name for s in small.segments] == sorted(
        (u.name for u in large.axis), key=[s.name for s in small.segments].index
    )
    at = {u.name: k for k, u in enumerate(large.axis)}
    names = [u.name for u in large.axis][:TILE]
    told = {(names[t.row], names[t.column]): t.cell for t in matrix_tile(verdicts, names, names)}
    for one, row in zip(small.segments, small.cells, strict=True):
        for two, cell in zip(small.segments, row, strict=True):
            letter = large.rows[at[one.name]][at[two.name]]
            if cell is None:
                assert letter == "-"
            elif letter == "u":
                assert told[one.name, two.name] == cell
            else:
                assert letter == LETTERS[cell.verdict]


@pytest.mark.parametrize("grouping", GROUPINGS)
def test_folding_loses_no_segment(climb: Climb, grouping: str) -> None:
    """Each group folded: every segment is in one unit, and a unit's letter is that of its pairs where they agree."""
    open_ = matrix_map(climb.verdicts(), grouping)
    folded = matrix_map(climb.verdicts(), grouping, "like", frozenset(open_.groups))
    assert sorted(s for u in folded.axis for s in u.segments) == sorted(u.name for u in open_.axis)
    at = {u.name: k for k, u in enumerate(open_.axis)}
    for one, row in zip(folded.axis, folded.rows, strict=True):
        for two, letter in zip(folded.axis, row, strict=True):
            inside = {open_.rows[at[a]][at[b]] for a in one.segments for b in two.segments} - {"-"}
            assert (letter in inside) if len(inside) == 1 else letter.isdigit() or (letter == "-" and not inside)


def test_like_beside_like_is_the_order_of_letters(climb: Climb) -> None:
    """Within a group rows stand in the order of their letters, as sources first; in the plan's order they do not."""
    codes, at = letters(climb.verdicts().tally), climb.site.segments.by_name
    sorted_: dict[str, bool] = {}
    for order in ("plan", "like"):
        found = matrix_map(climb.verdicts(), "device", order)
        runs = [[codes[at[u.name]].tobytes() for u in found.axis if u.group == group] for group in found.groups]
        sorted_[order] = all(run == sorted(run) for run in runs)
    assert sorted_ == {"plan": False, "like": True}


def test_own_addresses_are_what_the_walk_answers(climb: Climb) -> None:
    """Keepers may use the console of their gateway and no other; visitors get names and ping from theirs, and nothing else anywhere."""
    own = own_addresses(climb.verdicts())
    at = {(c.interface, c.address): k for k, c in enumerate(own.columns)}
    said = {(c.segment, c.column): c.flows for c in own.cells}
    house, guests = at["hall.130", "10.64.130.1"], at["hall.160", "10.64.160.1"]
    assert said["keepers", house] == [
        {"sources": "10.64.130.0/24", "destinations": "10.64.130.1", "services": "ping, https, ssh"}
    ]
    assert [f["services"] for f in said["visitors", guests]] == ["dns, ping"]
    assert {column for segment, column in said if segment == "visitors"} == {guests}
    assert climb.walk("visitors", "10.64.130.1", "ping").outcome == "stopped"
    assert climb.walk("keepers", "10.64.130.1", "ssh").outcome == "answered"


def test_none_of_the_deciding_rules_can_go(demo: Loaded, climb: Climb) -> None:
    """Keepers to the pumps: switching off any rule of the list changes the pair's flows, switching off all others changes nothing."""
    a, b = climb.segment("keepers"), climb.segment("life-support")
    found = [d for d in deciding_rules(climb.sweep, a, b) if d.name != "the default"]
    assert [d.name for d in found] == ["keepers-watch-water", "keepers-drive-pumps"]
    flows = climb.sweep.flows(a, b)
    for one in found:
        less = Climb(apply(demo.raw, [{"op": "add", "path": one.pointer + "/enabled", "value": False}])[1])
        assert less.sweep.flows(a, b) != flows
    others = [f"/devices/4/rules/{k}" for k in range(15) if f"/devices/4/rules/{k}" not in {d.pointer for d in found}]
    few = Climb(apply(demo.raw, [{"op": "add", "path": p + "/enabled", "value": False} for p in others])[1])
    assert few.sweep.flows(a, b) == flows


@law(125, 25)
@given(st.integers(0, 10_000))
def test_generated_sites_are_valid_and_the_same_for_a_seed(seed: int) -> None:
    """The bench's sites: asked for twice they are one; each is a valid design with so many rules."""
    tree = generated_site(30, 40, seed)
    assert tree == generated_site(30, 40, seed)
    assert sum(len(getattr(d, "rules", [])) for d in parse_design(tree).devices) == 40


def test_an_edit_takes_over_what_it_does_not_touch() -> None:
    """One rule of one firewall edited: layers 1 to 3, classes and the other firewalls' blocks are the same objects."""
    tree = generated_site(40, 60)
    before = Climb(parse_design(tree))
    assert before.sweep.fingerprints is not None
    rules = tree["devices"][1]["rules"]
    k = next(i for i, r in enumerate(rules) if r["from"] != ["any"] and r["to"] != ["any"])
    turned = "drop" if rules[k]["action"] == "permit" else "permit"
    patch = [{"op": "replace", "path": f"/devices/1/rules/{k}/action", "value": turned}]
    after = before.edited(apply(tree, patch, before.design)[1])
    assert after.site.net is before.site.net
    assert after.sweep.planes is before.sweep.planes
    kept = [n for n, b in after.sweep.matrices[4].matrices.items() if b is before.sweep.matrices[4].matrices[n]]
    assert len(kept) > 0.8 * len(after.sweep.matrices[4].matrices)
    assert (after.sweep.fingerprints == Climb(parse_design(apply(tree, patch)[0])).sweep.fingerprints).all()
