"""What a screen shows, made ready from what was computed; no rule of the trade lives here."""

from anabasis.views.answers_grid import AnswersGrid, answers_grids
from anabasis.views.cable_ends import CableEnds, cable_ends
from anabasis.views.cabling import Cabling, cabling
from anabasis.views.expectation_rows import ExpectationRow, expectation_rows
from anabasis.views.failures import DrillView, EventRow, SweptRow, drill_view, event_row, swept_rows
from anabasis.views.lease_strips import Strip, strips
from anabasis.views.matrix import Matrix, MatrixCell, matrix, matrix_csv
from anabasis.views.matrix_map import TILE, MatrixMap, TileCell, matrix_map, matrix_tile
from anabasis.views.pair_stands import PairStand, pair_stands
from anabasis.views.plugged import PlugRow, plug_row
from anabasis.views.policies import FirewallPolicy, policies
from anabasis.views.profile import PacketView, PairView, packet_view, pair_view
from anabasis.views.routing import DeviceRouting, LookupView, conditions, lookup_view, routing_overview
from anabasis.views.segment_drawing import SegmentDrawing, segment_drawing
from anabasis.views.vlan_grid import Grid, vlan_grid
from anabasis.views.walks import walk_as_dict

__all__ = [
    "TILE",
    "AnswersGrid",
    "CableEnds",
    "Cabling",
    "DeviceRouting",
    "DrillView",
    "EventRow",
    "ExpectationRow",
    "FirewallPolicy",
    "Grid",
    "LookupView",
    "Matrix",
    "MatrixCell",
    "MatrixMap",
    "PacketView",
    "PairStand",
    "PairView",
    "PlugRow",
    "SegmentDrawing",
    "Strip",
    "SweptRow",
    "TileCell",
    "answers_grids",
    "cable_ends",
    "cabling",
    "conditions",
    "drill_view",
    "event_row",
    "expectation_rows",
    "lookup_view",
    "matrix",
    "matrix_csv",
    "matrix_map",
    "matrix_tile",
    "packet_view",
    "pair_stands",
    "pair_view",
    "plug_row",
    "policies",
    "routing_overview",
    "segment_drawing",
    "strips",
    "swept_rows",
    "vlan_grid",
    "walk_as_dict",
]
