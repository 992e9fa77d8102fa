"""Ways in and out: plain tables (docs/formats.md). Each reader answers a proposal; nothing is applied before a person has looked."""

from anabasis.interchange.tables import TABLES, kind_of, read_table, write_table

__all__ = ["TABLES", "kind_of", "read_table", "write_table"]
