"""Cells of tables that spreadsheets open: what begins like a formula is written so that none is made of it, and read back as it was."""

from __future__ import annotations

FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""What a cell begins with that a spreadsheet takes for a formula."""


def escaped(text: str) -> str:
    """Return a cell that no spreadsheet takes for a formula."""
    return f"'{text}" if text.startswith((*FORMULA, "'")) else text


def unescaped(text: str) -> str:
    """Return what was meant by such a cell."""
    return text[1:] if text[:1] == "'" and text[1:].startswith((*FORMULA, "'")) else text
