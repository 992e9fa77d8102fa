"""Every fact about elections, drills, proposed edits and leases has its sentence."""

from __future__ import annotations

from typing import get_args

import pytest

from anabasis.facts import (
    DecidedBy,
    Decision,
    Does,
    DrillKind,
    EditDoes,
    HandedOut,
    Layer,
    Refusal,
    Refuses,
    Wrong,
    because,
)
from anabasis.wording import decided, drill_do, edit_words, lease_words, what_happens
from anabasis.wording.elections import refused_because


@pytest.mark.parametrize("by", get_args(DecidedBy))
def test_every_decision_is_told(by: DecidedBy) -> None:
    """With both units where two are compared, and never with a full stop."""
    text = decided(
        Decision(by, "gate-a", ("gate-b",), ("1", "2"), (Refusal("no-heartbeat"), Refusal("ports-apart", ("3",))))
    )
    assert text.strip(" .") == text
    assert "gate-" in text
    assert ("1, 2" in text) == (by in ("watch", "targets"))
    assert ("no heartbeat is cabled and 3 of the units" in text) == (by in ("refused", "refused-failed"))


@pytest.mark.parametrize("why", get_args(Refuses))
def test_every_refusal_is_told(why: Refuses) -> None:
    """By the names of what is unlike."""
    assert ("a, b" in refused_because(Refusal(why, ("a", "b")))) == (why != "no-heartbeat")


@pytest.mark.parametrize("kind", get_args(DrillKind))
def test_every_step_of_a_drill_is_told(kind: DrillKind) -> None:
    """As something to do."""
    text = drill_do(kind, "gate-a", "gate-b", "hall", ("gate-a:2", "gate-a:3"))
    assert text.startswith(("Pull ", "Start "))
    assert text.endswith(".")


@pytest.mark.parametrize("does", get_args(Does))
def test_every_edit_is_told(does: Does) -> None:
    """And how many more it takes on the way."""
    text = edit_words(EditDoes(does, "gate", "r", "s", "ssh", 2))
    assert text.endswith(", and 2 more on the way")
    assert not set(text) & set("{}")


def test_what_was_handed_out() -> None:
    """From whom, through whom, how many else answer, and what is wrong with it."""
    cause = because(Layer.LINK, Wrong.NO_CABLE, port="core:2")
    assert lease_words(None, cause) == "core:2 has no cable"
    handed = HandedOut("gate", "lab-sw", "10.0.0.5", True, 2, False)
    assert lease_words(handed, None) == (
        "gate through lab-sw hands out 10.0.0.5, assumed: what it hands out stands in no design"
        "; 2 servers answer here, and which one is first is luck, but no gateway"
    )
    good = HandedOut("gate", None, "10.0.0.5", False, 1, True)
    assert lease_words(good, None) == "gate hands out 10.0.0.5"
    assert lease_words(good, cause) == "gate hands out 10.0.0.5, but core:2 has no cable"


def test_what_happens_when() -> None:
    """At once, after so many milliseconds, and where nobody takes over."""
    won = (Decision("rank", "gate-a"),)
    assert what_happens("fault", 0, ()) == "the parts fail; nobody has taken over yet"
    assert what_happens("taken over", 900, won) == "noticed after 900 ms: gate-a comes first by priority and name"
    assert what_happens("taken over", 0, won).startswith("noticed at once: ")
    assert what_happens("settled", 0, ()) == "there is no pair"
