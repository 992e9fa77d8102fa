"""A survey over real sockets: the boxes of the demo stand in for themselves on loopback; and agents and clients of others."""

from __future__ import annotations

import asyncio
import json
import shutil
import subprocess
import time
from pathlib import Path

import pytest

from anabasis.errors import InputRefused
from anabasis.facts import Silence
from anabasis.interchange import drift
from anabasis.standin import Manner
from anabasis.standin.boxes import Box
from anabasis.survey import Credentials, Survey, parse_targets, run
from tests.sites import Tree
from tests.survey.standing import DEMO, KNOWN, V3, free_ports, standing


def asked(boxes: list[Box], credentials: Credentials, only: str = "", patience_s: float = 3.0) -> Survey:
    """Ask boxes."""
    survey = Survey(parse_targets([f"{only}127.0.0.1:{b.port}" for b in boxes]))
    asyncio.run(run(survey, credentials, patience_s=patience_s, longest_s=40))
    return survey


@pytest.mark.slow
def test_the_demo_is_as_designed() -> None:
    """By both protocols, every box; what its firewall says of zones and rules with it."""
    with standing({}) as boxes:
        survey = asked(boxes, KNOWN)
        assert {a.box: a.why for a in survey.answers} == {b.name: None for b in boxes}
        assert drift(DEMO, survey.seen) == []


@pytest.mark.slow
def test_by_snmp_version_3_alone() -> None:
    """With a user, a secret and privacy (RFC 3414); a wrong secret is told as such."""
    with standing({}, own=False, only=("hall-sw", "street", "desk-7")) as boxes:
        survey = asked(boxes, V3, "snmp://")
        assert [a.by for a in survey.answers] == [("snmp",)] * 3
        assert drift(DEMO, survey.seen) == []
        wrong = asked(
            boxes[:1],
            Credentials(snmp_user="reader", snmp_secret="another-secret", snmp_privacy="private-private"),
            "snmp://",
        )
        assert [a.why for a in wrong.answers] == [Silence.NOT_ALLOWED]


@pytest.mark.slow
def test_whoever_does_not_answer_is_told_with_why() -> None:
    """Slow, silent, refusing, lying, and nobody at all: the others are known all the same."""
    manners = {"street": Manner.SLOW, "hall-sw": Manner.SILENT, "tank-sw": Manner.REFUSING, "lab-sw": Manner.LYING}
    with standing(manners, only=(*manners, "desk-7")) as boxes:
        targets = [f"127.0.0.1:{b.port}" for b in boxes] + [f"127.0.0.1:{boxes[-1].port + 1}", "no-such-name.invalid"]
        survey = Survey(parse_targets(targets))
        asyncio.run(run(survey, KNOWN, patience_s=2.5, longest_s=40))
        why = {a.box or a.target.rpartition(":")[2]: a.why for a in survey.answers}
        port = {b.name: str(b.port) for b in boxes}
        assert why["street"] is None
        assert why["desk-7"] is None
        assert why[port["hall-sw"]] == Silence.NO_ANSWER
        assert why[port["tank-sw"]] == Silence.NOT_ALLOWED
        assert why.get("lab-sw", why.get(port["lab-sw"])) == Silence.NONSENSE
        assert why[str(boxes[-1].port + 1)] in (Silence.REFUSED, Silence.NO_ANSWER)
        assert why["no-such-name.invalid"] is not None
        assert sorted(survey.said) == ["desk-7", "street"]


@pytest.mark.slow
def test_a_survey_is_stopped_with_what_is_known() -> None:
    """At once, whoever keeps silent."""
    with standing({"hall-sw": Manner.SILENT}, only=("hall-sw", "desk-7")) as boxes:
        survey = Survey(parse_targets([f"restconf://127.0.0.1:{b.port}" for b in boxes]))

        def told(answer: object) -> None:
            survey.stopped = True

        begun = time.monotonic()
        asyncio.run(run(survey, KNOWN, told, patience_s=30, longest_s=30))
        assert time.monotonic() - begun < 10
        assert {a.why for a in survey.answers} == {None, Silence.STOPPED}
        assert list(survey.said) == ["desk-7"]


def test_credentials_show_nowhere() -> None:
    """Not in what Python prints of them."""
    held = Credentials("c-secret", "u", "s-secret", "p-secret", "v", "w-secret")
    assert "secret" not in repr(held)


@pytest.mark.parametrize("text", ["http://a", "a:0", "a:99999", "a:b", "a b", "[::1", "snmp://", "-", "a/b"])
def test_whom_nobody_can_ask(text: str) -> None:
    """One clear error."""
    if text in ("-", "[::1"):
        assert parse_targets([text])[0].text == text
        return
    with pytest.raises(InputRefused):
        parse_targets([text])


def needs(program: str) -> pytest.MarkDecorator:
    """Skip where a program of Debian is not installed."""
    found = shutil.which(program) or shutil.which(program, path="/usr/sbin")
    return pytest.mark.skipif(found is None, reason=f"{program} is not installed")


@pytest.mark.slow
@needs("snmpwalk")
def test_a_client_of_others_walks_our_stand_in() -> None:
    """Every object, in order, with both versions."""
    with standing({}, only=("hall-sw",)) as (box,):
        where = f"127.0.0.1:{box.port}"
        for how in (
            ["-v2c", "-cpublic"],
            ["-v3", "-ureader", "-lauthPriv", "-aSHA", "-Asecret-secret", "-xAES", "-Xprivate-private"],
        ):
            done = subprocess.run(
                ["snmpwalk", *how, "-On", where, ".1"], capture_output=True, text=True, timeout=60, check=True
            )
            lines = [line for line in done.stdout.splitlines() if line.startswith(".1.") and "No more" not in line]
            assert len(lines) == len(box.objects)


@pytest.mark.slow
@needs("curl")
def test_a_client_of_others_reads_our_stand_in() -> None:
    """The root, all data, one entry of a list, a resource that is not there, and no writing."""
    with standing({}, only=("hall-sw",)) as (box,):
        at = f"http://127.0.0.1:{box.port}"

        def got(path: str, *more: str) -> tuple[int, Tree]:
            done = subprocess.run(
                ["curl", "-s", "-u", "anybody:by hand", "-w", "\n%{http_code}", *more, at + path],
                capture_output=True, text=True, timeout=30, check=True,
            )  # fmt: skip
            text, _, status = done.stdout.rpartition("\n")
            return int(status), json.loads(text) if text.startswith("{") else {}

        assert "/restconf" in subprocess.run(["curl", "-s", "-u", "a:by hand", at + "/.well-known/host-meta"], capture_output=True, text=True, check=True).stdout  # fmt: skip
        status, data = got("/restconf/data")
        assert (status, data["ietf-restconf:data"]) == (200, json.loads(json.dumps(box.data)))
        status, one = got("/restconf/data/ietf-interfaces:interfaces/interface=4")
        assert (status, one["ietf-interfaces:interface"][0]["name"]) == (200, "4")
        assert got("/restconf/data/ietf-interfaces:interfaces/interface=99")[0] == 404
        assert got("/restconf/data", "-X", "PATCH", "-d", "{}")[0] == 405
        assert got("/restconf/data", "-u", "anybody:wrong")[0] == 401


@pytest.mark.slow
@needs("snmpd")
def test_an_agent_of_others_is_surveyed(tmp_path: Path) -> None:
    """Debian's agent tells of this machine: its name, its loopback with its address."""
    port = free_ports(1)
    config = tmp_path / "agent.conf"
    config.write_text(f"agentaddress udp:127.0.0.1:{port}\nrocommunity public 127.0.0.1\nsysname shed\n")
    program = shutil.which("snmpd") or "/usr/sbin/snmpd"
    agent = subprocess.Popen(
        [program, "-f", "-Lf", str(tmp_path / "log"), "-C", "-c", str(config), "-p", str(tmp_path / "pid")],
        env={"MIBS": "", "SNMP_PERSISTENT_DIR": str(tmp_path), "PATH": "/usr/sbin:/usr/bin:/bin"},
    )  # fmt: skip
    try:
        survey = Survey(parse_targets([f"snmp://127.0.0.1:{port}"]))
        for _ in range(20):
            survey = Survey(survey.targets)
            asyncio.run(run(survey, Credentials(), patience_s=1.0))
            if survey.said:
                break
        (shed,) = survey.seen
        assert shed.name == "shed"
        names = {i["name"]: i for i in survey.said["shed"][0]["ietf-interfaces:interfaces"]["interface"]}
        assert "127.0.0.1" in {a["ip"] for a in names["lo"].get("ietf-ip:ipv4", {}).get("address", [])}
    finally:
        agent.terminate()
        agent.wait(10)
