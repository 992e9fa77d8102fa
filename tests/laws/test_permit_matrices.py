"""All pairs at once are what each pair is by itself; a print tells flows apart and nothing else."""

from __future__ import annotations

import numpy as np
from hypothesis import given, note
from hypothesis import strategies as st

from anabasis.allpairs import Sweep
from anabasis.climb import Climb
from anabasis.design import parse_design
from anabasis.policy import ServiceSpan
from tests.counts import law
from tests.sites import Tree, sites

SERVICES: list[frozenset[ServiceSpan] | None] = [
    None,
    frozenset({(6, 443, 443)}),
    frozenset({(6, 0, 1023), (17, 53, 53)}),
    frozenset({(1, 0, 255), (58, 0, 255)}),
]


@law(1500, 70)
@given(sites(), st.sampled_from(SERVICES), st.sampled_from((None, 4, 6)))
def test_the_tally_is_what_every_pair_says(
    tree: Tree, services: frozenset[ServiceSpan] | None, family: int | None
) -> None:
    """Some, full and led, for every ordered pair, over the families that carry the services."""
    sweep = Climb(parse_design(tree)).sweep
    tally = sweep.tally(services, family)
    names = [s.name for s in sweep.site.segments.all]
    for a, b in sweep.pairs:
        asked = sweep.services.mask(services)
        spaces = [s for s in sweep.pair(a, b) if family in (None, s.family) and (asked & s.possible).any()]
        note(f"{names[a]} to {names[b]}")
        assert tally.known[a, b] == bool(spaces)
        wanted = [s.allowed[:, :, asked & s.possible] for s in spaces]
        assert tally.some[a, b] == any(w.any() for w in wanted)
        if spaces:
            assert tally.full[a, b] == all(w[:, s.real].all() for s, w in zip(spaces, wanted, strict=True))
            assert tally.led[a, b] == all(s.real.all() and s.routed.all() for s in spaces)


@law(1000, 40)
@given(sites(), st.data())
def test_prints_are_alike_where_flows_are(tree: Tree, data: st.DataObject) -> None:
    """After a rule is switched off, or one is put in that cuts classes anew: fingerprints differ exactly where flows do, kept parts or not."""
    walls = [d for d in tree["devices"] if d["kind"] == "firewall"]
    one = Climb(parse_design(tree))
    before = one.sweep
    assert before.fingerprints is not None
    if walls:
        wall = data.draw(st.sampled_from(walls))
        zones = [z["name"] for z in wall.get("zones", [])] or ["any"]
        rules = wall.setdefault("rules", [])
        at = data.draw(st.integers(0, len(rules)))
        if rules and at < len(rules) and data.draw(st.booleans()):
            rules[at]["enabled"] = not rules[at].get("enabled", True)
        else:
            drawn = data.draw(st.sampled_from((["any"], ["10.0.0.0/9"], ["10.0.0.7"])))
            action = data.draw(st.sampled_from(("permit", "drop")))
            rules.insert(
                at,
                {
                    "name": "drawn",
                    "from": [zones[0]],
                    "to": ["any"],
                    "sources": drawn,
                    "services": ["tcp/81-90"],
                    "action": action,
                },
            )
    design = parse_design(tree)
    fresh, kept = Sweep(Climb(design).site), one.edited(design).sweep
    assert (fresh.fingerprints == kept.fingerprints).all()
    for a, b in before.pairs:
        then, now = before.flows(a, b), fresh.flows(a, b)
        same = not then.minus(now) and not now.minus(then)
        note(f"{a} to {b}: {then} {now}")
        assert (before.fingerprints[a, b] == fresh.fingerprints[a, b]) == same
    assert np.array_equal(fresh.tally().some, kept.tally().some)
