"""What to mend: one file a family of checks, one catalogue. Each check reads a site, or its verdicts, and yields findings."""

from itertools import chain

from anabasis.findings import bundling, cabling, layer3, leases, membership, returning, scope, tables, zoning
from anabasis.findings.catalogue import CATALOGUE, STAGES, Finding, as_markdown, in_order, place_to_begin
from anabasis.reach import Verdicts

__all__ = ["CATALOGUE", "STAGES", "Finding", "as_markdown", "find_all", "place_to_begin"]


def find_all(verdicts: Verdicts) -> list[Finding]:
    """Return every finding of a site, the grave ones first and from the lowest stage up."""
    site = verdicts.sweep.site
    on_site = (
        cabling.check,
        bundling.check,
        tables.check,
        membership.check,
        layer3.check,
        leases.check,
        zoning.check,
        scope.check,
    )
    return in_order(chain(*(check(site) for check in on_site), returning.check(verdicts)))
