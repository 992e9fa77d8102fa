"""Design files: what is read, and how what cannot be read is refused."""

from __future__ import annotations

from pathlib import Path

import pytest

from anabasis.design import dump_yaml, load_file, load_text, parse_text
from anabasis.errors import InputRefused, UnreadableFile
from tests.conftest import DEMO

TOP = "anabasis: 1\nname: Pier\n"


def refusal(text: str) -> str:
    """Return the message with which a text is refused."""
    with pytest.raises(InputRefused) as caught:
        load_text(text, "pier.yaml")
    return str(caught.value)


def test_the_demo_is_read() -> None:
    """The shipped design is valid."""
    assert load_file(DEMO).design.name == "Tidewrack Aquarium"


def test_yaml_words_stay_words() -> None:
    """`off`, `no` and `1:30` are words in YAML 1.2, not truth values or numbers."""
    assert parse_text("a: off\nb: no\nc: 1:30\nd: 0x1\n") == {"a": "off", "b": "no", "c": "1:30", "d": "0x1"}


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (TOP + "name: Two\n", "stands twice"),
        ('{"anabasis": 1, "anabasis": 1}', "stands twice"),
        ("a: &x [1]\nb: *x\n", "anchors and aliases"),
        ("a: [1\n", "line"),
        ("[1, 2]", "mapping"),
        ('{"a": NaN}', "NaN is not JSON"),
        ("a: " + "[" * 60 + "]" * 60, "nested deeper"),
    ],
)
def test_bad_text_is_refused_with_its_place(text: str, said: str) -> None:
    """Each kind of bad text gives one clear error that names the file."""
    message = refusal(text)
    assert said in message
    assert message.startswith("pier.yaml: ")


def test_unknown_keys_name_the_nearest() -> None:
    """A misspelt key is refused with its place and the key that was meant."""
    message = refusal(TOP + "vlans:\n  - {id: 5, name: a, subnet: []}\n")
    assert "/vlans/0/subnet: unknown key 'subnet'" in message
    assert "did you mean 'subnets'?" in message


def test_unknown_names_name_the_nearest() -> None:
    """A name that nothing has is refused with its place, what is known, and the nearest."""
    zones = "devices:\n  - name: gate\n    kind: firewall\n    zones: [{name: water}]\n"
    message = refusal(TOP + zones + '    ports: [{name: "1", mode: routed, zone: watr}]\n')
    assert "/devices/0/ports/0/zone" in message
    assert "did you mean 'water'?" in message


def test_every_problem_is_told_at_once() -> None:
    """Two mistakes give two lines."""
    message = refusal(TOP + "vlans: [{id: 5000, name: a}, {id: 7, name: ' b'}]\n")
    assert "/vlans/0/id" in message
    assert "at most 4094" in message
    assert "/vlans/1/name" in message


def test_numbers_and_words_are_not_mixed_up() -> None:
    """A port named by a bare number is refused with the remedy."""
    assert "stands in quotes" in refusal(TOP + "devices: [{name: s, kind: switch, ports: [{name: 1}]}]\n")


def test_a_cable_to_a_firewall_goes_to_a_unit() -> None:
    """The device's own name as a cable end is refused with the unit's."""
    units = "devices:\n  - {name: gate, kind: firewall, units: [{name: gate-a}], ports: [{name: '1'}]}\n"
    message = refusal(TOP + units + "cables: [['gate:1', 'gate-a:1']]\n")
    assert "cables go to its units" in message
    assert "gate-a:1" in message


def test_unreadable_files(tmp_path: Path) -> None:
    """A missing file, a folder, and bytes that are no text are refused, not crashed on."""
    for path in (tmp_path / "none.yaml", tmp_path):
        with pytest.raises(UnreadableFile, match="cannot be opened"):
            load_file(path)
    (tmp_path / "bytes").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(UnreadableFile, match="UTF-8"):
        load_file(tmp_path / "bytes")


def test_text_is_kept_as_written() -> None:
    """Notes, order of keys and quoted numbers come back."""
    loaded = load_file(DEMO)
    assert parse_text(dump_yaml(loaded.raw)) == loaded.raw
    assert list(loaded.raw)[:3] == ["anabasis", "name", "note"]
