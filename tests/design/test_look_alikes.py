"""Names that people take for each other."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.design.look_alikes import folded, look_alikes


@pytest.mark.parametrize(
    ("one", "two"),
    [
        ("Gate", "gate"),
        ("hall-sw1", "hall-swl"),
        ("gate", "g\u0430te"),
        ("lab", "\uff4c\uff41\uff42"),
        ("port O", "port 0"),
        ("a-b", "a\u2013b"),
    ],
)
def test_alike(one: str, two: str) -> None:
    """Case, figures for letters, letters of another script, full width, dashes."""
    assert [{n for n, _ in g} for g in look_alikes([(one, "/a"), (two, "/b")])] == [{one, two}]


@pytest.mark.parametrize(("one", "two"), [("1", "2"), ("hall-sw", "tank-sw"), ("lab", "labs"), ("3", "8")])
def test_not_alike(one: str, two: str) -> None:
    """Different names are different."""
    assert not list(look_alikes([(one, "/a"), (two, "/b")]))


@given(st.lists(st.text(max_size=4), unique=True, max_size=8))
def test_every_name_in_another_case_is_a_look_alike(names: list[str]) -> None:
    """Law: with each name stands its upper case, where that is another name that folds to the same."""
    for name in names:
        other = name.upper()
        if other != name and folded(other) == folded(name):
            groups = [{n for n, _ in g} for g in look_alikes([(name, "/a"), (other, "/b")])]
            assert groups == [{name, other}]


def test_the_numbers_of_ports_are_all_different() -> None:
    """Nothing is found among figures."""
    assert not list(look_alikes((str(k), f"/{k}") for k in range(2000)))
