"""What to mend: one file a family of checks, one catalogue. Each check reads a site, or its verdicts, and yields findings."""

from functools import partial
from itertools import chain

from anabasis.findings import (
    addressing,
    bundling,
    cabling,
    expecting,
    layer3,
    learning,
    leases,
    membership,
    naming,
    pairing,
    promises,
    returning,
    ruling,
    tables,
    tenants,
    translating,
    tunnelling,
    unused,
    zoning,
)
from anabasis.findings.catalogue import (
    STAGES,
    Finding,
    Severity,
    StageName,
    as_markdown,
    in_order,
    place_to_begin,
)
from anabasis.findings.offers import Offer, offers
from anabasis.findings.ruling import risky_answers
from anabasis.memo import Same
from anabasis.patience import Work, through
from anabasis.verdicts import Verdicts

__all__ = [
    "STAGES",
    "Finding",
    "Offer",
    "Severity",
    "StageName",
    "as_markdown",
    "find_all",
    "offers",
    "place_to_begin",
    "risky_answers",
]


def find_all(verdicts: Verdicts) -> list[Finding]:
    """Return every finding of a site, the grave ones first and from the lowest stage up."""
    site = verdicts.sweep.site
    below_rules = (
        cabling.check,
        bundling.check,
        tables.check,
        membership.check,
        addressing.check,
        layer3.check,
        learning.check,
        tunnelling.check,
        tenants.check,
    )
    on_site = (leases.check, zoning.check, partial(unused.check, memo=verdicts.memo), naming.check, pairing.check)
    on_reach = (returning.check, translating.check, ruling.check, promises.check, expecting.check)
    checks = [*(partial(c, site) for c in on_site), *(partial(c, verdicts) for c in on_reach)]
    lower = verdicts.memo.get("findings below rules", Same(site.net), lambda: [f for c in below_rules for f in c(site)])
    return in_order(chain(lower, chain.from_iterable(check() for check in through(checks, Work.FINDINGS))))
