"""What stands before every request: its own Host and Origin only, and the headers that keep the page to itself."""

from collections.abc import Iterable
from ipaddress import ip_address

from starlette.datastructures import Headers, MutableHeaders, QueryParams
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gentle_ledger.core.sheets.model import MAX_BYTES
from gentle_ledger.store.key import NoKey
from gentle_ledger.web.keyring import Keyring
from gentle_ledger.web.problems import problem
from gentle_ledger.web.way_in.router import WAY_IN

_MOST_BYTES = MAX_BYTES + 1024 * 1024
"""The largest sheet, and room for the form around it."""
_SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
_HEADERS = {
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def content_security_policy(nonce: str = "") -> str:
    """Only what the program itself serves; styles that scripts insert carry the page's nonce."""
    inserted = f" 'nonce-{nonce}'" if nonce else ""
    return (
        f"default-src 'none'; script-src 'self'; style-src 'self'{inserted}; font-src 'self'; img-src 'self'; "
        "connect-src 'self'; form-action 'none'; base-uri 'none'; frame-ancestors 'none'"
    )


class Guard:
    """Refuses other machines, a Host that is not ours (DNS rebinding), changes that do not come from our own page, and
    whoever has no key.

    Args:
        hosts: the Host values that are ours, with their port.
        keyring: who is let in; None where nobody needs a key.
    """

    def __init__(self, app: ASGIApp, hosts: Iterable[str], keyring: Keyring | None = None) -> None:
        self.app = app
        self.keyring = keyring
        self.hosts = frozenset(host.lower() for host in hosts)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    headers.setdefault(name, value)
                headers.setdefault("Content-Security-Policy", content_security_policy())
                if scope["path"].startswith("/api/"):
                    headers.setdefault("Cache-Control", "no-store")
            await send(message)

        headers = Headers(scope=scope)
        length = headers.get("content-length", "0")
        refusal = self._refusal(headers, scope)
        if refusal:
            await problem(403, "not from here", refusal)(scope, receive, with_headers)
        elif no_key := self._no_key(headers, scope):
            status, said = no_key
            answer = problem(status, NoKey.kind, said)
            if status == 401:
                # RFC 9110, 15.5.2: what would be let in is said.
                answer.headers["WWW-Authenticate"] = "Bearer"
            await answer(scope, receive, with_headers)
        elif not length.isdecimal() or int(length[:20]) > _MOST_BYTES:
            await problem(413, "too large", _TOO_LARGE)(scope, receive, with_headers)
        else:
            await self.app(scope, _counted(receive), with_headers)

    def _refusal(self, headers: Headers, scope: Scope) -> str:
        if not _from_this_machine(scope):
            return "The program is for this machine only."
        host = headers.get("host", "").lower()
        if host not in self.hosts:
            return "This address is not the program's own. Open it under the address it printed when it started."
        origin = headers.get("origin")
        if origin is not None and origin.lower() != f"http://{host}":
            return "Another page tried to reach the program, and was refused."
        if scope["method"] in _SAFE:
            return ""
        site = headers.get("sec-fetch-site", "same-origin")
        if site != "same-origin":
            return "Another page tried to reach the program, and was refused."
        if origin is None and not (self.keyring and self.keyring.is_program(headers)):
            return f"A change has to say where it comes from: send the header Origin: http://{host} with it."
        return ""

    def _no_key(self, headers: Headers, scope: Scope) -> tuple[int, str] | None:
        """What says nothing of the ledger is for everybody: the client itself, and the way in."""
        path = scope["path"]
        if self.keyring is None or path == WAY_IN or not path.startswith("/api"):
            return None
        return self.keyring.refusal(headers, QueryParams(scope["query_string"]))


_TOO_LARGE = (
    f"This is more than the {MAX_BYTES // 1024 // 1024} MB that can be read. Leave out columns or split the sheet."
)


def _from_this_machine(scope: Scope) -> bool:
    """False for a caller at another machine's address, whatever Host it claims."""
    client = scope.get("client")
    try:
        return client is None or ip_address(client[0]).is_loopback
    except ValueError:
        # Not an address: a socket of this machine.
        return True


def _counted(receive: Receive) -> Receive:
    """Counts a body as it comes: one without a length may not be larger than one with it."""
    so_far = 0

    async def counted() -> Message:
        nonlocal so_far
        message = await receive()
        so_far += len(message.get("body", b""))
        if so_far > _MOST_BYTES:
            raise HTTPException(413, _TOO_LARGE)
        return message

    return counted


def own_hosts(host: str, port: int) -> list[str]:
    """The Host values under which a browser on this machine reaches `host` at `port`."""
    names = {f"[{host}]" if ":" in host else host, "127.0.0.1", "localhost", "[::1]"}
    return [f"{name}:{port}" for name in sorted(names)] + ([*sorted(names)] if port == 80 else [])
