"""One walk tells who names whom: what leans on a thing, what goes with it, and what a new name changes are the same places."""

from __future__ import annotations

from collections import Counter
from pathlib import Path
from typing import Any, get_args, get_type_hints

import pytest

from anabasis.climb import Climb
from anabasis.design import Tree, all_links, apply, base, item, load_file, remove, rename
from anabasis.design.base import Part, Ref
from anabasis.design.mentions import Mention, mentions
from anabasis.design.targets import Targets
from anabasis.design.uses import users_of, uses
from tests.counts import RUN

DEMO = load_file(Path(__file__).parents[2] / "demo" / "tidewrack.yaml").raw
ODD: Tree = {
    "anabasis": 1,
    "name": "Kelp yard",
    "vlans": [{"id": 7, "name": "kelp", "subnets": ["10.71.7.0/24"]}, {"id": 8, "name": "mud"}],
    "addresses": [{"name": "boats", "members": ["10.71.7.9"]}, {"name": "all", "members": ["boats"]}],
    "services": [{"name": "horn", "members": ["tcp/7"]}, {"name": "bell", "members": ["tcp/8"]}],
    "devices": [
        {
            "name": "sw",
            "kind": "switch",
            "vlans": [7, 8],
            "ports": [{"name": "1/0/1", "tagged": [7, 8]}, {"name": "2", "pvid": 7, "untagged": [7]}],
        },
        {
            "name": "gate",
            "kind": "firewall",
            "zones": [{"name": "in"}, {"name": "out"}, {"name": "side", "kind": "inline"}],
            "vrfs": [{"name": "main", "routes": [{"to": "10.9.0.0/16", "vrf": "far"}]}, {"name": "far"}],
            "ports": [
                {
                    "name": "t",
                    "mode": "routed",
                    "subinterfaces": [{"tag": 7, "addresses": ["10.71.7.1/24"], "zone": "in"}],
                },
                {"name": "b", "mode": "bridged", "tagged": [8], "translate": {"7": 8}, "zone": "out"},
                {"name": "5", "mode": "inline", "zone": "side"},
                {"name": "6", "mode": "inline", "zone": "side"},
            ],
            "wires": [{"name": "line", "ends": ["5", "6"], "tags": [7, "untagged"]}],
            "dhcp": [{"interface": "t.7", "ranges": ["10.71.7.50-10.71.7.60"], "gateway": "10.71.7.1"}],
            "rules": [
                {
                    "name": "r",
                    "from": ["in"],
                    "to": ["any"],
                    "sources": ["boats"],
                    "services": ["horn"],
                    "action": "permit",
                }
            ],
            "nat": [
                {"name": "n", "from": ["in"], "destinations": ["boats"], "services": ["horn"], "service_to": "bell"}
            ],
        },
        {"name": "winch", "kind": "endpoint", "dhcp": True},
        {"name": "sea", "kind": "outside", "prefixes": ["0.0.0.0/0"]},
    ],
    "cables": [["sw:1/0/1", "gate:t"], ["sw:2", "winch:1"]],
    "expectations": [
        {"name": "e1", "from": "boats", "to": "sea", "services": ["bell"], "expect": "closed", "through": "gate"},
        {"name": "e2", "from": "winch", "to": "kelp@sw", "expect": "open"},
    ],
}
SITES = {"demo": DEMO, "odd": ODD}
THINGS = [("odd", entry.pointer) for entry in all_links(ODD)]
THINGS += [("demo", entry.pointer) for entry in all_links(DEMO)][:: {"all": 1, "sample": 3, "check": 12}[RUN]]


def _inside(pointer: str, things: list[str]) -> bool:
    return any((pointer + "/").startswith(t + "/") for t in things)


def _names(tree: Tree) -> list[tuple[Mention, list[str]]]:
    targets = Targets(tree)
    return [(m, targets.of(m)) for m in mentions(tree)]


@pytest.mark.parametrize(("site", "pointer"), THINGS)
def test_what_leans_on_a_thing_is_what_its_removal_tells(site: str, pointer: str) -> None:
    """Uses, mentions and removal name the same places; and nothing else of the document is touched."""
    tree = SITES[site]
    naming = {m.owner for m, found in _names(tree) if any(_inside(f, [pointer]) for f in found)}
    users = {p for p in naming if not _inside(p, [pointer])}
    assert set(users_of(uses(tree), pointer)) == users
    removal = remove(tree, pointer)
    assert users <= set(removal.touches)
    assert bool(removal.drops) == bool(users)
    assert {x.pointer for x in item(tree, pointer).needed_by} == users
    after, _ = apply(tree, removal.patch)
    before = Counter((m.kind, m.pointer.rsplit("/", 1)[0].count("/"), str(m.value)) for m, _ in _names(tree))
    left = Counter((m.kind, m.pointer.rsplit("/", 1)[0].count("/"), str(m.value)) for m, _ in _names(after))
    taken = [m for m, _ in _names(tree) if _inside(m.pointer, [pointer, *removal.touches])]
    assert not left - before
    assert (before - left).total() <= len(taken)


@pytest.mark.parametrize(("site", "pointer"), THINGS)
def test_nothing_is_left_that_names_what_is_gone(site: str, pointer: str) -> None:
    """Every name that meant something still means something."""
    tree = SITES[site]
    after, _ = apply(tree, remove(tree, pointer).patch)
    meant = {(m.kind, m.value) for m, found in _names(tree) if found}
    for mention, found in _names(after):
        assert found or (mention.kind, mention.value) not in meant, mention.pointer


@pytest.mark.parametrize(("site", "pointer"), THINGS)
def test_a_new_name_is_written_wherever_the_old_one_meant_the_thing(site: str, pointer: str) -> None:
    """Every mention means after the renaming what it meant before; no verdict knows the name."""
    tree = SITES[site]
    thing: Any = tree
    for step in pointer.split("/")[1:]:
        thing = thing[int(step)] if isinstance(thing, list) else thing[step]
    if not isinstance(thing, dict) or "name" not in thing:
        return
    after, _ = apply(tree, rename(tree, pointer, "heron"))
    assert [found for _, found in _names(after)] == [found for _, found in _names(tree)]


def test_a_lease_of_a_host_is_no_list() -> None:
    """An endpoint's `dhcp: true` is a flag; findings, removal and renaming go past it."""
    _, design = apply(ODD, [])
    assert Climb(design).findings
    assert apply(ODD, remove(ODD, "/devices/1").patch)


NAMES = {"name", "id", "step"}
"""Fields by which a thing is called itself."""


def test_every_field_that_may_name_a_thing_says_so() -> None:
    """A name, a VLAN number or a term in a model is either what the thing is called, or declared as a reference."""
    checked = [get_args(t)[1] for t in (base.Name, base.AddressTerm, base.ServiceTerm, base.EndText, base.VlanId)]

    def undeclared(annotation: Any) -> bool:
        marks = get_args(annotation)[1:] if hasattr(annotation, "__metadata__") else ()
        if any(isinstance(m, Ref) for m in marks):
            return False
        if any(m is c for m in marks for c in checked):
            return True
        return any(undeclared(a) for a in get_args(annotation))

    models, todo = set[type[Part]](), [Part]
    while todo:
        models.update(more := todo.pop().__subclasses__())
        todo += more
    loose = {
        f"{m.__name__}.{n}" for m in models for n, t in get_type_hints(m, include_extras=True).items()
        if n in m.model_fields and n not in NAMES and undeclared(t)
    }  # fmt: skip
    assert loose == set()
