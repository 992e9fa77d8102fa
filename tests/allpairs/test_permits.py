"""What a crossing lets pass, asked in two ways."""

from __future__ import annotations

from random import Random

import numpy as np

from anabasis.climb import Climb
from anabasis.design import Loaded


def test_one_destination_is_told_as_many_are(demo: Loaded) -> None:
    """`onto` keeps what it said by the rules that speak; `between` reads all anew."""
    climb = Climb(demo.design)
    rng = Random(15)
    told = 0
    for family in climb.sweep.families.values():
        crossings = sorted({c for f in family.plane.fecs.filter_sets for c in f})
        for crossing in crossings:
            sources = np.array(sorted(rng.sample(range(family.classes.count), min(9, family.classes.count))))
            for destination in rng.choices(range(family.classes.count), k=12):
                whole = family.permits.between(crossing, sources, np.array([destination]))[:, 0]
                assert np.array_equal(family.permits.onto(crossing, sources, destination), whole)
                told += int(whole.any())
        family.permits.forget()
    assert told
