"""The house keeps its promises: doors, published files, documents."""

from __future__ import annotations

import ast
import importlib
import json
import pkgutil
import re
import subprocess
import sys
import tomllib

import pytest

import anabasis
from anabasis.design import json_schema
from anabasis.facts import Wrong
from anabasis.findings import as_markdown
from anabasis.interchange import module_text
from anabasis.server import description
from anabasis.wording.causes import SAID
from tests.conftest import ROOT

SRC = ROOT / "src" / "anabasis"
DOORED = (
    "facts", "wording", "faults", "fabric", "routing", "policy", "site", "trace", "leases", "classes", "allpairs", "verdicts", "probe",
    "failover", "findings", "views", "building", "testing", "diagnosis", "interchange", "survey", "standin",
    "packets", "proof", "campaign",
)  # fmt: skip
"""Rooms of the core whose insides are nobody's business but their own."""
ROOMS = ("design", *DOORED, "store", "server", "cli")


@pytest.mark.parametrize("room", ROOMS)
def test_every_door_opens(room: str) -> None:
    """What a package lists is there, sorted out by hand and without private names."""
    module = importlib.import_module(f"anabasis.{room}")
    assert module.__doc__
    for name in module.__all__:
        assert hasattr(module, name)
        assert not name.startswith("_")


def test_every_module_says_what_it_is() -> None:
    """One sentence at the top of each file."""
    for found in pkgutil.walk_packages(anabasis.__path__, "anabasis."):
        if "migrations" not in found.name:
            assert importlib.import_module(found.name).__doc__, found.name


@pytest.mark.parametrize(
    ("path", "text"),
    [
        ("docs/design.schema.json", json_schema),
        ("docs/findings.md", as_markdown),
        ("docs/yang/anabasis-site.yang", module_text),
    ],
)
def test_published_files_have_not_drifted(path: str, text: object) -> None:
    """Written by `anabasis schema`, and as it would write them now."""
    assert (ROOT / path).read_text(encoding="utf-8") == text(), "run `make published`"  # type: ignore[operator]


def test_the_front_end_speaks_this_api() -> None:
    """web/src/api/openapi.json is what the server describes."""
    kept = json.loads((ROOT / "web/src/api/openapi.json").read_text(encoding="utf-8"))
    assert kept == json.loads(json.dumps(description())), "run `make published`"


def test_links_in_documents_lead_somewhere() -> None:
    """Every relative link of README and docs."""
    for page in (ROOT / "README.md", *(ROOT / "docs").glob("*.md")):
        for target in re.findall(r"\]\(([^)#:]+)(?:#[^)]*)?\)", page.read_text(encoding="utf-8")):
            assert (page.parent / target).exists(), f"{page.name}: {target}"


def test_the_command_line_needs_no_database_and_no_server() -> None:
    """Asking for segments imports neither."""
    code = "import sys, anabasis.cli; print([m for m in ('sqlalchemy', 'fastapi', 'psycopg') if m in sys.modules])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_no_lock_file_names_a_host() -> None:
    """Packages come from wherever the machine is told to look."""
    for path in (ROOT / "web/package-lock.json", *(ROOT / "ops/locked").glob("*.txt")):
        text = path.read_text(encoding="utf-8")
        assert "resolved" not in text
        assert path.suffix == ".json" or "://" not in text  # in the other, packages ask for gifts
        assert "index-url" not in text


def test_python_packages_are_locked_by_their_hashes() -> None:
    """Whatever is installed is one version, and a file somebody changed on its way is refused."""
    for name in ("run", "dev", "node"):
        text = (ROOT / f"ops/locked/{name}.txt").read_text(encoding="utf-8").replace("\\\n", " ")
        for line in text.splitlines():
            assert re.match(r"[a-zA-Z0-9._-]+==\S+ .*--hash=sha256:[0-9a-f]{64}", line), line
    wanted = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    held = {
        m.lower().replace("_", "-")
        for m in re.findall(r"^([\w.-]+)==", (ROOT / "ops/locked/dev.txt").read_text(), re.M)
    }
    for need in [*wanted["dependencies"], *wanted["optional-dependencies"]["dev"]]:
        assert re.split(r"[\[>=<]", need)[0] in held, need


def test_code_cites_pages_that_are_here() -> None:
    """docs/semantics.md by its headings, or a standard; no page outside the repository."""
    headings = re.findall(r"^## (.+)$", (ROOT / "docs/semantics.md").read_text(encoding="utf-8"), re.M)
    for file in (ROOT / "src").rglob("*.py"):
        text = file.read_text(encoding="utf-8")
        assert not re.search(r"\bconcepts\b", text), file
        for cited in re.findall(r'docs/semantics\.md, "([^"]+)"', text):
            assert cited in headings, f"{file.name}: {cited}"


SENTENCES = re.compile(
    r"""["'][^"']+["'] in [a-z_.]*\breason\b|\breason\.(partition|split|startswith|removeprefix)|\.text\.(partition|split)|sentence\.(partition|split)"""
)


def test_nothing_reads_a_sentence() -> None:
    """What a person is told is made from facts; no logic looks into it."""
    for file in SRC.rglob("*.py"):
        assert not SENTENCES.search(file.read_text(encoding="utf-8")), file


TELLING = (
    "fabric",
    "routing",
    "policy",
    "site",
    "trace",
    "leases",
    "classes",
    "allpairs",
    "verdicts",
    "probe",
    "failover",
    "findings",
    "building",
    "testing",
    "diagnosis",
    "proof",
    "campaign",
)
"""Rooms whose results are facts."""
WORDED = ("Problem", "Kind", "through", "as_markdown")
"""Whose texts are no results: what is refused at the door, the catalogue, and what went on too long."""


def sentences(tree: ast.AST) -> list[str]:
    """Return the texts of five words and more, values in them counted; documentation and what may be worded aside."""
    aside = {id(n.value) for n in ast.walk(tree) if isinstance(n, ast.Expr) and isinstance(n.value, ast.Constant)}
    for node in ast.walk(tree):
        called = getattr(node.func, "id", getattr(node.func, "attr", "")) if isinstance(node, ast.Call) else ""
        if called in WORDED or (isinstance(node, ast.FunctionDef) and node.name in WORDED):
            aside |= {id(n) for n in ast.walk(node)}
        elif isinstance(node, ast.JoinedStr):
            aside |= {id(n) for n in node.values}
    texts = [(n, [n]) for n in ast.walk(tree) if isinstance(n, ast.Constant)]
    texts += [(n, n.values) for n in ast.walk(tree) if isinstance(n, ast.JoinedStr)]  # type: ignore[misc]
    read = [
        "".join(str(getattr(v, "value", "")) if isinstance(v, ast.Constant) else "xx" for v in vs)
        for n, vs in texts
        if id(n) not in aside
    ]
    return [text for text in read if len(re.findall(r"[a-z]{2,}(?=,? |$)", text)) > 4]


@pytest.mark.parametrize("room", TELLING)
def test_results_are_facts(room: str) -> None:
    """No sentence is made below `wording`: whoever computes says what is so, by enumerations and values."""
    found = {f.name: said for f in (SRC / room).rglob("*.py") if (said := sentences(ast.parse(f.read_text("utf-8"))))}
    assert found == {}


def test_rooms_are_entered_by_their_doors() -> None:
    """Whoever imports from another room of the core takes what its door lists; and a door lists nothing that nobody takes."""
    taken: dict[str, set[str]] = {room: set() for room in DOORED}
    for file in (*SRC.rglob("*.py"), *(ROOT / "bench").rglob("*.py"), *(ROOT / "ops").rglob("*.py")):
        own = file.relative_to(SRC).parts[0] if file.is_relative_to(SRC) else ""
        for node in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.ImportFrom) or not (node.module or "").startswith("anabasis."):
                continue
            _, room, *inside = str(node.module).split(".")
            if room in DOORED and room != own:
                assert not inside, f"{file.name} goes past the door of {room}: {node.module}"
                taken[room] |= {a.name for a in node.names}
    for room in DOORED:
        listed = set(importlib.import_module(f"anabasis.{room}").__all__)
        assert listed == taken[room] | ({"find_all"} & listed), room


def test_only_the_document_takes_pointers_apart() -> None:
    """Elsewhere a JSON Pointer is the name of an item, and nothing is read out of it."""
    for room in DOORED:
        for file in (SRC / room).rglob("*.py"):
            assert not APART.search(file.read_text(encoding="utf-8")), file


APART = re.compile(
    r"""split\(["']/|partition\(["']/["']\)|JsonPointer\(|(starts|ends)with\(f?["']/|["']/[a-z_]+/?["'] (not )?in """
)


def test_every_cause_has_a_sentence() -> None:
    """And each sentence is that of a cause."""
    assert set(SAID) == set(Wrong)
