"""Real packets against what was computed, where this machine has namespaces to give."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from dataclasses import replace
from random import Random
from typing import Any

import pytest

from anabasis.design import load_file
from anabasis.design.edits import patched
from anabasis.errors import InputRefused
from anabasis.facts import Covers, NotProved, Proof, ProofProbe
from anabasis.faults import faults_of
from anabasis.packets.kernel import NAMED, check_allowed, sweep
from anabasis.packets.lab import unproved
from anabasis.proof import proof_rows, prove
from anabasis.proof.choosing import choose
from anabasis.testing import scene_of
from tests.conftest import ROOT
from tests.counts import count
from tests.sites import Tree
from tests.sound import sound_site


def allowed() -> bool:
    """Tell whether packets can be sent here."""
    try:
        check_allowed()
    except InputRefused:
        return False
    return True


kernel = pytest.mark.skipif(not allowed(), reason="needs root with network namespaces, ip and nft")


def plain(tree: Any) -> Any:
    """Return a document as JSON has it."""
    return json.loads(json.dumps(tree))


def demo(name: str) -> Tree:
    """Return a document of the demo."""
    return plain(load_file(ROOT / "demo" / f"{name}.yaml").raw)  # type: ignore[no-any-return]


def check(proof: Proof) -> None:
    """No packet says otherwise than what was computed."""
    assert proof.differ == (), [proof_rows(proof, every=False)["differ"]]


def test_what_is_sent_meets_everything() -> None:
    """Of the demo every rule that a packet can meet, every route, translation and answer, both sides of the border; every pair of segments that passes and that does not."""
    scene = scene_of(demo("tidewrack"))
    site = scene.by_hand
    chosen = choose(site, {s.laptop: s.at for s in scene.stands}, {})
    sides: dict[tuple[Covers, str], set[bool]] = {}
    for probe in chosen.probes:
        for met in probe.meets:
            sides.setdefault((met.kind, met.item), set()).add(met.inside)
    both = {k: sum(len(v) == 2 for (kind, _), v in sides.items() if kind == k) for k in Covers}
    assert both[Covers.RULE] >= 12
    assert both[Covers.TRANSLATION] == 2
    assert both[Covers.ROUTE] >= 30
    assert both[Covers.ANSWERS] >= 10
    assert {p.computed for p in chosen.probes} == {True, False}
    only = choose(site, {}, {}, [("keepers", "life-support")])
    assert {(p.from_, p.to) for p in only.probes} == {("keepers", "life-support")}


def test_what_is_not_proved_is_named_and_not_counted() -> None:
    """An overlay: its boxes are named, and nothing that goes over it is among the probes."""
    seed = next(s for s in range(10_000, 10_050) if unproved(scene_of(plain(sound_site(s))).by_hand.design))
    site = scene_of(plain(sound_site(seed))).by_hand
    chosen = choose(site, {}, unproved(site.design))
    assert chosen.left_out[NotProved.TUNNELS] > 0
    assert chosen.probes


@kernel
@pytest.mark.slow
def test_the_demo() -> None:
    """Sound: as computed."""
    proof = prove(demo("tidewrack"))
    check(proof)
    assert sum(r.seen == "answered" for r in proof.results) > 40
    assert proof.seconds < 120
    assert list(NAMED.glob(f"anabasis-{os.getpid()}-*")) == []


@kernel
@pytest.mark.slow
def test_with_its_faults_and_with_a_unit_down() -> None:
    """As found on the first day; and with the active unit dead, the other at work."""
    check(prove(demo("tidewrack-first-day")))
    down = prove(demo("tidewrack"), [("keepers", "life-support"), ("visitors", "internet")], ["gate-a"])
    check(down)
    assert any(r.probe.computed for r in down.results)
    assert down.failed == ("gate-a",)


@kernel
@pytest.mark.slow
@pytest.mark.parametrize("seed", range(count(200, 3)))
def test_generated_sites_with_a_fault(seed: int) -> None:
    """A sound site of its own for each seed, with one fault of the catalogue in it."""
    tree = plain(sound_site(500 + seed))
    fault = Random(seed).choice(list(faults_of(tree)))
    try:
        proof = prove(patched(tree, fault.edit))
    except InputRefused:
        return
    check(proof)
    assert proof.results or proof.left_out


@kernel
@pytest.mark.slow
def test_a_wrong_verdict_is_found() -> None:
    """Planted in what was computed of one packet: that one is told to differ, and no other."""
    tree = plain(sound_site(3))
    planted: list[ProofProbe] = []

    def spoil(probe: ProofProbe) -> ProofProbe:
        if probe.computed and not planted:
            planted.append(replace(probe, computed=False))
            return planted[0]
        return probe

    proof = prove(tree, spoil=spoil)
    assert [r.probe for r in proof.differ] == planted
    assert proof_rows(proof)["differ"][0]["seen"] == "answered"


@kernel
@pytest.mark.slow
def test_a_run_that_is_killed_is_swept_away() -> None:
    """Its namespaces are gone with the next run; the host's own interfaces are what they were."""
    host = subprocess.run(["ip", "-o", "link"], capture_output=True, text=True, check=True).stdout
    run = subprocess.Popen(
        [sys.executable, "-m", "anabasis", "prove", str(ROOT / "demo" / "tidewrack.yaml")], stdout=subprocess.DEVNULL
    )
    mine = f"anabasis-{run.pid}-*"
    for _ in range(600):
        if len(list(NAMED.glob(mine))) > 3:
            break
        time.sleep(0.1)
    os.kill(run.pid, signal.SIGKILL)
    run.wait()
    assert list(NAMED.glob(mine))
    assert sweep() > 3
    assert list(NAMED.glob(mine)) == []
    assert subprocess.run(["ip", "-o", "link"], capture_output=True, text=True, check=True).stdout == host
