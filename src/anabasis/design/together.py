"""Several edits that were each written for one document, made on it together."""

from __future__ import annotations

from collections.abc import Sequence

from jsonpointer import JsonPointer

from anabasis.design.edits import Patch, Tree, patched

MOVES = ("remove", "move")


def together(tree: Tree, edits: Sequence[Patch]) -> Tree:
    """Return a document after several edits that were each written for the document as it is.

    Those that put something in its place come first; those that move the entries of lists last and from the end, so that places stay what they
    were meant to be. Raises InputRefused where they do not go together.
    """
    out = tree
    for edit in sorted(edits, key=_disturbs):
        out = patched(out, edit)
    return out


def _disturbs(edit: Patch) -> tuple[bool, tuple[int, ...]]:
    """Rank an edit: those that move no entry of a list first, then those that stand further down."""
    parts = [(op["op"], JsonPointer(op["path"]).parts) for op in edit]
    moves = any(op in MOVES or (op == "add" and path and path[-1].isdigit()) for op, path in parts)
    return moves, min((tuple(-int(p) for p in path if p.isdigit()) for _, path in parts), default=())
