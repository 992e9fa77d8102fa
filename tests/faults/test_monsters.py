"""Input made to hurt: each is answered in bounded work and 512 MiB, by a process that reads nothing else.

Work is counted against a plain loop in the same process, so that a slow or a busy machine changes nothing.
"""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Callable

import pytest

from tests.conftest import ROOT
from tests.counts import count

MIB = 2**20
LOOPS, MEMORY_MIB = 40, 512
"""How many times the work of the plain loop (a tenth of a second on a desktop) reading may take; memory."""
READ = """
import sys, time
from anabasis.design import load_text
from anabasis.errors import AnabasisError
text = sys.stdin.read()
began = time.process_time()
sum(i * i % 7 for i in range(1_500_000))
loop, began = time.process_time() - began, time.process_time()
try:
    load_text(text)
    said = "read"
except AnabasisError as error:
    said = str(error)[:100]
most = next(x for x in open("/proc/self/status") if x.startswith("VmHWM"))
print((time.process_time() - began) / loop, int(most.split()[1]) // 1024, said)
"""


def design(**more: object) -> str:
    """Return a design as JSON."""
    return json.dumps({"anabasis": 1, "name": "x", **more})


def firewall(**more: object) -> dict[str, object]:
    """Return a firewall."""
    return {"name": "f", "kind": "firewall", **more}


MONSTERS: dict[str, Callable[[], str]] = {
    "a list of very many": lambda: "- a\n" * (2 * MIB),
    "very many keys": lambda: "".join(f"k{i}: 1\n" for i in range(650_000)),
    "very deep": lambda: "- " * (4 * MIB),
    "deep JSON": lambda: "[" * (8 * MIB),
    "deep flow": lambda: "a: " + "[" * (7 * MIB),
    "one long word": lambda: "a: " + "x" * (8 * MIB - 10),
    "quoted escapes": lambda: '- "\\u0041"\n' * (700_000),
    "comments": lambda: "# x\n" * (2 * MIB - 10) + "a: 1",
    "tags": lambda: "- !!str 1\n" * 800_000,
    "a number of very many digits": lambda: "- " + "9" * (8 * MIB - 20),
    "aliases": lambda: "a: &a [x]\n" + "b: [*a, *a]\n" * 600_000,
    "unknown keys": lambda: design(**{f"key{i}": 1 for i in range(100_000)}),
    "unknown keys in a thing": lambda: design(vlans=[{"id": 1, "name": "a", **{f"key{i}": 1 for i in range(100_000)}}]),
    "a key of megabytes": lambda: design(**{"k" * (8 * MIB): 1}),
    "cables to nowhere": lambda: design(
        devices=[{"name": f"d{i}", "kind": "switch"} for i in range(4000)],
        cables=[[f"e{i}:1", f"f{i}:1"] for i in range(count(50_000, 15_000))],
    ),
    "zones that are none": lambda: design(
        devices=[
            firewall(
                zones=[{"name": f"z{i}", "kind": "routed"} for i in range(count(5000, 1500))],
                rules=[
                    {"name": f"r{i}", "from": [f"y{i}"], "to": ["any"], "action": "permit"}
                    for i in range(count(30_000, 8_000))
                ],
            )
        ]
    ),
    "a note of megabytes": lambda: design(note="n" * (30 * MIB)),
    "names given twice": lambda: design(devices=[{"name": "d", "kind": "switch"}] * 5000),
}


@pytest.mark.parametrize("kind", MONSTERS)
def test_a_monster_is_answered_in_bounds(kind: str) -> None:
    """Read or refused, neither takes much work nor much memory."""
    done = subprocess.run([sys.executable, "-c", READ], input=MONSTERS[kind](), text=True, cwd=ROOT, capture_output=True, timeout=60, check=True)  # fmt: skip
    loops, memory, said = done.stdout.split(" ", 2)
    assert float(loops) < LOOPS, said
    assert int(memory) < MEMORY_MIB, said
