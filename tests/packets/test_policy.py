"""What the referee makes of a document without a kernel: rulesets, tables, filters that frames cross."""

from __future__ import annotations

import json
import shutil
import subprocess
from pathlib import Path
from typing import Any

import pytest

from anabasis.design import load_file, parse_design
from anabasis.packets.lab import Given, Lab, lab_of
from anabasis.packets.meaning import UnseenFilter, Words, prefixes_of, read_packet
from anabasis.packets.ruleset import published, ruleset
from anabasis.packets.tables import Tables
from anabasis.packets.wire import Frame
from tests.counts import count
from tests.sites import Tree
from tests.sound import sound_site

DEMO = Path(__file__).parents[2] / "demo" / "tidewrack.yaml"


def demo() -> Tree:
    """Return the sound demo, as JSON has it."""
    return json.loads(json.dumps(load_file(DEMO).raw))  # type: ignore[no-any-return]


def lab(tree: Tree, **given: Any) -> Lab:
    """Return what a document is built of."""
    return lab_of(parse_design(tree), Given(**given))


def box(of: Lab, name: str) -> Any:
    """Return a device."""
    return next(d for d in of.design.devices if d.name == name)


def dev(of: Lab, device: str, name: str) -> str:
    """Return what an interface is called in its namespace."""
    return next(i.dev for i in of.of(device) if i.name == name)


def test_rules_and_translations_of_the_demo() -> None:
    """A published address, a source that becomes the interface's, what stands between two zones, in the order of the document."""
    built = lab(demo())
    text = ruleset(built, box(built, "gate"))
    street, keepers = dev(built, "gate", "1"), dev(built, "gate", "hall.130")
    lines = [x.strip() for x in text.splitlines()]
    nat = next(x for x in lines if "dnat" in x)
    assert nat.startswith(f'iifname "{street}"')
    assert "ip daddr 198.51.100.5" in nat
    assert nat.endswith("dnat ip to 10.64.170.10")
    assert any(f'oifname "{street}"' in x and x.endswith("snat ip to 198.51.100.2") for x in lines)
    forward = next(x for x in lines if "jump passes" in x and f'iifname "{street}"' in x and keepers in x)
    one, two = forward.rpartition("_")[0].rpartition("_")[2], forward.rpartition("_")[2]
    assert f"chain passes_{one}_{two} {{ jump rules_{one}_{two}; accept; }}" in text
    assert (street, "198.51.100.5") in [(i.dev, a) for i, a in published(built, box(built, "gate"))]


def test_tables_of_the_demo() -> None:
    """A VRF a table; what leads into another is written out as that one has it; a packet that finds nothing there is lost."""
    built = lab(demo(), learnt=(("gate", "main", "10.64.170.0/24", "10.64.171.2", "6"),))
    commands = list(Tables(built, box(built, "gate")).commands())
    reef, lab_port = dev(built, "gate", "9"), dev(built, "gate", "6")
    assert f"route replace 203.0.113.64/26 via 198.51.100.33 dev {reef} onlink table 102" in commands
    assert f"route replace 203.0.113.64/26 via 198.51.100.33 dev {reef} onlink table 101" in commands, "leaked"
    assert f"route replace 10.64.170.10/32 via 10.64.171.2 dev {lab_port} onlink table 102" in commands, "and back"
    assert f"rule add pref 1000 iif {reef} lookup 102" in commands
    assert f"rule add pref 1001 iif {reef} blackhole" in commands


def test_a_failed_part_is_not_there() -> None:
    """The unit that is dead has no cables; a cable that is cut has no ends; a box that failed has no namespace."""
    whole, dead = lab(demo()), lab(demo(), failed=frozenset({"gate-a"}), active={"gate": "gate-b"})
    assert "gate" in whole.boxes
    assert "gate" in dead.boxes
    assert set(whole.cables) != set(dead.cables)
    cut = lab(demo(), failed=frozenset({"desk-7:1--hall-sw:1"}))
    assert len(cut.cables) == len(whole.cables) - 1
    gone = lab(demo(), failed=frozenset({"lab-sw"}))
    assert not [c for c in gone.of("lab-server") if c.tap], "its only line leads to the box that failed"


@pytest.mark.skipif(shutil.which("nft") is None, reason="needs nft")
@pytest.mark.parametrize("seed", range(count(100, 6)))
def test_every_ruleset_is_one(seed: int) -> None:
    """Of generated sites: `nft --check` takes what is written for each box."""
    built = lab(json.loads(json.dumps(sound_site(seed))))
    texts = [t for t in (ruleset(built, box(built, n)) for n in built.boxes) if t]
    assert texts
    for text in texts:
        done = subprocess.run(["nft", "--check", "-f", "-"], input=text, text=True, capture_output=True, check=False)
        if "permitted" in done.stderr:
            pytest.skip("nft may not be asked here")
        assert done.returncode == 0, (done.stderr[:400], text)


def packet(protocol: int, source: int, target: int, ports: tuple[int, int]) -> Frame:
    """Return a frame with an IPv4 packet of one port to another."""
    head = bytes([0x45, 0, 0, 40, 0, 0, 0, 0, 64, protocol, 0, 0]) + bytes([10, 0, 0, source, 10, 0, 0, target])
    return Frame(
        b"\2" * 6, b"\4" * 6, None, b"\x08\x00" + head + b"".join(p.to_bytes(2, "big") for p in ports) + b"\0" * 12
    )


def test_a_filter_that_frames_cross_knows_its_sessions() -> None:
    """What a rule permits passes, its reply too, nothing else; ARP always; a zone of another kind lets nothing pass."""
    tree: Tree = {
        "anabasis": 1, "name": "x",
        "devices": [{
            "name": "f", "kind": "firewall",
            "zones": [{"name": "in", "kind": "bridged"}, {"name": "out", "kind": "bridged"}, {"name": "far"}],
            "rules": [{"name": "web", "from": ["in"], "to": ["out"], "destinations": ["10.0.0.2"], "services": ["tcp/443"], "action": "permit"}],
        }],
    }  # fmt: skip
    design = parse_design(tree)
    asks = UnseenFilter(Words(design), design.devices[0], "bridged")  # type: ignore[arg-type]
    there, back = packet(6, 1, 2, (5000, 443)), packet(6, 2, 1, (443, 5000))
    assert not asks("out", "in", back), "a reply that nobody asked for"
    assert asks("in", "out", there)
    assert asks("out", "in", back)
    assert not asks("in", "out", packet(6, 1, 2, (5000, 80)))
    assert not asks("in", "out", packet(6, 1, 3, (5000, 443)))
    assert asks("in", "out", Frame(b"\xff" * 6, b"\4" * 6, None, b"\x08\x06" + b"\0" * 28))
    assert not asks("in", "far", there)
    assert not asks(None, "out", there)
    assert asks("in", "in", packet(17, 1, 3, (1, 2))), "one zone, nothing filtered inside"


def test_packets_and_prefixes_are_read() -> None:
    """A packet of no protocol that is known has neither port nor type; a span falls into as few prefixes as it can."""
    read = read_packet(packet(17, 1, 2, (9, 53)).rest)
    assert read is not None
    assert (read.version, read.protocol, read.from_port, read.number) == (4, 17, 9, 53)
    answer = read_packet(packet(17, 2, 1, (53, 9)).rest)
    assert answer is not None
    assert answer.back == read.flow
    assert read_packet(b"\x08\x06" + b"\0" * 40) is None
    assert read_packet(b"\x08\x00\x45") is None
    assert prefixes_of(4, 0x0A000000, 0x0A0000FF) == ["10.0.0.0/24"]
    assert prefixes_of(6, 1, 1) == ["::1/128"]
    assert prefixes_of(4, 1, 2) == ["0.0.0.1/32", "0.0.0.2/32"]
