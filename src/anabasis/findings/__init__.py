"""What to mend: one file a family of checks, one catalogue. Each check reads a site, or its verdicts, and yields findings."""

from itertools import chain

from anabasis.findings import (
    addressing,
    bundling,
    cabling,
    expecting,
    layer3,
    leases,
    membership,
    naming,
    pairing,
    promises,
    returning,
    ruling,
    tables,
    translating,
    unused,
    zoning,
)
from anabasis.findings.answers_grid import AnswersGrid, answers_grids
from anabasis.findings.catalogue import CATALOGUE, STAGES, Choice, Finding, as_markdown, in_order, place_to_begin
from anabasis.findings.offers import Offer, offers
from anabasis.reach import Verdicts

__all__ = [
    "CATALOGUE",
    "STAGES",
    "AnswersGrid",
    "Choice",
    "Finding",
    "Offer",
    "answers_grids",
    "as_markdown",
    "find_all",
    "offers",
    "place_to_begin",
]


def find_all(verdicts: Verdicts) -> list[Finding]:
    """Return every finding of a site, the grave ones first and from the lowest stage up."""
    site = verdicts.sweep.site
    on_site = (
        cabling.check,
        bundling.check,
        tables.check,
        membership.check,
        addressing.check,
        layer3.check,
        leases.check,
        zoning.check,
        unused.check,
        naming.check,
        pairing.check,
    )
    on_reach = (returning.check, translating.check, ruling.check, promises.check, expecting.check)
    return in_order(chain(*(check(site) for check in on_site), *(check(verdicts) for check in on_reach)))
