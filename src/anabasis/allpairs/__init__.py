"""The exact flows of all pairs of segments at once, as arrays over classes (docs/reach.md). Start at `sweep.py`."""

from anabasis.allpairs.family import Family, PairSpace
from anabasis.allpairs.fingerprints import Fingerprints
from anabasis.allpairs.forwarding_classes import ForwardingClasses
from anabasis.allpairs.path_table import HOST, Zones
from anabasis.allpairs.permits import Lines
from anabasis.allpairs.sweep import Sweep
from anabasis.allpairs.tally import Tally
from anabasis.allpairs.translations import published

__all__ = [
    "HOST",
    "Family",
    "Fingerprints",
    "ForwardingClasses",
    "Lines",
    "PairSpace",
    "Sweep",
    "Tally",
    "Zones",
    "published",
]
