"""What a document says, as a digest: by it what is kept in memory is found again, whatever becomes of version numbers."""

from __future__ import annotations

import hashlib
import json

from anabasis.design import Tree


def stamp_of(tree: Tree) -> str:
    """Return the digest of a document (SHA-256, FIPS 180-4), key order included. Cost: linear in its size."""
    text = json.dumps(tree, ensure_ascii=False, separators=(",", ":"))
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()
