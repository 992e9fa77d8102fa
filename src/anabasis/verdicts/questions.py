"""Questions in words: `--service https`, `--family 4`, and what they mean to the sweep and the walk."""

from __future__ import annotations

from anabasis.design.iana import iana_services
from anabasis.design.notation import FAMILY_OF, PROTOCOLS, parse_service
from anabasis.errors import Problem, UnknownPlace, nearest
from anabasis.policy import Service, ServiceSpan
from anabasis.site import Site
from anabasis.verdicts.verdicts import Question


def ask(site: Site, service: str | None = None, family: int | None = None) -> Question:
    """Return the question a person means. Raises UnknownPlace where the service or the family is none."""
    if family not in (None, 4, 6):
        raise UnknownPlace([Problem("", "no address family", str(family), "4 or 6")])
    return Question(read_services(site, service) if service else None, family)


def read_services(site: Site, text: str) -> frozenset[ServiceSpan] | None:
    """Return the services a text names: `any`, `tcp/443`, a set of the design, an IANA service; several with commas."""
    names = [s.name for s in site.design.services]
    terms = [t.strip() for t in text.split(",")]
    for term in terms:
        known = term == "any" or term in names or term in iana_services()
        if not known:
            try:
                parse_service(term)
            except ValueError as error:
                close = nearest(term, [*names, *iana_services(), *PROTOCOLS])
                raise UnknownPlace([Problem("", "there is no such service", repr(term), str(error), close)]) from None
    return site.policies.terms.services(terms)


def one_service(site: Site, text: str, families: set[int] | None = None) -> Service:
    """Return one concrete service of those a text names: the first that packets of one of the families can be.

    Of a range it is the lowest port, of `any` it is tcp/443.
    """
    spans = read_services(site, text)
    if spans is None:
        return PROTOCOLS["tcp"], 443
    fitting = [s for s in sorted(spans) if families is None or FAMILY_OF.get(s[0]) in (None, *families)]
    protocol, low, _ = (fitting or sorted(spans))[0]
    return protocol, low
