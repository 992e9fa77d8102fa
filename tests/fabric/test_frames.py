"""802.1Q at one port: what comes in as what, and what goes out as what (clauses 6.9, 8.6 and 8.8)."""

from __future__ import annotations

from typing import Any

import pytest

from anabasis.design.ports import Port
from anabasis.fabric import UNTAGGED, egress, ingress
from anabasis.fabric.frames import edge_forms


def port(**settings: Any) -> Port:
    """Return a port."""
    return Port.model_validate({"name": "1", **settings})


ACCESS = port(pvid=110, untagged=[110])
TRUNK = port(tagged=[110, 150])
HYBRID = port(pvid=130, untagged=[130], tagged=[180])


@pytest.mark.parametrize(
    ("settings", "form", "vlan"),
    [
        (ACCESS, UNTAGGED, 110),
        (ACCESS, 110, None),  # an access port takes untagged frames only
        (TRUNK, UNTAGGED, None),  # no PVID
        (TRUNK, 150, 150),
        (TRUNK, 120, None),  # no member, ingress filtering
        (HYBRID, UNTAGGED, 130),
        (HYBRID, 180, 180),
        (port(tagged=[110], ingress_check=False), 120, 120),
        (port(pvid=5, untagged=[6]), UNTAGGED, None),  # PVID is not a member: dropped
        (port(pvid=5, untagged=[6], ingress_check=False), UNTAGGED, 5),
        (port(pvid=130, untagged=[130], tagged=[180], accept="tagged"), UNTAGGED, None),
        (port(pvid=110, untagged=[110], accept="all"), 110, 110),
        (port(tagged=[137], translate={"147": 137}), 147, 137),
        (port(tagged=[999], ingress_check=False), 999, None),  # not in the device's table
    ],
)
def test_ingress(settings: Port, form: int, vlan: int | None) -> None:
    """Each frame is put into its VLAN, or dropped with the reason."""
    found, why = ingress(settings, form, frozenset({5, 6, 110, 120, 130, 137, 150, 180}))
    assert found == vlan
    assert bool(why) == (vlan is None)


def test_egress() -> None:
    """Untagged, tagged, translated, or not at all."""
    assert egress(HYBRID, 130) == UNTAGGED
    assert egress(HYBRID, 180) == 180
    assert egress(HYBRID, 110) is None
    assert egress(port(tagged=[137], translate={"147": 137}), 137) == 147


def test_forms_of_hosts() -> None:
    """A host on a port may speak untagged where the port has a PVID or sends untagged, and in each tag."""
    assert edge_forms(HYBRID) == [UNTAGGED, 180]
    assert edge_forms(TRUNK) == [110, 150]
    assert edge_forms(port()) == []
