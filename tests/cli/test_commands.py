"""The command line as a script sees it: JSON on standard output, one clear line of refusal, exit status."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
import yaml

from anabasis.design import Loaded, apply, dump_json, dump_yaml, set_membership
from tests.conftest import DEMO
from tests.survey.standing import free_ports

TOOL = Path(sys.executable).parent / "anabasis"


def run(*arguments: str) -> tuple[int, str, str]:
    """Run a command; return status, output, errors."""
    done = subprocess.run([TOOL, *arguments], capture_output=True, text=True, check=False)
    return done.returncode, done.stdout, done.stderr


def answer(*arguments: str) -> Any:
    """Return the JSON a command prints, and nothing else there."""
    status, out, err = run(*arguments, "--json")
    assert status in (0, 1), err
    return json.loads(out)


PROMISED: list[tuple[tuple[str, ...], set[str]]] = [
    (("segments",), {"name", "subnets", "vlans", "ports", "domain"}),
    (("interfaces",), {"device", "interface", "mode", "up", "reason", "addresses", "vrf", "zone"}),
    (("routes",), {"device", "vrf", "to", "via", "interface", "origin", "active", "reason"}),
]


@pytest.mark.parametrize(("command", "keys"), PROMISED)
def test_lists_have_the_promised_keys(command: tuple[str, ...], keys: set[str]) -> None:
    """And every value is plain JSON."""
    rows = answer(*command, str(DEMO))
    assert rows
    assert all(keys <= row.keys() for row in rows)


def test_segments_name_ports_by_unit() -> None:
    """A firewall's attachments are those of its active unit."""
    rows = {r["name"]: r for r in answer("segments", str(DEMO))}
    assert "gate-a:hall.130" in rows["keepers"]["ports"]
    assert {"device": "tank-sw", "vlan": 130} in rows["keepers"]["vlans"]


def test_reach() -> None:
    """Every ordered pair of different segments, each with its exact flows."""
    found = answer("reach", str(DEMO), "--service", "tcp/443")
    count = len(found["segments"])
    assert len(found["pairs"]) == count * (count - 1)
    pairs = {(p["from"], p["to"]): p for p in found["pairs"]}
    assert pairs["keepers", "life-support"]["verdict"] == "all"
    assert pairs["keepers", "life-support"]["flows"][0]["services"] == ["tcp/443"]
    assert pairs["visitors", "life-support"] | {"flows": []} == pairs["visitors", "life-support"]
    assert {"from", "to", "verdict", "layer", "reason", "decided_by", "flows"} <= pairs["visitors", "lab"].keys()
    assert all(p["from"] != p["to"] for p in found["pairs"])
    six = answer("reach", str(DEMO), "--family", "6")
    assert {f["sources"][0] for p in six["pairs"] for f in p["flows"]} <= {
        "fd64:0:0:110::/64",
        "fd64:0:0:130::/64",
        "::/0",
    }


def test_walk_says_by_its_status_whether_it_holds() -> None:
    """0 delivered, 1 stopped; the way back has the same keys."""
    status, out, _ = run("walk", str(DEMO), "--from", "keepers", "--to", "pump-ctl", "--service", "pump-bus", "--json")
    found = json.loads(out)
    assert (status, found["outcome"]) == (0, "delivered")
    assert found["way_back"].keys() == found.keys()
    assert {"device", "stage", "text", "pointer"} <= found["hops"][0].keys()
    status, out, _ = run("walk", str(DEMO), "--from", "visitors", "--to", "pump-ctl", "--service", "ping", "--json")
    assert (status, json.loads(out)["layer"]) == (1, "rule")


def test_findings_status(tmp_path: Path, demo: Loaded) -> None:
    """0 where nothing breaks, 1 where something does; the mend is a patch that applies."""
    assert run("findings", str(DEMO))[0] == 0
    patch = set_membership(demo.raw, "tank-sw", "across", 130, "none")
    broken = apply(demo.raw, patch)[0]
    for name, text in (("d.json", dump_json(broken)), ("d.yaml", dump_yaml(broken))):
        (tmp_path / name).write_text(text, encoding="utf-8")
        status, out, _ = run("findings", str(tmp_path / name), "--json")
        finding = json.loads(out)[0]
        assert (status, finding["code"], finding["severity"]) == (1, "island", "breaks")
        assert apply(broken, finding["mend"])[0] == demo.raw


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("segments", "nowhere.yaml"), "nowhere.yaml: cannot be opened"),
        (("walk", str(DEMO), "--from", "keeper", "--to", "lab"), "did you mean 'keepers'"),
        (("reach", str(DEMO), "--service", "tcp/99999"), "no such service"),
        (("reach", str(DEMO), "--family", "5"), "4 or 6"),
        (("reach",), "Missing argument"),
        (("frobnicate",), "No such command"),
    ],
)
def test_wrong_calls(arguments: tuple[str, ...], said: str) -> None:
    """Status 2, nothing on standard output, one clear message."""
    status, out, err = run(*arguments)
    assert (status, out) == (2, "")
    assert said in err
    assert "Traceback" not in err


def test_tables_for_people() -> None:
    """Every command prints a table without --json, and an unknown key in a file is refused with its place."""
    for command in ("segments", "interfaces", "routes", "reach", "findings"):
        status, out, _ = run(command, str(DEMO))
        assert status == 0
        assert out.strip()
    status, out, _ = run("walk", str(DEMO), "--from", "keepers", "--to", "lab", "--service", "https")
    assert "delivered" in out


def test_plug() -> None:
    """The promised keys; 0 with an address, 1 with the first thing that stops it."""
    status, out, _ = run("plug", str(DEMO), "hall-sw:2", "--json")
    found = json.loads(out)
    assert status == 0
    assert {"vlan", "segment", "address", "gateway", "server", "layer", "reason", "reaches"} <= found.keys()
    assert (found["address"], found["layer"]) == ("10.64.130.50", None)
    status, out, _ = run("plug", str(DEMO), "hall-sw:2", "--tag", "110", "--json")
    assert (status, json.loads(out)["layer"]) == (1, "vlan")
    status, out, err = run("plug", str(DEMO), "hall-sw:99")
    assert (status, out) == (2, "")
    assert "no port of this name" in err


def test_both_demos_are_what_they_say() -> None:
    """The sound one has nothing to mend; the first day breaks at its lowest stage first, and one edit mends most of it."""
    assert answer("findings", str(DEMO)) == []
    first_day = answer("findings", str(DEMO.with_name("tidewrack-first-day.yaml")))
    assert first_day[0]["code"] == "bundle-down"
    codes = {f["code"] for f in first_day}
    assert {"island", "native-differs", "zone-kind", "lease-range", "lease-two", "default-left"} <= codes
    assert sum(f["mend"] is not None for f in first_day) >= 6


def test_expect_is_for_a_pipeline(tmp_path: Path, demo: Loaded) -> None:
    """Promised keys, and exit status 1 where one expectation does not hold."""
    rows = answer("expect", str(DEMO))
    assert {"name", "expect", "holds", "verdict", "reason", "decided_by"} <= rows[0].keys()
    assert run("expect", str(DEMO))[0] == 0
    broken = tmp_path / "broken.yaml"
    tree, _ = apply(demo.raw, [{"op": "remove", "path": "/devices/4/rules/13"}])
    broken.write_text(dump_yaml(tree))
    status, out, _ = run("expect", str(broken))
    assert status == 1
    assert "tills take cards" in out


def test_failover_has_the_promised_keys() -> None:
    """Who is active, how fast, what is lost; status 1 where an expectation breaks; with a sweep a list of those."""
    event = answer("failover", str(DEMO), "--fail", "gate-a")
    assert event == {
        "pair": "gate",
        "active": ["gate-b"],
        "split_brain": False,
        "detect_ms": 3000,
        "sessions": "kept",
        "reach_lost": [],
    }
    status, out, _ = run("failover", str(DEMO), "--fail", "gate-a", "--fail", "gate-b", "--json")
    assert (status, json.loads(out)["active"]) == (1, [])
    assert {"from": "keepers", "to": "lab"} in json.loads(out)["reach_lost"]
    assert run("failover", str(DEMO), "--fail", "gate-x")[0] == 2
    swept = answer("failover", str(DEMO), "--sweep", "1")
    assert all(event.keys() | {"failed"} <= row.keys() for row in swept)
    assert swept[0]["failed"] == ["hall-sw"]


def test_compare_has_the_promised_keys(tmp_path: Path, demo: Loaded) -> None:
    """A broken expectation is status 1; the edits lead from the first file to the second."""
    other = tmp_path / "other.yaml"
    at = next(i for i, r in enumerate(demo.raw["devices"][4]["rules"]) if r["name"] == "keepers-drive-pumps")
    tree, _ = apply(demo.raw, [{"op": "remove", "path": f"/devices/4/rules/{at}"}])
    other.write_text(dump_yaml(tree))
    assert run("compare", str(DEMO), str(other))[0] == 1
    found = answer("compare", str(DEMO), str(other))
    assert apply(demo.raw, found["edits"])[0] == tree
    assert found["expectations"] == {"broken": ["keepers drive pumps"], "mended": []}
    assert {(c["from"], c["to"]) for c in found["reach"]["closed"]} >= {("keepers", "life-support")}
    assert found["reach"]["opened"] == []
    assert [(w["sign"], w["title"]) for w in found["words"]] == [("removed", "gate keepers-drive-pumps")]
    assert answer("compare", str(DEMO), str(DEMO))["words"] == []


def test_a_question_as_of_a_time(tmp_path: Path) -> None:
    """A rule with hours: open by day, closed by night and at any time; a time that is none is refused with what would be one."""
    text = DEMO.read_text(encoding="utf-8")
    design = tmp_path / "hours.yaml"
    tree = yaml.safe_load(text)
    gate = next(d for d in tree["devices"] if d["name"] == "gate")
    hours = {"start": "2026-01-05T08:00", "duration": "PT10H", "repeat": "FREQ=DAILY"}
    rule = {
        "name": "by day",
        "from": ["guests"],
        "to": ["tills"],
        "services": ["tcp/443"],
        "action": "permit",
        "when": hours,
    }
    gate["rules"].insert(0, rule)
    design.write_text(yaml.safe_dump(tree, sort_keys=False), encoding="utf-8")
    packet = ("walk", str(design), "--from", "visitors", "--to", "till-1", "--service", "tcp/443")
    assert run(*packet)[0] == 0
    assert run(*packet, "--at", "2026-11-28T12:00")[0] == 0
    assert run(*packet, "--at", "2026-11-28T20:00")[0] == 1
    assert run(*packet, "--at", "always")[0] == 1
    status, _, err = run(*packet, "--at", "noon")
    assert (status, "2026-12-01T08:00" in err) == (2, True)


def test_tables_in_and_out(tmp_path: Path) -> None:
    """A table that is written is read back without a change; rows without a place make the exit status 1, and are told with their line."""
    _, table, _ = run("write", "vlans", DEMO)
    assert table.splitlines()[0] == "id,name,subnets,purpose,note"
    file, design = tmp_path / "vlans.csv", tmp_path / "design.yaml"
    file.write_text(table, encoding="utf-8")
    status, out, _ = run("read", "vlans", str(file), "--into", DEMO, "--json")
    assert (status, json.loads(out)[0]["patch"]) == (0, [])
    file.write_text("Port;Switch;Access\n1;quay-sw;10\n2;quay-sw;x\n", encoding="utf-8")
    status, out, _ = run("read", "any", str(file), "--save", str(design), "--json")
    (found,) = json.loads(out)
    assert (status, found["kind"], found["placed"], [u["line"] for u in found["lost"]]) == (1, "ports", 1, [3])
    assert answer("segments", str(design))[0]["name"] == "vlan10"


def test_yang_data_in_and_out(tmp_path: Path) -> None:
    """The demo comes back as it was; one box of it into a design of its own; a box that is not there is told with the nearest name."""
    status, out, _ = run("write", "yang", str(DEMO))
    assert status == 0
    file, back = tmp_path / "site.json", tmp_path / "back.json"
    file.write_text(out, encoding="utf-8")
    status, out, _ = run("read", "any", str(file), "--save", str(back))
    assert (status, "18" in out) == (0, True)
    loaded = yaml.safe_load(DEMO.read_text(encoding="utf-8"))
    assert json.loads(back.read_text(encoding="utf-8")) == json.loads(json.dumps(loaded))
    one = tmp_path / "gate.json"
    one.write_text(run("write", "yang", str(DEMO), "--device", "gate")[1], encoding="utf-8")
    told = answer("read", "yang", str(one))
    assert (told[0]["placed"], told[0]["lost"]) == (1, [])
    status, _, err = run("write", "yang", str(DEMO), "--device", "gat")
    assert (status, "did you mean 'gate'?" in err) == (2, True)
    assert "module anabasis-site" in run("schema", "--yang")[1]


@pytest.mark.slow
def test_a_survey_of_stand_ins(tmp_path: Path) -> None:
    """Two commands, two processes: what was spoiled is found; whoever is not there is told; what the site says is written as a design."""
    first = free_ports(24)
    stand_in = subprocess.Popen(
        [TOOL, "stand-in", str(DEMO), "--spoil", "4", "--port", str(first), "--tell"], stdout=subprocess.PIPE, text=True
    )
    try:
        assert stand_in.stdout is not None
        lines: list[str] = []
        for line in iter(stand_in.stdout.readline, ""):
            lines.append(line)
            if line.startswith("anabasis survey"):
                break
        boxes = [line.split()[0] for line in lines if line.startswith("127.0.0.1:")]
        assert len([line for line in lines if line.startswith("spoiled: ")]) == 4
        saved = tmp_path / "seen.yaml"
        status, out, err = run(
            "survey", *boxes, f"127.0.0.1:{first + 23}", "--into", str(DEMO), "--save", str(saved), "--json"
        )
        assert status == 1
        told = json.loads(out)
        assert f"{len(boxes) + 1}/{len(boxes) + 1}" in err
        assert [a["why"] for a in told["answers"] if a["why"]] in (["refused"], ["no-answer"])
        assert len(told["differs"]) >= 4
        assert run("segments", str(saved))[0] == 0
        status, out, _ = run("survey", *boxes, "--into", str(saved))
        assert (status, "The site is as the design has it." in out) == (0, True)
    finally:
        stand_in.terminate()
        stand_in.wait(20)


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("survey", "not a host"), "HOST:PORT"),
        (("stand-in", "{demo}", "--as", "gate-a=slo"), "did you mean 'slow'?"),
        (("stand-in", "{demo}", "--as", "gat-a=slow"), "did you mean 'gate-a'?"),
        (("read", "yang", "{demo}"), "no data of YANG modules"),
    ],
)
def test_wrong_ways_in(arguments: tuple[str, ...], said: str) -> None:
    """One clear line, status 2."""
    status, _, err = run(*(a.format(demo=DEMO) for a in arguments))
    assert (status, said in err) == (2, True), err
