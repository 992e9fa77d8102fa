"""Work that was stopped leaves nothing half-done: asked again, it answers as if it had never been stopped."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.climb import Climb
from anabasis.design import apply
from anabasis.errors import Stopped
from anabasis.patience import Watch, Work, look, through, watched
from tests.counts import law
from tests.sound import sound_site


class After(Watch):
    """A watch that is stopped once it was looked at so many times."""

    left = 0

    def __getattribute__(self, name: str) -> object:
        if name == "stopped":
            self.left -= 1
            return self.left < 0
        return super().__getattribute__(name)


def answers(climb: Climb) -> tuple[object, ...]:
    """Return what is asked most."""
    tally = climb.verdicts().tally
    return [f.sentence for f in climb.findings], tally.known.tolist(), tally.some.tolist(), tally.led.tolist()


@law(500, 10)
@given(st.integers(0, 10**6), st.integers(0, 400))
def test_stopped_anywhere_and_asked_again(seed: int, looks: int) -> None:
    """Stopped after any number of looks, cold and after an edit, it goes on to what it would have been."""
    tree = sound_site(seed)
    patch = [{"op": "add", "path": "/vlans/-", "value": {"id": 4001, "name": "spare"}}]
    first, second = apply(tree, [])[1], apply(tree, patch)[1]
    stopped, plain = Climb(first), Climb(first)
    for mine, other in ((stopped, plain), (stopped.edited(second), plain.edited(second))):
        watch = After()
        watch.left = looks
        try:
            with watched(watch):
                answers(mine)
        except Stopped:
            pass
        assert answers(mine) == answers(other)


def test_it_tells_how_far_it_is() -> None:
    """What was begun, how many are done, of how many; and nothing is watched that nobody watches."""
    watch = Watch()
    with watched(watch):
        seen = [(watch.work, watch.done, watch.total) for _ in through("abc", Work.PAIRS)]
    assert seen == [(Work.PAIRS, k, 3) for k in range(3)]
    assert list(through("ab", Work.RULES)) == ["a", "b"]
    watch.stop()
    look()
    with watched(watch), pytest.raises(Stopped):
        look()
    with watched(watch), pytest.raises(Stopped):
        list(through("ab", Work.RULES))
