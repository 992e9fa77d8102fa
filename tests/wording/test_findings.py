"""Everything that a finding may say has its sentence, and whoever says it gives the values that its sentence speaks of."""

from __future__ import annotations

import ast
from pathlib import Path
from string import Formatter
from typing import Any

import pytest

from anabasis.facts import Cause, Flow, Ground, Layer, Says, Unlike, Wrong, because
from anabasis.findings.catalogue import CATALOGUE, finding
from anabasis.wording import tell_finding
from anabasis.wording.findings import SAID

FINDINGS = Path(__file__).parents[2] / "src/anabasis/findings"
OF_SPEC: dict[str, Any] = {
    "pairs": 3,
    "Frames": 40,
    "kind": "vlans",
    "Where": "core",
    "unlike": (Unlike("model", "one", "two"),),
    "VLANs": (10, 20),
}
CAUSE = because(Layer.LINK, Wrong.NO_CABLE, "/devices/0/ports/1", port="core:2")


def fields(says: Says) -> dict[str, str]:
    """Return the values a sentence speaks of, each with how it is worded."""
    return {name: spec or "" for _, name, spec, _ in Formatter().parse(SAID[says]) if name}


@pytest.mark.parametrize("says", Says)
def test_every_sentence_can_be_made(says: Says) -> None:
    """From values of the kinds it speaks of; it ends in a full stop and leaves nothing open."""
    ground = Ground("stopped", Flow("10.0.0.1", "10.0.0.2", "tcp/443"), CAUSE)
    known = {"cause": CAUSE, "why": CAUSE, "ground": ground}
    values = {n: known.get(n, OF_SPEC.get(spec, ("a", "b") if spec else "x")) for n, spec in fields(says).items()}
    text = tell_finding(says, values)
    assert text.endswith(".")
    assert not set(text) & set("{}<>[]")


def test_every_code_is_said() -> None:
    """And every saying has a code of the catalogue."""
    assert set(SAID) == set(Says)
    assert {s.code for s in Says} == set(CATALOGUE)


def calls() -> list[tuple[str, ast.Call]]:
    """Return every place that says something outright."""
    found = []
    for file in FINDINGS.glob("*.py"):
        for node in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
            if (
                isinstance(node, ast.Call)
                and getattr(node.func, "id", "") == "finding"
                and isinstance(node.args[0], ast.Attribute)
            ):
                found.append((node.args[0].attr, node))
    return found


def test_everything_that_may_be_said_is_said_somewhere() -> None:
    """No sentence without a check that finds it."""
    text = "".join(f.read_text(encoding="utf-8") for f in FINDINGS.glob("*.py"))
    assert [s.name for s in Says if f"Says.{s.name}" not in text] == []


def test_values_are_those_of_the_sentence() -> None:
    """Where all of them are written out: none missing, none too many."""
    for name, call in calls():
        given = {k.arg for k in call.keywords} - {"mend", "also"}
        if "values" not in given and None not in given:
            needed = set(fields(Says[name]))
            assert needed - given == set(), name
            assert given - {"cause"} - needed == set(), name


def test_one_is_told_from_another_wherever_it_stands() -> None:
    """The items may have moved in the document; what is wrong and the values in it tell findings apart."""
    here = finding(Says.HOST_CUT, "/devices/3", cause=CAUSE, device="pump")
    moved = Cause(CAUSE.layer, CAUSE.wrong, ("/devices/0/ports/7",), CAUSE.values)
    assert here.what == finding(Says.HOST_CUT, "/devices/2", cause=moved, device="pump").what
    assert here.what != finding(Says.HOST_CUT, "/devices/3", cause=CAUSE, device="quay").what
    other = because(Layer.LINK, Wrong.NO_CABLE, "/devices/0/ports/1", port="core:3")
    assert here.what != finding(Says.HOST_CUT, "/devices/3", cause=other, device="pump").what


@pytest.mark.parametrize(
    ("says", "values", "text"),
    [
        (Says.VISITORS_INSIDE, {"segment": "hall", "reached": ("a", "b", "c", "d", "e", "f")}, "hall is for visitors and reaches a, b, c, d and 2 more."),
        (Says.ROUTE_MISSING, {"source": "a", "target": "b", "more": 0, "cause": CAUSE}, "From a to b: core:2 has no cable."),
        (Says.ROUTE_MISSING, {"source": "a", "target": "b", "more": 2, "cause": CAUSE}, "From a to b, and 2 more pairs: core:2 has no cable."),
        (Says.ONE_WAY, {"form": 0, "near": "a:1", "far": "b:1"}, "Untagged frames pass from a:1 to b:1, and not back."),
        (Says.ONE_WAY, {"form": 7, "near": "a:1", "far": "b:1"}, "Frames with tag 7 pass from a:1 to b:1, and not back."),
        (Says.NAMES_ALIKE, {"where": "", "kind": "addresses", "names": ("seals", "Seals")}, "The address sets 'seals' and 'Seals' look alike."),
        (Says.NAMES_ALIKE, {"where": "fw", "kind": "zones", "names": ("in", "ln")}, "Of fw, the zones 'in' and 'ln' look alike."),
        (Says.MERGED, {"vlans": (10, 20), "segment": "wet"}, "VLAN 10 and VLAN 20 are one broadcast domain, wet."),
    ],
)  # fmt: skip
def test_several_are_joined_as_one_reads_them(says: Says, values: dict[str, Any], text: str) -> None:
    """A few of many, none, one; what has no name of its own."""
    assert tell_finding(says, values) == text
