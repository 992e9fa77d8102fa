"""Who may reach whom: `walk` (one packet, plain), `sweep` (all pairs, exact sets), verdicts, and what an edit changed."""

from anabasis.reach.consequences import Change, Consequences, compare_reach
from anabasis.reach.matrix import Matrix, matrix
from anabasis.reach.places import Candidate, Place, find_place
from anabasis.reach.plug import Plug, plug
from anabasis.reach.profile import PairView, pair_view
from anabasis.reach.questions import ask, one_service, read_services
from anabasis.reach.site import Site
from anabasis.reach.spaces import FlowSet, readable_services, service_texts
from anabasis.reach.standing import build_site
from anabasis.reach.sweep import Sweep
from anabasis.reach.trip import Hop
from anabasis.reach.verdicts import Question, Verdict, Verdicts, read_flows, write_flows
from anabasis.reach.walk import Walk, choose_ends, service_text, stopped_at, walk

__all__ = [
    "Candidate",
    "Change",
    "Consequences",
    "FlowSet",
    "Hop",
    "Matrix",
    "PairView",
    "Place",
    "Plug",
    "Question",
    "Site",
    "Sweep",
    "Verdict",
    "Verdicts",
    "Walk",
    "ask",
    "build_site",
    "choose_ends",
    "compare_reach",
    "find_place",
    "matrix",
    "one_service",
    "pair_view",
    "plug",
    "read_flows",
    "read_services",
    "readable_services",
    "service_text",
    "service_texts",
    "stopped_at",
    "walk",
    "write_flows",
]
