"""How many examples a law is tried on: a sample in every run, all of them with `make laws`, a handful with `make check`."""

from __future__ import annotations

import os
from typing import Any

from hypothesis import Phase, settings

RUN = os.environ.get("ANABASIS_LAWS", "sample")
"""`check`, `sample` or `all`."""


def count(whole: int, sample: int) -> int:
    """Return how many examples this run tries."""
    return {"check": max(3, sample // 10), "sample": sample, "all": whole}[RUN]


def law(whole: int, sample: int, **more: Any) -> settings:
    """Return the settings of a law that holds on `whole` examples, `sample` of which every run tries."""
    if RUN == "check":  # what fails is looked at with the sample: to make an example small takes minutes
        more["phases"] = (Phase.explicit, Phase.reuse, Phase.generate)
    return settings(max_examples=count(whole, sample), **more)
