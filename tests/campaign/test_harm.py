"""What the rows of a campaign show."""

from __future__ import annotations

from typing import Any

from anabasis.campaign import Row, harm_of


def row(failed: tuple[str, ...] = (), faults: tuple[str, ...] = (), design: str = "d", **harm: Any) -> Row:
    """Return the row of a case."""
    said: dict[str, Any] = {"opened": (), "closed": (), "lost": 0, "meanwhile": 0} | harm
    return Row(design, "x", failed, faults, split_brain=False, refused=False, seconds=0.1, **said)


def test_parts_are_told_by_design_and_mistakes_by_kind() -> None:
    """The worst first; a part that does lasting harm alone is a single point of failure; of a kind the worst of it counts."""
    rows = [
        row(("gate-a",), meanwhile=9),
        row(("hall-sw",), closed=("web",), lost=4),
        row(("hall-sw",), design="e", lost=2),
        row((), ("zone-other#0",), opened=("pumps",)),
        row((), ("zone-other#1",), design="e", lost=7),
        row((), ("port-off#0",)),
    ]
    found = harm_of(rows)
    assert [(m.design, m.name, m.alone) for m in found.parts] == [
        ("d", "hall-sw", (0, 1, 4, 0)),
        ("e", "hall-sw", (0, 0, 2, 0)),
        ("d", "gate-a", (0, 0, 0, 9)),
    ]
    assert [(m.name, m.alone, m.cases, m.harmful, m.opens) for m in found.mistakes] == [
        ("zone-other", (1, 0, 0, 0), 2, 2, 1),
        ("port-off", (0, 0, 0, 0), 1, 0, 0),
    ]
    assert found.mistakes[0].meaning == "an interface is in another zone"
    assert found.single_points == 2


def test_what_is_worse_together_is_counted() -> None:
    """Two failures that do more than both alone; two that do what each does alone are not."""
    alone = [row(("a",), lost=3), row(("b",), lost=2), row(("c",))]
    pairs = [row(("a", "b"), lost=5), row(("a", "c"), lost=3), row(("b", "c"), lost=8)]
    assert {m.name: m.beyond for m in harm_of(alone + pairs).parts} == {"a": 0, "b": 1, "c": 1}
    assert harm_of([]).parts == []
