"""The test sheet: few tests that show whether a site is as designed, what each shows under every single fault, and what was seen."""

from anabasis.testing.asking import ask
from anabasis.testing.cover import Cover, cover
from anabasis.testing.sheet import TestSheet, scene_of, sheet_for, sheet_of
from anabasis.testing.showing import Scene
from anabasis.testing.signatures import Signatures, shown_under, signatures
from anabasis.testing.stands import Stand, stands_of

__all__ = [
    "Cover",
    "Scene",
    "Signatures",
    "Stand",
    "TestSheet",
    "ask",
    "cover",
    "scene_of",
    "sheet_for",
    "sheet_of",
    "shown_under",
    "signatures",
    "stands_of",
]
