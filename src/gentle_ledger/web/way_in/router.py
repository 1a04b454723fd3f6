"""The way in: a code for a cookie, and a new address."""

from fastapi import APIRouter, Request, Response

from gentle_ledger.store.key import NoKey
from gentle_ledger.web.keyring import CODE_LASTS, HOW, LASTS, Keyring
from gentle_ledger.web.way_in.schemas import AddressOut, CodeIn, LetIn

router = APIRouter(prefix="/api", tags=["way in"])

WAY_IN = "/api/way-in"


@router.post("/way-in")
def way_in(request: Request, response: Response, body: CodeIn) -> LetIn:
    """Lets a browser in for a code, good once and for a minute: it gets a cookie, and a value to go with it."""
    keyring: Keyring | None = request.app.state.keyring
    if keyring is None:
        return LetIn(value="")
    visitor = keyring.let_in(body.code)
    if visitor is None:
        raise NoKey("This address was used before, or is older than a minute.", HOW)
    give_cookie(response, keyring, visitor.cookie)
    return LetIn(value=visitor.value)


@router.post("/address")
def address(request: Request) -> AddressOut:
    """A new address by which one browser is let in."""
    keyring: Keyring | None = request.app.state.keyring
    base = str(request.base_url).rstrip("/")
    if keyring is None:
        return AddressOut(address=base, seconds=CODE_LASTS)
    return AddressOut(address=address_with(base, keyring.new_code()), seconds=CODE_LASTS)


def address_with(base: str, code: str) -> str:
    """The address that lets a browser in. What follows the # is never sent, and stands in no log (RFC 9110, 4.2.5)."""
    return f"{base}/in#{code}"


def give_cookie(response: Response, keyring: Keyring, cookie: str) -> None:
    """Has the browser keep the cookie, for as long as browsers keep any."""
    response.set_cookie(keyring.cookie_name, cookie, max_age=LASTS, path="/", httponly=True, samesite="strict")
