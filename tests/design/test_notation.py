"""How addresses, prefixes, services and cable ends are written."""

from __future__ import annotations

import pytest

from anabasis.design import notation


@pytest.mark.parametrize(
    ("text", "span"),
    [
        ("tcp/443", (6, 443, 443)),
        ("udp/2222-2230", (17, 2222, 2230)),
        ("icmp/8", (1, 8, 8)),
        ("icmp", (1, 0, 255)),
        ("tcp", (6, 0, 65535)),
        ("gre", (47, 0, 0)),
        ("proto/47", (47, 0, 0)),
    ],
)
def test_services(text: str, span: tuple[int, int, int]) -> None:
    """A service is a protocol with a range of ports or types."""
    assert notation.parse_service(text) == span


@pytest.mark.parametrize(
    "text", ["tcp/", "tcp/70000", "tcp/9-3", "icmp/300", "gre/5", "tpc/80", "proto/256", "tcp/-1", "tcp/１"]
)
def test_bad_services(text: str) -> None:
    """What is no service says what one is."""
    with pytest.raises(ValueError, match=r"."):
        notation.parse_service(text)


def test_a_prefix_with_host_bits_names_the_wider_one() -> None:
    """The remedy stands in the message."""
    with pytest.raises(ValueError, match=r"10\.64\.110\.0/24"):
        notation.parse_prefix("10.64.110.7/24")


@pytest.mark.parametrize("text", ["10.0.0.9-10.0.0.1", "10.0.0.1-fd64::1", "10.0.0.0/33", "10.0.0"])
def test_bad_spans(text: str) -> None:
    """Ranges run upwards in one family."""
    with pytest.raises(ValueError, match=r"."):
        notation.parse_span(text)


def test_pointers_are_escaped() -> None:
    """RFC 6901 section 3: ~ and / in a name."""
    assert notation.pointer("a/b", 3, "c~d") == "/a~1b/3/c~0d"


GOOD = ("pump-ctl 2", "a/b", "1/0/24", "Gezeitenbecken größer", "水槽", "a:b c", "Te1/1.5", "10.1 uplink")
BAD = (
    "",
    " a",
    "a ",
    "x" * 81,
    "a\nb",
    "a\u200bb",
    "e\u0301",
    "any",
    "Any",
    "10.64.1.1",
    "10.0.0.0/8",
    "tcp/80",
    "a:1--b:2",
    "fd64::1",
)


@pytest.mark.parametrize("text", GOOD)
def test_names(text: str) -> None:
    """Printable Unicode passes, whatever the language."""
    assert notation.parse_name(text) == text


@pytest.mark.parametrize("text", BAD)
def test_what_is_no_name(text: str) -> None:
    """Control characters, blanks around, decomposed letters, and what reads as something else, with another name offered."""
    with pytest.raises(ValueError, match="a name"):
        notation.parse_name(text)


def test_a_box_has_no_colon() -> None:
    """It stands between a device and its port."""
    assert notation.parse_box_name("hall sw/2") == "hall sw/2"
    with pytest.raises(ValueError, match="'a-b'"):
        notation.parse_box_name("a:b")
