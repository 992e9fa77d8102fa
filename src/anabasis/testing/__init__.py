"""The test sheet: few tests that show whether a site is as designed, what each shows under every single fault, and what was seen."""

from anabasis.testing.asking import ask
from anabasis.testing.cover import Cover, cover
from anabasis.testing.results import (
    COLUMNS,
    Result,
    allowed_for,
    as_csv,
    key_of,
    read_results,
    read_row,
    read_seen,
    sheet_row,
)
from anabasis.testing.sheet import TestSheet, scene_of, sheet_for, sheet_of
from anabasis.testing.showing import Scene
from anabasis.testing.signatures import Signatures, shown_under, signatures
from anabasis.testing.stands import Stand, stands_of

__all__ = [
    "COLUMNS",
    "Cover",
    "Result",
    "Scene",
    "Signatures",
    "Stand",
    "TestSheet",
    "allowed_for",
    "as_csv",
    "ask",
    "cover",
    "key_of",
    "read_results",
    "read_row",
    "read_seen",
    "scene_of",
    "sheet_for",
    "sheet_of",
    "sheet_row",
    "shown_under",
    "signatures",
    "stands_of",
]
