"""What a picker offers: names that stand in the document, each once, and each of them accepted where it was offered."""

from __future__ import annotations

from typing import Any

import jsonpointer
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anabasis.design import Tree, apply
from anabasis.design.choices import REFS, choices
from anabasis.errors import InputRefused, UnknownPlace
from tests.counts import law
from tests.sites import sites

FIELDS: dict[str, tuple[str, str, bool]] = {
    "zone": ("ports", "zone", False),
    "vlan": ("ports", "tagged", True),
    "addresses": ("rules", "sources", True),
    "services": ("rules", "services", True),
}
"""Kind of name: the list of a device whose entries say it, the key, and whether it is a list."""


@law(600, 40)
@given(sites(), st.sampled_from(sorted(REFS)))
def test_what_is_offered_stands_there_once(tree: Tree, ref: str) -> None:
    """Seen from the design and from every device; a picker never offers one thing twice."""
    for at in ("", *(f"/devices/{d}" for d in range(len(tree["devices"])))):
        values = [c.value for c in choices(tree, ref, at)]
        assert len(set(values)) == len(values)
    if ref == "vlan":
        assert values == [v["id"] for v in tree["vlans"]]
    if ref == "device":
        assert values == [d["name"] for d in tree["devices"]]


@law(600, 40)
@given(sites(), st.sampled_from(sorted(FIELDS)), st.data())
def test_what_is_offered_is_accepted(tree: Tree, ref: str, data: st.DataObject) -> None:
    """Whatever is picked is known: if the edit is refused, then never for a name that is not there."""
    key, field, many = FIELDS[ref]
    spots = [f"/devices/{d}/{key}/{k}" for d, x in enumerate(tree["devices"]) for k in range(len(x.get(key, [])))]
    spots = [at for at in spots if choices(tree, ref, at)]
    if not spots:
        return
    at = data.draw(st.sampled_from(spots))
    pick = data.draw(st.sampled_from(choices(tree, ref, at))).value
    value: Any = [pick] if many else pick
    try:
        after, _ = apply(tree, [{"op": "add", "path": f"{at}/{field}", "value": value}])
    except InputRefused as refusal:
        said = str(refusal)  # the port may be one that has no zone, or has the VLAN untagged
        known = [c.value for c in choices(tree, ref, at)]
        assert pick in known
        assert "there is no" not in said
    else:
        assert jsonpointer.resolve_pointer(after, f"{at}/{field}") == value


@pytest.mark.parametrize("ref", ["", "colour", "VLAN"])
def test_a_kind_of_name_that_is_none(ref: str) -> None:
    """Refused with the kinds there are."""
    with pytest.raises(UnknownPlace, match="vlan"):
        choices({}, ref)
