"""Who asks, and whether they may: sessions in cookies with a token against forged requests, tokens of programs (RFC 6750), roles by design."""

from __future__ import annotations

import hmac
from collections.abc import Callable
from typing import Annotated, Any

from fastapi import Depends, Request
from starlette.responses import Response

from anabasis.errors import NoSuchThing, NotAllowed, NotSignedIn
from anabasis.server.state import State, TheState
from anabasis.store import ROLES, Bearer, Entered, Person, Signed
from anabasis.store.people import KNOWN_LASTS, SESSION_LASTS

SAFE = {"GET", "HEAD", "OPTIONS"}
CSRF = "X-CSRF-Token"


def cookie_name(request: Request) -> str:
    """Return the name of the session's cookie; cookies of one host are shared by its ports, so the port is in it."""
    return f"anabasis-{request.url.port or 443}"


def known_name(request: Request) -> str:
    """Return the name of the cookie by which a browser is known that somebody signed in with before."""
    return f"{cookie_name(request)}-known"


def set_cookies(request: Request, response: Response, entered: Entered) -> None:
    """Give a browser its session: out of reach of scripts, never sent from another site, over TLS or loopback only."""
    kept = ((cookie_name(request), entered.cookie, SESSION_LASTS), (known_name(request), entered.known, KNOWN_LASTS))
    for name, value, lasts in kept:
        age = int(lasts.total_seconds())
        response.set_cookie(name, value, max_age=age, path="/", secure=True, httponly=True, samesite="strict")


def who_asks(request: Request, state: State) -> Signed | None:
    """Return who asks now, by a token where one is sent, else by the cookie; None = nobody."""
    scheme, _, secret = request.headers.get("Authorization", "").partition(" ")
    if scheme.lower() == "bearer":
        bearer = state.tokens.bearer(secret.strip(), state.clock())
        return Signed(bearer, "") if bearer is not None else None
    return state.people.signed(request.cookies.get(cookie_name(request)), state.clock())


def signed_in(request: Request, state: TheState) -> Signed:
    """Return who asks. Raises NotSignedIn, or NotAllowed where a change comes by a cookie without the page's token."""
    known: Signed | None = getattr(request.state, "signed", None)
    if known is not None:
        return known
    signed = who_asks(request, state)
    if signed is None:
        raise NotSignedIn("Nobody is signed in here, or the session or the token has ended.")
    given = request.headers.get(CSRF, "")
    forged = not isinstance(signed.person, Bearer) and not hmac.compare_digest(given.encode(), signed.csrf.encode())
    if request.method not in SAFE and forged:
        raise NotAllowed(f"A change needs the page's own token in {CSRF}; load the page again.")
    request.state.signed = signed
    return signed


TheSigned = Annotated[Signed, Depends(signed_in)]


def _person(signed: TheSigned) -> Person:
    return signed.person


def by_whom(person: Person) -> str:
    """Return who did something, as it is told: a program with the name of its token."""
    return f"{person.name}, by {person.token}"[:80] if isinstance(person, Bearer) else person.name


def _author(signed: TheSigned) -> str:
    return by_whom(signed.person)


ThePerson = Annotated[Person, Depends(_person)]
Author = Annotated[str, Depends(_author)]


def in_person(person: ThePerson) -> None:
    """Raise NotAllowed where a program asks what people alone may."""
    if isinstance(person, Bearer):
        raise NotAllowed("A token is for designs; this is done by a person who is signed in.")


def may_begin(person: ThePerson) -> None:
    """Raise NotAllowed where a program may not add designs."""
    if isinstance(person, Bearer) and (person.scope != ROLES[-1] or person.only is not None):
        raise NotAllowed(f"To add designs, a token needs the scope {ROLES[-1]}, for all designs.")


def check(state: State, person: Person, design: str, role: str) -> None:
    """Raise NoSuchThing where a design is not for this person's eyes, NotAllowed where they may read it and no more."""
    has = state.people.role(person, design)
    if has is None:
        raise NoSuchThing(f"There is no design {design!r}.")
    if ROLES.index(has) < ROLES.index(role):
        raise NotAllowed(f"This needs the right to {role} this design; {person.name} may {has}.")


def may(role: str) -> Any:
    """Return the dependency of a route that needs a right to the design in its path."""

    def checked(design_id: str, person: ThePerson, state: TheState) -> None:
        check(state, person, design_id, role)

    checker: Callable[..., None] = checked
    return Depends(checker)


def owner_only(person: ThePerson) -> None:
    """Raise NotAllowed where somebody is no owner."""
    if not person.owner:
        raise NotAllowed(f"Only an owner may do this; {person.name} is none.")
