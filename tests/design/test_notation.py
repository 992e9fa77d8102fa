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


def test_names() -> None:
    """Plain names pass, the rest does not."""
    assert notation.parse_name("pump-ctl 2") == "pump-ctl 2"
    for bad in ("", "a/b", " a", "a  b", "x" * 81, "a:b"):
        with pytest.raises(ValueError, match="a name"):
            notation.parse_name(bad)
