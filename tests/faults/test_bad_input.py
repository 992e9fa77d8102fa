"""Bad input of every kind: one clear refusal, in bounded time, and never a fault of the server."""

from __future__ import annotations

import copy
import json
from collections import Counter
from collections.abc import Iterator
from contextlib import suppress
from time import monotonic
from typing import Any
from uuid import uuid4

import pytest
import requests
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from hypothesis.errors import Flaky
from hypothesis.stateful import run_state_machine_as_test
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import content_type_conformance, response_schema_conformance
from sqlalchemy import Engine

from anabasis.design import Loaded, parse_design, parse_text
from anabasis.errors import InputRefused
from anabasis.server import description
from anabasis.store import Store
from ops.serving import enter, serving
from tests.conftest import NOON, client_of
from tests.counts import count
from tests.faults.small import SMALL

BOUND_S = 120.0
PATIENT_S = 60.0
"""How long an answer is waited for; this is no test of speed."""


def many(key: str, count: int, **more: Any) -> str:
    """Return a document with very many things of one kind."""
    things = [
        {"id" if key == "vlans" else "name": f"{i}" if key != "vlans" else i % 4094 + 1, **more} for i in range(count)
    ]
    return json.dumps({"anabasis": 1, "name": "x", key: things})


FILES = {
    "cut off": '{"anabasis": 1, "name": "x", "vlans": [{"id": 1',
    "empty": "",
    "deep, JSON": "[" * 100_000 + "]" * 100_000,
    "deep, mappings": '{"a":' * 50_000 + "1" + "}" * 50_000,
    "deep, YAML": "\n".join(" " * i + "a:" for i in range(2000)),
    "aliases": "a: &a [x, x]\nb: &b [*a, *a]\nc: [*b, *b, *b]",
    "a key twice": "anabasis: 1\nname: x\nname: y",
    "NUL": '{"anabasis": 1, "name": "a\\u0000b"}',
    "half a character": '{"anabasis": 1, "name": "\\ud800"}',
    "a number without end": '{"anabasis": ' + "9" * 5000 + "}",
    "not a number": '{"anabasis": NaN, "name": "x"}',
    "a tag": "!!python/object/apply:os.system ['true']",
    "larger than the limit": "x" * (33 * 2**20),
    "a million VLANs": many("vlans", 1_000_000),
    "a lot of devices": many("devices", 200_000, kind="switch"),
    "a long name": '{"anabasis": 1, "name": "' + "x" * 8_000_000 + '"}',
}


@pytest.mark.parametrize("kind", FILES)
def test_files_that_are_none(kind: str) -> None:
    """Refused in words, within bounds; no message is longer than a person reads."""
    start = monotonic()
    with pytest.raises(InputRefused) as refused:
        parse_design(parse_text(FILES[kind]))
    assert monotonic() - start < BOUND_S
    assert 0 < len(str(refused.value)) < 60_000


def broken(value: Any, draw: Any) -> Any:
    """Return a value with one part of it replaced by something else."""
    odd = st.one_of(
        st.none(), st.booleans(), st.integers(-(2**70), 2**70), st.floats(), st.text(max_size=9),
        st.lists(st.integers(), max_size=3), st.dictionaries(st.text(max_size=3), st.none(), max_size=2),
    )  # fmt: skip
    if isinstance(value, dict | list) and value and draw(st.integers(0, 5)):
        at = draw(st.sampled_from(list(value) if isinstance(value, dict) else range(len(value))))
        out = copy.copy(value)
        out[at] = broken(value[at], draw)
        return out
    return draw(odd)


@settings(max_examples=300)
@given(st.data())
def test_broken_documents(demo: Loaded, data: st.DataObject) -> None:
    """A document with anything anywhere is understood or refused; never anything else."""
    tree = data.draw(st.sampled_from([SMALL, demo.raw]))
    for _ in range(data.draw(st.integers(1, 3))):
        tree = broken(tree, data.draw)
    with suppress(InputRefused):
        parse_design(tree)


@pytest.fixture
def client(store: Store) -> TestClient:
    """Return a client of an owner; design `d` is small."""
    store.create("d", SMALL, NOON)
    return client_of(store, raise_server_exceptions=False)


@pytest.mark.parametrize(
    ("content", "status"),
    [
        (b"\xff\xfe\x00", 422),
        ("näme".encode("latin-1"), 422),
        (b"[" * 50_000, 422),
        (json.dumps([{"op": "replace", "path": "/name", "value": "\ud800"}]).encode(), 422),
        (json.dumps([{"op": "add", "path": "/note", "value": "a\x00"}]).encode(), 422),
        (json.dumps([{"op": "test", "path": "/name", "value": "x"}] * 50_000).encode(), 422),
        (b"x" * (33 * 2**20), 413),
    ],
)
def test_bodies_that_are_none(client: TestClient, content: bytes, status: int) -> None:
    """As edits and as files."""
    kind = {"Content-Type": "application/json-patch+json", "If-Match": '"1"'}
    found = client.patch("/api/designs/d/draft", content=content, headers=kind).status_code
    assert found == status or (status == 422 and found == 400)
    assert client.post("/api/designs", content=content).status_code == (413 if status == 413 else 422)
    assert client.get("/api/designs/d/draft").json()["version"] == 1


@pytest.fixture(scope="module")
def inside(engine: Engine) -> Iterator[tuple[str, dict[str, str]]]:
    """Return the address of one server, and the headers of somebody who is signed in there."""
    store = Store(engine)
    with serving(store) as address:
        entered = requests.get(enter(store, address), allow_redirects=False, timeout=PATIENT_S)
        headers = {"Cookie": entered.headers["Set-Cookie"].split(";")[0]}
        me = requests.get(f"{address}/api/me", headers=headers, timeout=PATIENT_S).json()
        yield address, headers | {"X-CSRF-Token": me["csrf"]}


@pytest.fixture
def small(engine: Engine) -> str:
    """Return the id of a small design that is nobody else's."""
    id_ = f"d-{uuid4().hex[:8]}"
    Store(engine).create(id_, SMALL, NOON)
    return id_


ASIDE = ("/api/events", "/api/session", "/api/accounts/{name}/disabled")
"""What streams for ever, and what ends the session of who asks."""
CHAINS = count(400, 20)
"""How many chains of requests are tried."""


def described() -> dict[str, Any]:
    """Return the description without its tokens: who asks is up to each test."""
    told = description()
    del told["security"], told["components"]["securitySchemes"]
    return told


OPERATIONS = {
    f"{found.ok().method.upper()} {found.ok().path}": found.ok()
    for found in schemathesis.openapi.from_dict(described()).get_all_operations()
    if found.ok().path not in ASIDE
}


def drawn(data: st.DataObject, name: str, design: str, **options: Any) -> Any:
    """Draw a request of an operation; where it is about a design, about this one."""
    case = data.draw(OPERATIONS[name].as_strategy(**options))
    if "design_id" in (case.path_parameters or {}):
        case.path_parameters["design_id"] = design
    return case


@pytest.mark.parametrize("name", OPERATIONS)
@settings(max_examples=8, suppress_health_check=list(HealthCheck), phases=[Phase.generate])
@given(data=st.data())
def test_the_interface_keeps_its_word(
    name: str, data: st.DataObject, inside: tuple[str, dict[str, str]], small: str
) -> None:
    """Whatever is sent, in or out of what the description allows: no fault of the server, and answers of the described shape."""
    mode = data.draw(st.sampled_from([schemathesis.GenerationMode.POSITIVE, schemathesis.GenerationMode.NEGATIVE]))
    case = drawn(data, name, small, generation_mode=mode)
    answer = case.call(base_url=inside[0], headers=inside[1], timeout=PATIENT_S)
    case.validate_response(answer, checks=(not_a_server_error, content_type_conformance, response_schema_conformance))


@pytest.mark.parametrize("name", OPERATIONS)
@settings(max_examples=3, suppress_health_check=list(HealthCheck), phases=[Phase.generate])
@given(data=st.data())
def test_strangers_get_nothing_and_break_nothing(
    name: str, data: st.DataObject, inside: tuple[str, dict[str, str]], small: str
) -> None:
    """Whatever nobody sends: 401, or the refusal of what is no request at all."""
    case = drawn(data, name, small)
    answer = case.call(base_url=inside[0], timeout=PATIENT_S)
    case.validate_response(answer, checks=(not_a_server_error, content_type_conformance))
    assert answer.status_code in (401, 404, 413, 422), answer.text
    assert "document" not in answer.text


def chained() -> dict[str, Any]:
    """Return the description with links (OpenAPI, "Link Object"): from what makes a design to all that is done with one, from a draft to its edits."""
    told = described()
    of_design: dict[str, Any] = {}
    of_version: dict[str, Any] = {}
    for path, methods in told["paths"].items():
        for operation in methods.values():
            wants = {p["name"] for p in operation.get("parameters", [])}
            if path in ASIDE or "design_id" not in wants:
                continue
            link = {"operationId": operation["operationId"], "parameters": {"design_id": "$response.body#/id"}}
            of_design[operation["operationId"]] = link
            if "If-Match" in wants:
                seen = {"design_id": "$request.path.design_id", "header.If-Match": '"{$response.body#/version}"'}
                of_version[operation["operationId"]] = link | {"parameters": seen}
    told["paths"] = {p: m for p, m in told["paths"].items() if p not in ASIDE}
    for path in ("/api/designs/new", "/api/designs/{design_id}/branches"):
        told["paths"][path]["post"]["responses"]["201"]["links"] = of_design
    named = {"type": "string", "pattern": "^[a-z]{1,8}$"}
    told["components"]["schemas"]["NewDesign"] = {"type": "object", "required": ["name"], "properties": {"name": named}, "additionalProperties": False}  # fmt: skip
    told["paths"]["/api/designs/{design_id}/draft"]["get"]["responses"]["200"]["links"] = of_version
    return told


def test_one_thing_after_another(inside: tuple[str, dict[str, str]]) -> None:
    """Designs begun, branched, edited, published, folded and removed in whatever order, by their real ids and versions: no fault of the server."""
    address, headers = inside
    reached: Counter[int] = Counter()
    faults: list[str] = []

    class Chain(schemathesis.openapi.from_dict(chained()).as_state_machine()):  # type: ignore[misc]
        def get_call_kwargs(self, case: Any) -> dict[str, Any]:
            return {"headers": headers, "base_url": address, "timeout": PATIENT_S}

        def validate_response(self, response: Any, case: Any, **_: Any) -> None:
            reached[response.status_code] += 1
            checks = (not_a_server_error, content_type_conformance, response_schema_conformance)
            try:
                case.validate_response(response, checks=checks)
            except Exception as fault:
                faults.append(str(fault))
                raise

    chains = settings(
        max_examples=CHAINS,
        stateful_step_count=12,
        suppress_health_check=list(HealthCheck),
        deadline=None,
        derandomize=True,
        database=None,
        phases=[Phase.generate],
    )
    # What a chain may do next depends on what the server holds by then: not every chain can be run twice.
    for _ in range(5):
        with suppress(Flaky):
            run_state_machine_as_test(Chain, settings=chains)
            break
    assert faults == []
    assert reached[200] > 20, reached
    assert reached[201] > 10, reached
