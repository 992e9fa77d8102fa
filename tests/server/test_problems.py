"""The map of errors to statuses is whole."""

from __future__ import annotations

import importlib
import pkgutil

import pytest

import anabasis
from anabasis.errors import AnabasisError
from anabasis.server.problems import STATUS, answer, status_of


def every_error() -> list[type[AnabasisError]]:
    """Return every class of the tree, wherever it is defined."""
    for found in pkgutil.walk_packages(anabasis.__path__, "anabasis."):
        if "migrations" not in found.name and not found.name.endswith("__main__"):
            importlib.import_module(found.name)
    todo, out = [AnabasisError], list[type[AnabasisError]]()
    while todo:
        out.append(one := todo.pop())
        todo += one.__subclasses__()
    return out


def test_every_error_has_a_status_of_its_kind() -> None:
    """Only the root itself is an error of the server; whatever is the caller's says so, and a store that is away is to be asked again."""
    for kind in set(every_error()) - {AnabasisError}:
        nearest = next(k for k in kind.__mro__ if k in STATUS)
        assert nearest is not AnabasisError, f"{kind.__name__} would be told as an error of the server"
        assert 400 <= STATUS[nearest] < 500 or STATUS[nearest] == 503


def test_every_error_drawn_is_there_and_the_other_way_round() -> None:
    """The tree on top of `errors.py` is the tree below it."""
    import anabasis.errors as errors

    drawn = {w.strip("│├└─ ").split()[0] for w in (errors.__doc__ or "").splitlines() if "──" in w}
    assert drawn | {"AnabasisError"} == {k.__name__ for k in every_error() if k.__module__ == "anabasis.errors"}


@pytest.mark.parametrize("kind", [k for k in STATUS if k.__init__ is AnabasisError.__init__])
def test_an_error_is_told_with_its_status(kind: type[AnabasisError]) -> None:
    """As problem details, with its own words."""
    told = answer(kind("Said so."))
    assert (told.status_code, told.media_type) == (status_of(kind("x")), "application/problem+json")
    assert b"Said so." in told.body
