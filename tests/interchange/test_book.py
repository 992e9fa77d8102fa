"""The site book, the drawing, what is computed as CSV, a comparison for a ticket: everything in them, nothing of it runs."""

from __future__ import annotations

import copy
import csv
import io
import json
import re
from html.parser import HTMLParser
from pathlib import Path
from xml.etree import ElementTree

import pytest
from markdown_it import MarkdownIt

from anabasis.climb import Climb
from anabasis.comparison import compare_states
from anabasis.design import load_file, parse_design
from anabasis.interchange import COMPUTED, cabling_svg, matrix_svg, site_book, write_computed
from anabasis.views import cabling, matrix
from tests.sites import Tree
from tests.sound import ACROSS, sound_site

DEMOS = sorted((Path(__file__).parents[2] / "demo").glob("*.yaml"))
ODD = "<script>alert(1)</script> \"&' | * `x`"


class Tags(HTMLParser):
    """What a page is made of."""

    def __init__(self) -> None:
        super().__init__()
        self.open: list[str] = []
        self.seen: list[str] = []
        self.text: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """Note a tag that opens."""
        self.seen.append(tag)
        if tag not in ("meta", "rect", "path"):
            self.open.append(tag)

    def handle_endtag(self, tag: str) -> None:
        """Hold a tag that closes against the one that is open."""
        if tag not in ("rect", "path"):
            assert self.open.pop() == tag

    def handle_data(self, data: str) -> None:
        """Keep the words."""
        self.text.append(data)


def book_of(tree: Tree) -> tuple[str, Tags]:
    """Return the book of a site, read."""
    text = site_book(Climb(parse_design(tree)), tree, "draft 1", None)
    tags = Tags()
    tags.feed(text)
    assert tags.open == []
    return text, tags


@pytest.mark.parametrize("path", DEMOS, ids=lambda p: p.stem)
def test_everything_is_in_the_book(path: Path) -> None:
    """Every VLAN, port, cable, route, rule, expectation and finding, and a cell for each pair."""
    tree = json.loads(json.dumps(load_file(path).raw))
    climb = Climb(parse_design(tree))
    text, tags = book_of(tree)
    words = " ".join(" ".join(tags.text).split())
    for vlan in tree["vlans"]:
        assert vlan["name"] in words
    for end in (end for cable in tree["cables"] for end in cable):
        assert end in words
    for rule in (r["name"] for d in tree["devices"] for r in d.get("rules", [])):
        assert rule in words
    for one in (*(e["name"] for e in tree.get("expectations", [])), *(f.sentence for f in climb.findings)):
        assert " ".join(one.split()) in words, one
    assert tags.seen.count("svg") == 1
    assert "://" not in re.sub(r'xmlns="[^"]*"', "", text)


def test_odd_names_stay_names() -> None:
    """Nothing that a name holds becomes a tag, in the book, the drawing or a ticket."""
    tree = json.loads(json.dumps(load_file(DEMOS[-1]).raw))
    tree["name"] = "The <b>bold</b> aquarium"
    tree["vlans"][0]["note"] = ODD
    tree["devices"][5]["ports"][0]["note"] = ODD
    _, tags = book_of(tree)
    assert {"script", "b"} & set(tags.seen) == set()
    before = json.loads(json.dumps(load_file(DEMOS[-1]).raw))
    states = [(t, Climb(parse_design(t))) for t in (before, tree)]
    ticket = compare_states(states[0], states[1]).as_markdown("was", "is")
    page = MarkdownIt("commonmark").render(ticket)
    assert "<script" not in page
    assert "<b>" not in page
    assert "alert(1)" in page


def test_a_book_of_nothing_and_of_a_large_site() -> None:
    """An empty design has a book; where a matrix would be too large for paper, its open pairs are listed."""
    _, tags = book_of({"anabasis": 1, "name": "Nothing", "devices": []})
    assert "No VLAN is planned." in " ".join(tags.text)
    tree = json.loads(json.dumps(sound_site(ACROSS)))
    for k in range(60):
        tree["vlans"].append({"id": 2000 + k, "name": f"more{k}"})
    switch = next(d for d in tree["devices"] if d["kind"] == "switch")
    switch["ports"] += [{"name": f"x{k}", "pvid": 2000 + k, "untagged": [2000 + k]} for k in range(60)]
    book_of(tree)


def test_the_drawing_is_svg() -> None:
    """Well-formed, every box once, nothing outside the sheet, no two boxes over each other."""
    for seed in (0, 3, ACROSS + 1):
        tree = sound_site(seed)
        drawn = cabling(Climb(parse_design(tree)).site.fabric)
        root = ElementTree.fromstring(cabling_svg(drawn))
        space = "{http://www.w3.org/2000/svg}"
        boxes = [tuple(float(r.get(k, "")) for k in ("x", "y", "width", "height")) for r in root.iter(f"{space}rect")]
        assert len(boxes) == len(drawn.boxes)
        width, height = float(root.get("width", "")), float(root.get("height", ""))
        for x, y, w, h in boxes:
            assert 0 <= x <= x + w <= width
            assert 0 <= y <= y + h <= height
        for k, (x, y, w, h) in enumerate(boxes):
            assert not any(abs(x - a) < w and abs(y - b) < h for a, b, _, _ in boxes[k + 1 :])


def test_what_is_computed_is_csv() -> None:
    """Each kind with its columns, a row each; a cell that a spreadsheet would take for a formula is escaped."""
    tree = copy.deepcopy(load_file(DEMOS[-1]).raw)
    climb = Climb(parse_design(tree))
    for kind, (columns, rows) in COMPUTED.items():
        read = list(csv.reader(io.StringIO(write_computed(kind, climb))))
        assert tuple(read[0]) == columns
        assert len(read) == 1 + len(list(rows(climb)))
        assert all(len(row) == len(columns) for row in read)


def test_the_matrix_is_svg() -> None:
    """A cell each pair, a mark where something passes, names as they are."""
    tree = json.loads(json.dumps(load_file(DEMOS[-1]).raw))
    tree["vlans"][0]["name"] = "a & b"
    tree["expectations"] = []
    seen = matrix(Climb(parse_design(tree)).verdicts())
    root = ElementTree.fromstring(matrix_svg(seen))
    space = "{http://www.w3.org/2000/svg}"
    assert len(list(root.iter(f"{space}rect"))) == len(seen.segments) ** 2
    passing = [c.verdict for row in seen.cells for c in row if c is not None and c.verdict != "none"]
    assert len(list(root.iter(f"{space}circle"))) == passing.count("all")
    assert len(list(root.iter(f"{space}path"))) == passing.count("some")
    assert any(t.text == "a & b" for t in root.iter(f"{space}text"))
