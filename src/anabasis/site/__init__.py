"""The site as every engine sees it: layers 1 to 3 and the policies, computed once; and the places one may name in it."""

from anabasis.site.handed import Handed
from anabasis.site.places import Candidate, Place, find_place, host_place, own_place, published_place, receiver
from anabasis.site.site import Site, bare_site, number_to_address, rerouted, with_leases

__all__ = [
    "Candidate",
    "Handed",
    "Place",
    "Site",
    "bare_site",
    "find_place",
    "host_place",
    "number_to_address",
    "own_place",
    "published_place",
    "receiver",
    "rerouted",
    "with_leases",
]
