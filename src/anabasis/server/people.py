"""Signing in and out, accounts, and who may do what with a design."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Path, Request, Response
from pydantic import BaseModel, Field
from starlette.responses import RedirectResponse

from anabasis.errors import InputRefused, NotAllowed, NotLetIn, Problem
from anabasis.server.access import Author, ThePerson, TheSigned, cookie_name, may, owner_only, set_cookie
from anabasis.server.state import TheState
from anabasis.store import Person
from anabasis.store.people import LONGEST

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
    return Me(name=person.name, owner=person.owner, has_password=person.has_password, csrf=signed.csrf)


@router.post("/session", status_code=204)
def sign_in(wanted: SignIn, request: Request, response: Response, state: TheState) -> None:
    """Sign in; the session is a cookie. After some failures 429 for a while."""
    set_cookie(request, response, state.people.sign_in(wanted.name, wanted.password, state.clock()))


@router.delete("/session", status_code=204)
def sign_out(signed: TheSigned, request: Request, response: Response, state: TheState) -> None:
    """Sign out here."""
    state.people.sign_out(request.cookies.get(cookie_name(request), ""))
    state.history.note(signed.person.name, "signed out", None, "", state.clock())
    response.delete_cookie(cookie_name(request), path="/", secure=True, httponly=True, samesite="strict")


@router.put("/me/password", status_code=204)
def change_password(wanted: NewPassword, person: ThePerson, request: Request, state: TheState) -> None:
    """Change one's own password; sessions elsewhere end."""
    if person.has_password:
        state.people.sign_out(state.people.sign_in(person.name, wanted.old, state.clock()))
    state.people.set_password(person.id, wanted.new, request.cookies.get(cookie_name(request)), state.clock())


@router.get("/accounts")
def accounts(state: TheState, _: ThePerson) -> list[Person]:
    """List everybody."""
    return state.people.all()


@router.post("/accounts", status_code=201, dependencies=[Depends(owner_only)])
def add_account(wanted: NewAccount, by: Author, state: TheState) -> Person:
    """Make an account. Owners only."""
    return state.people.add(wanted.name, wanted.password, wanted.owner, by, state.clock())


@router.put("/accounts/{name}/disabled", dependencies=[Depends(owner_only)])
def switch_account(name: Annotated[str, Path(max_length=80)], disabled: bool, by: Author, state: TheState) -> Person:
    """Shut somebody out, or let them in again. Owners only."""
    if disabled and name == by:
        raise InputRefused([Problem("/name", "nobody shuts themselves out", repr(name))])
    return state.people.switch(name, disabled, by, state.clock())


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
        cookie = state.people.enter(secret, state.clock())
    except NotLetIn:
        return RedirectResponse("/?link=used", 303)
    response = RedirectResponse("/", 303)
    set_cookie(request, response, cookie)
    return response
