"""Forms: every field of every model has a title and an editor, and every thing knows its form."""

from __future__ import annotations

import json

import pytest

from anabasis.design import Loaded, json_schema
from anabasis.design.choices import REFS, choices
from anabasis.design.forms import forms, model_at
from anabasis.design.items import all_links, item
from anabasis.errors import UnknownPlace


def test_every_field_of_the_schema_has_a_title_and_an_editor() -> None:
    """Law: the published schema and the forms speak of the same models and the same keys."""
    schema = json.loads(json_schema())
    models = {**schema["$defs"], "Design": schema}
    assert set(forms()) == {name for name, m in models.items() if "properties" in m}
    for name, fields in forms().items():
        assert {f.key for f in fields} == set(models[name]["properties"])
        assert len({f.title for f in fields}) == len(fields), name
        for field in fields:
            assert field.title[0].isupper() or field.title.isupper()
            assert field.editor in ("text", "number", "flag", "choice", "ref", "refs", "texts", "choices", "map", "part", "things")  # fmt: skip
            assert (field.editor in ("ref", "refs")) == (field.ref is not None)
            assert (field.editor in ("part", "things")) == (field.model is not None)
            assert field.editor != "choice" or field.choices


def test_every_thing_has_a_form_and_says_nothing_else(demo: Loaded) -> None:
    """What a thing of the demo says, its form can edit."""
    for link in all_links(demo.raw):
        if link.kind == "Cable":
            continue
        thing = item(demo.raw, link.pointer)
        assert thing.model == model_at(demo.raw, link.pointer)
        assert set(thing.value) <= {f.key for f in forms()[thing.model or ""]}, link


def test_what_is_inside_can_be_added_to(demo: Loaded) -> None:
    """A firewall holds ports, rules, zones and the rest; each list says what can be made there."""
    inside = {i.key: i for i in item(demo.raw, "/devices/4").inside}
    assert (inside["rules"].makes, len(inside["rules"].links)) == ("rule", len(demo.raw["devices"][4]["rules"]))
    assert inside["loopbacks"].links == []
    assert item(demo.raw, "/devices/4/ports/0").owner_kind == "firewall"


def test_what_may_be_picked(demo: Loaded) -> None:
    """Names of the device's own; VLANs by number; ends of every kind; and nothing for a word that is none."""
    assert [c.value for c in choices(demo.raw, "zone", "/devices/4/ports/0")][:2] == ["street", "reef"]
    assert choices(demo.raw, "zone", "/devices/5/ports/0") == []
    assert (choices(demo.raw, "vlan")[0].value, choices(demo.raw, "vlan")[0].label) == (110, "life-support")
    assert {"keepers", "internet", "water", "desk-7"} <= {c.value for c in choices(demo.raw, "end")}
    for ref in REFS:
        choices(demo.raw, ref, "/devices/4")
    with pytest.raises(UnknownPlace):
        choices(demo.raw, "colour")
