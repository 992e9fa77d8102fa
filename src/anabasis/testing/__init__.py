"""The test sheet: few tests that show whether a site is as designed, what each shows under every single fault, and what was seen."""

from anabasis.testing.asking import ask
from anabasis.testing.results import (
    as_csv,
    key_of,
    read_results,
    read_row,
    sheet_row,
)
from anabasis.testing.runs import answers_of, proved_pairs, stale_lines, wrong_lines
from anabasis.testing.sheet import TestSheet, scene_of, sheet_for
from anabasis.testing.showing import Scene
from anabasis.testing.signatures import Signatures, signatures

__all__ = [
    "Scene",
    "Signatures",
    "TestSheet",
    "answers_of",
    "as_csv",
    "ask",
    "key_of",
    "proved_pairs",
    "read_results",
    "read_row",
    "scene_of",
    "sheet_for",
    "sheet_row",
    "signatures",
    "stale_lines",
    "wrong_lines",
]
