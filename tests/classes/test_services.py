"""Service atoms, cut finer and compared."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from anabasis.classes import ServiceAtoms

span = st.tuples(st.sampled_from([6, 17, 1, 89]), st.integers(0, 30), st.integers(0, 9)).map(
    lambda s: (s[0], 0, 0) if s[0] == 89 else (s[0], s[1], s[1] + s[2])
)
sets = st.lists(st.frozensets(span, min_size=1, max_size=3), max_size=3)


@given(sets, sets)
def test_every_atom_of_a_finer_cut_lies_within_one(
    known: list[frozenset[tuple[int, int, int]]], further: list[frozenset[tuple[int, int, int]]]
) -> None:
    """And tells so; sets are then the parts of what they were."""
    coarse, fine = ServiceAtoms(known), ServiceAtoms([*known, *further])
    within = fine.within(coarse)
    assert within is not None
    for one in known:
        assert (fine.mask(one) == coarse.mask(one)[within]).all()


@given(sets, sets)
def test_a_cut_that_is_not_coarser_is_none(
    known: list[frozenset[tuple[int, int, int]]], other: list[frozenset[tuple[int, int, int]]]
) -> None:
    """Where an answer is given, no atom lies across two of the other's."""
    one, two = ServiceAtoms(known), ServiceAtoms(other)
    within = one.within(two)
    across = any(len({two.atom_of((p, x)) for p, low, high in atom for x in (low, high)}) > 1 for atom in one.atoms)
    assert (within is None) == across


@given(sets)
def test_every_service_has_its_atom(known: list[frozenset[tuple[int, int, int]]]) -> None:
    """Found by its number."""
    atoms = ServiceAtoms(known)
    for k, atom in enumerate(atoms.atoms):
        for p, low, high in atom:
            assert {atoms.atom_of((p, low)), atoms.atom_of((p, high))} == {k}
