"""Places a question may name, and questions in words."""

from __future__ import annotations

import pytest

from anabasis.climb import Climb
from anabasis.errors import UnknownPlace
from anabasis.site import find_place
from anabasis.verdicts import ask, one_service, read_services


@pytest.mark.parametrize(
    ("text", "address", "segment"),
    [
        ("pump-ctl", "10.64.110.20", "life-support"),
        ("10.64.110.20", "10.64.110.20", "life-support"),
        ("10.64.110.99", "10.64.110.99", "life-support"),
        ("hall-sw:1", "10.64.130.77", "keepers"),
        ("keepers", "10.64.130.77", "keepers"),
        ("gate:hall.130", "10.64.130.1", "keepers"),
        ("lab-sw:vlan170", "10.64.170.1", "lab"),
        ("internet", "192.0.2.10", "internet"),
        ("fd64:0:0:110::20", "fd64:0:0:110::20", "life-support"),
        ("camera-3", "10.64.150.103", "cameras"),
    ],
)
def test_places(climb: Climb, text: str, address: str, segment: str) -> None:
    """An address, a segment, a device, a port: each stands for one host or interface."""
    place = find_place(climb.site, text).places[0]
    assert str(place.address) == address
    assert place.segment is not None
    assert climb.site.segments.all[place.segment].name == segment


def test_an_address_two_segments_share_stands_where_its_endpoint_is(climb: Climb) -> None:
    """The camera's address lies in the subnet of both sides of the boundary, and belongs to the camera's."""
    for text, segment in (("10.64.150.103", "cameras"), ("10.64.150.10", "recorders")):
        place = find_place(climb.site, text).places[0]
        assert place.segment == climb.segment(segment)


@pytest.mark.parametrize("text", ["nowhere", "10.64.110.0", "10.64.110.255", "10.63.0.1", "tank-sw:99", "1.2.3", ":1"])
def test_no_place(climb: Climb, text: str) -> None:
    """Neither names of nothing, nor addresses no host can have."""
    with pytest.raises(UnknownPlace):
        find_place(climb.site, text)


def test_services_in_words(climb: Climb) -> None:
    """A set of the design, an IANA name, a port, several; `any` is no set but all."""
    site = climb.site
    assert read_services(site, "any") is None
    assert read_services(site, "pump-bus") == {(6, 502, 502), (17, 2222, 2230)}
    assert read_services(site, "https, tcp/8443") == {(6, 443, 443), (6, 8443, 8443)}
    assert one_service(site, "pump-bus") == (6, 502)
    assert one_service(site, "ping", {4}) == (1, 8)
    assert one_service(site, "ping", {6}) == (58, 128)
    assert one_service(site, "any") == (6, 443)
    with pytest.raises(UnknownPlace, match="did you mean 'pump-bus'"):
        read_services(site, "pump-buss")
    with pytest.raises(UnknownPlace, match="4 or 6"):
        ask(site, None, 5)
