"""What flows weigh: the same however they are cut into classes."""

from __future__ import annotations

import numpy as np

from anabasis.allpairs.fingerprints import Weights
from anabasis.climb import Climb
from anabasis.design import Loaded, apply


def test_what_is_cut_is_weighed_anew(demo: Loaded) -> None:
    """After an edit that cuts classes in two, what is taken over and what is weighed anew is what weighing everything gives."""
    rule = {"name": "one", "from": ["house"], "to": ["any"], "sources": ["10.64.130.192/26"], "action": "drop"}
    before = Climb(demo.design).sweep.families[4]
    after = Climb(apply(demo.raw, [{"op": "add", "path": "/devices/4/rules/0", "value": rule}])[1]).sweep.families[4]
    within = after.classes.within(before.classes)
    assert (np.bincount(within[within >= 0]) > 1).any(), "no class was cut"
    for parents in (within, np.where(np.arange(len(within)) % 3 == 0, -1, within)):
        taken, anew = Weights.of(before).refined(after, parents), Weights.of(after)
        assert np.array_equal(taken.sources, anew.sources)
        assert np.array_equal(taken.destinations, anew.destinations)
        assert len(set(taken.sources.tolist())) > len(taken.sources) // 2, (
            "what tells nothing apart would be equal as well"
        )
