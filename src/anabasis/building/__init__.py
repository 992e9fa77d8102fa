"""The build sheet: the ordered steps from one state of a site to another, and what each costs while the site is live."""

from anabasis.building.order import Order
from anabasis.building.rows import outage_rows, pairs_as_rows, sheet_rows
from anabasis.building.sheet import BuildSheet, build_sheet

__all__ = ["BuildSheet", "Order", "build_sheet", "outage_rows", "pairs_as_rows", "sheet_rows"]
