"""Election: the laws of docs/semantics.md, "Failover pairs", and the reasons in words."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from anabasis.facts import Decision, Refusal
from anabasis.failover.election import Claim, elect, refused

UNLIKE = Refusal("traits-unlike", ("software",))
A, B = (Claim(name, True, (), (), rank) for rank, name in enumerate(("gate-a", "gate-b")))
names = st.lists(st.sampled_from(("1", "hall", "tank")), unique=True).map(tuple)
claims = st.tuples(
    *(st.builds(Claim, st.just(n), st.booleans(), names, names, st.just(r)) for r, n in enumerate(("gate-a", "gate-b")))
)
before = st.sampled_from((None, "gate-a", "gate-b"))


@given(claims, st.booleans(), before, st.booleans())
def test_only_the_living_are_active(pair: tuple[Claim, Claim], heard: bool, now: str | None, preempt: bool) -> None:
    """Nobody, one, or in a split brain both; a dead unit never; somebody wherever one lives."""
    found = elect(pair, heard, now, preempt)
    living = {c.unit for c in pair if c.alive}
    assert set(found.active) <= living
    assert bool(found.active) == bool(living)
    assert found.split_brain == (len(found.active) == 2) == (len(living) == 2 and not heard)
    assert found.why


@given(claims, before, st.booleans())
def test_units_that_hear_each_other_agree(pair: tuple[Claim, Claim], now: str | None, preempt: bool) -> None:
    """The order in which the two are named decides nothing."""
    one = elect(pair, True, now, preempt)
    assert one.active == elect(pair[::-1], True, now, preempt).active
    assert len(one.active) <= 1


@given(claims, before, st.booleans())
def test_worse_never_wins(pair: tuple[Claim, Claim], now: str | None, preempt: bool) -> None:
    """Of two living units that hear each other, the active one has no more watched ports down than the other."""
    found = elect(pair, True, now, preempt)
    if all(c.alive for c in pair):
        won = next(c for c in pair if c.unit == found.active[0])
        lost = next(c for c in pair if c.unit != found.active[0])
        assert (len(won.watch_down), len(won.targets_lost)) <= (len(lost.watch_down), len(lost.targets_lost))


def test_each_step_in_order() -> None:
    """Watched ports before targets, these before who is active now, with preempt priority before that."""
    assert elect(
        (replace(A, watch_down=("1",)), replace(B, targets_lost=("198.51.100.1",))), True, "gate-a", True
    ).active == ("gate-b",)
    assert elect((A, replace(B, targets_lost=("198.51.100.1",))), True, "gate-b", False).active == ("gate-a",)
    assert elect((A, B), True, "gate-b", False).active == ("gate-b",)
    assert elect((A, B), True, "gate-b", True).active == ("gate-a",)
    assert elect((A, B), True, None, False).active == ("gate-a",)


def test_why_in_one_sentence() -> None:
    """What was compared last, by name; the fact tells it as well."""
    assert elect((replace(A, watch_down=("hall",)), B), True, "gate-a", False).decision == Decision(
        "watch", "gate-b", ("gate-a",), ("hall",)
    )
    assert elect((replace(A, watch_down=("hall",)), B), True, "gate-a", False).why == (
        "gate-a has more watched ports down (hall), so gate-b is active"
    )
    assert "each take the other for dead" in elect((A, B), False, "gate-a", False).why
    assert elect((replace(A, alive=False), B), False, "gate-a", False).why == "gate-a failed, so gate-b is active"


def test_units_that_refuse_each_other_do_not_take_over() -> None:
    """Whoever is active stays; when it fails, nobody is, and it is said why."""
    both = (Claim("a", True, (), (), 0), Claim("b", True, (), (), 1))
    assert refused(both, None, [UNLIKE]).active == ("a",)
    assert refused(both, "b", [UNLIKE]).active == ("b",)
    dead = (Claim("a", False, (), (), 0), both[1])
    found = refused(dead, "a", [UNLIKE])
    assert (found.active, found.split_brain) == ((), False)
    assert "b does not take over" in found.why


def test_the_order_of_comparison_is_a_setting() -> None:
    """Targets before watched ports, or rank before both; what is left out decides nothing."""
    worse, lost = replace(A, watch_down=("1",)), replace(B, targets_lost=("198.51.100.1",))
    assert elect((worse, lost), True, "gate-a", False, ("targets", "watch", "rank")).active == ("gate-a",)
    assert elect((worse, B), True, "gate-a", False, ("rank", "watch", "targets")).active == ("gate-a",)
    assert elect((worse, B), True, "gate-a", True, ("targets",)).active == ("gate-a",)
    assert elect((worse, B), True, "gate-a", True, ("watch",)).active == ("gate-b",)
