"""Signing in and out, accounts, and who may do what with a design."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Path, Request, Response
from pydantic import BaseModel, Field
from starlette.responses import RedirectResponse

from anabasis.errors import InputRefused, NotAllowed, NotLetIn, Problem
from anabasis.server.access import (
    Author,
    ThePerson,
    TheSigned,
    check,
    cookie_name,
    in_person,
    known_name,
    may,
    owner_only,
    set_cookies,
)
from anabasis.server.state import TheState
from anabasis.store import ROLES, Bearer, Person, Token
from anabasis.store.passwords import LONGEST
from anabasis.store.tokens import DAYS

router = APIRouter(tags=["people"])
door = APIRouter(include_in_schema=False)
Role = Literal["read", "edit", "publish", "administer"]
AccountName = Annotated[str, Field(min_length=1, max_length=80)]
Password = Annotated[str, Field(max_length=LONGEST)]


class Me(BaseModel):
    """Who is signed in here, and the token that changes carry in `X-CSRF-Token`."""

    name: str
    owner: bool
    has_password: bool
    csrf: str
    token: str | None = None
    """What the token is called that asks, and the most it may."""
    scope: Role | None = None


class SignIn(BaseModel):
    """A name and a password."""

    name: AccountName
    password: Password


class NewAccount(BaseModel):
    """An account to be made."""

    name: AccountName
    password: Password
    owner: bool = False


class NewPassword(BaseModel):
    """Another password; `old` is needed where there is one."""

    new: Password
    old: Password = ""


class RoleOf(BaseModel):
    """What somebody may do with a design; null = nothing."""

    name: AccountName
    role: Role | None


@router.get("/me")
def me(signed: TheSigned) -> Me:
    """Say who is signed in here."""
    person = signed.person
    of = {"token": person.token, "scope": person.scope} if isinstance(person, Bearer) else {}
    told = {"name": person.name, "owner": person.owner, "has_password": person.has_password, "csrf": signed.csrf}
    return Me.model_validate(told | of)


@router.post("/session", status_code=204)
def sign_in(wanted: SignIn, request: Request, response: Response, state: TheState) -> None:
    """Sign in; the session is a cookie. After some failures 429 for a while."""
    known = request.cookies.get(known_name(request))
    entered = state.people.sign_in(wanted.name, wanted.password, state.clock(), _source(request), known)
    set_cookies(request, response, entered)


@router.delete("/session", status_code=204, dependencies=[Depends(in_person)])
def sign_out(signed: TheSigned, request: Request, response: Response, state: TheState) -> None:
    """Sign out here."""
    state.people.sign_out(request.cookies.get(cookie_name(request), ""))
    state.history.note(signed.person.name, "signed out", None, "", state.clock())
    response.delete_cookie(cookie_name(request), path="/", secure=True, httponly=True, samesite="strict")


@router.put("/me/password", status_code=204, dependencies=[Depends(in_person)])
def change_password(wanted: NewPassword, person: ThePerson, request: Request, state: TheState) -> None:
    """Change one's own password; sessions elsewhere end."""
    if person.has_password:
        known = request.cookies.get(known_name(request))
        entered = state.people.sign_in(person.name, wanted.old, state.clock(), _source(request), known)
        state.people.sign_out(entered.cookie)
    state.people.set_password(person.id, wanted.new, request.cookies.get(cookie_name(request)), state.clock())


@router.delete("/me/sessions", status_code=204, dependencies=[Depends(in_person)])
def end_my_sessions(person: ThePerson, request: Request, state: TheState) -> None:
    """End one's own sessions in all other browsers."""
    state.people.end_sessions(person.name, request.cookies.get(cookie_name(request)), person.name, state.clock())


class NewToken(BaseModel):
    """A token to be made."""

    name: Annotated[str, Field(min_length=1, max_length=40)]
    scope: Role
    design: Annotated[str, Field(max_length=64)] | None = None
    """The one design it is for, its what-ifs included; left out = all that its person may."""
    days: Annotated[int, Field(ge=1, le=DAYS)] = 90


class MadeToken(BaseModel):
    """A token and its secret, which is told this once."""

    token: Token
    secret: str


@router.get("/me/tokens", dependencies=[Depends(in_person)])
def my_tokens(person: ThePerson, state: TheState) -> list[Token]:
    """List one's own tokens, without their secrets."""
    return state.tokens.of(person, state.clock())


@router.post("/me/tokens", status_code=201, dependencies=[Depends(in_person)])
def make_token(wanted: NewToken, person: ThePerson, state: TheState) -> MadeToken:
    """Make a token, by which a program may what its person may, within a scope."""
    if wanted.design is not None:
        check(state, person, wanted.design, "read")
    made = state.tokens.make(person, wanted.name, wanted.scope, wanted.design, wanted.days, state.clock())
    return MadeToken(token=made[0], secret=made[1])


@router.delete("/me/tokens/{token_id}", status_code=204, dependencies=[Depends(in_person)])
def end_token(token_id: Annotated[str, Path(max_length=16)], person: ThePerson, state: TheState) -> None:
    """End one of one's own tokens."""
    state.tokens.end(person, token_id, state.clock())


@router.get("/accounts", dependencies=[Depends(in_person)])
def accounts(state: TheState, person: ThePerson) -> list[Person]:
    """List everybody, for those who may let somebody do something: owners, and who administers a design."""
    if not person.owner and ROLES[-1] not in state.people.roles_of(person).values():
        raise NotAllowed("Only who administers a design may see everybody.")
    return state.people.all()


@router.post("/accounts", status_code=201, dependencies=[Depends(owner_only)])
def add_account(wanted: NewAccount, by: Author, state: TheState) -> Person:
    """Make an account. Owners only."""
    return state.people.add(wanted.name, wanted.password, wanted.owner, by, state.clock())


Named = Annotated[str, Path(max_length=80)]


@router.put("/accounts/{name}/disabled", dependencies=[Depends(owner_only)])
def switch_account(name: Named, disabled: bool, by: Author, state: TheState) -> Person:
    """Shut somebody out, or let them in again. Owners only."""
    if disabled and name == by:
        raise InputRefused([Problem("/name", "nobody shuts themselves out", repr(name))])
    return state.people.switch(name, disabled, by, state.clock())


@router.put("/accounts/{name}/owner", dependencies=[Depends(owner_only)])
def set_owner(name: Named, owner: bool, by: Author, state: TheState) -> Person:
    """Make somebody an owner, or no longer one; one owner stays. Owners only."""
    return state.people.set_owner(name, owner, by, state.clock())


@router.delete("/accounts/{name}", status_code=204, dependencies=[Depends(owner_only)])
def remove_account(name: Named, by: Author, state: TheState) -> None:
    """Remove an account; what it did stays told under its name. Owners only."""
    if name == by:
        raise InputRefused([Problem("/name", "nobody removes themselves", repr(name))])
    state.people.remove(name, by, state.clock())


@router.delete("/accounts/{name}/sessions", status_code=204, dependencies=[Depends(owner_only)])
def end_sessions(name: Named, by: Author, request: Request, state: TheState) -> None:
    """End somebody's sessions; they may sign in again. Owners only."""
    keep = request.cookies.get(cookie_name(request)) if name == by else None
    state.people.end_sessions(name, keep, by, state.clock())


class OneLink(BaseModel):
    """A link that lets one person in once, to be handed over."""

    path: str


@router.post("/accounts/{name}/reset", dependencies=[Depends(owner_only)])
def reset_password(name: Named, by: Author, state: TheState) -> OneLink:
    """Take somebody's password, sessions and tokens away; the link lets them in once, to set another. Owners only."""
    if name == by:
        raise InputRefused([Problem("/name", "nobody resets their own", repr(name), "change it instead")])
    return OneLink(path=f"/enter/{state.people.reset(name, by, state.clock())}")


def _source(request: Request) -> str:
    """Return the address a request comes from; of a proxy that is trusted, the one it names."""
    return request.client.host if request.client is not None else ""


@router.get("/designs/{design_id}/roles", dependencies=[may("read")])
def roles(design_id: str, state: TheState) -> list[RoleOf]:
    """Say who may do what with a design; owners may everything, and are not listed."""
    return [RoleOf.model_validate({"name": n, "role": r}) for n, r in state.people.roles(design_id).items()]


@router.put("/designs/{design_id}/roles", status_code=204, dependencies=[may("administer")])
def set_role(design_id: str, wanted: RoleOf, person: ThePerson, state: TheState) -> None:
    """Let somebody do something with a design."""
    if wanted.name == person.name and not person.owner:
        raise NotAllowed("Nobody changes what they may do themselves.")
    state.people.set_role(design_id, wanted.name, wanted.role, person.name, state.clock())


@door.get("/enter/{secret}")
def enter(secret: str, request: Request, state: TheState) -> Response:
    """Sign in by a link, once, and go on to the workbench."""
    try:
        entered = state.people.enter(secret, state.clock())
    except NotLetIn:
        return RedirectResponse("/?link=used", 303)
    response = RedirectResponse("/", 303)
    set_cookies(request, response, entered)
    return response
