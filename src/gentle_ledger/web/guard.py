"""What stands before every request: its own Host and Origin only, and the headers that keep the page to itself."""

from collections.abc import Iterable

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gentle_ledger.core.sheets.model import MAX_BYTES
from gentle_ledger.web.problems import problem

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
    """Refuses a Host that is not ours (DNS rebinding) and a foreign Origin or site (cross-site posts).

    Args:
        hosts: the Host values that are ours, with their port.
    """

    def __init__(self, app: ASGIApp, hosts: Iterable[str]) -> None:
        self.app = app
        self.hosts = frozenset(host.lower() for host in hosts)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        length = headers.get("content-length", "0")
        if not length.isdecimal() or int(length) > _MOST_BYTES:
            most = f"{MAX_BYTES // 1024 // 1024} MB"
            detail = f"This is more than the {most} that can be read. Leave out columns or split the sheet."
            await problem(413, "too large", detail)(scope, receive, send)
            return
        refusal = self._refusal(headers, scope["method"])
        if refusal:
            await problem(403, "not from here", refusal)(scope, receive, send)
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

        await self.app(scope, receive, with_headers)

    def _refusal(self, headers: Headers, method: str) -> str:
        host = headers.get("host", "").lower()
        if host not in self.hosts:
            return "This address is not the program's own. Open it under the address it printed when it started."
        origin = headers.get("origin")
        if origin is not None and origin.lower() != f"http://{host}":
            return "Another page tried to reach the program, and was refused."
        site = headers.get("sec-fetch-site", "same-origin")
        if method not in _SAFE and site not in {"same-origin", "none"}:
            return "Another page tried to reach the program, and was refused."
        return ""


def own_hosts(host: str, port: int) -> list[str]:
    """The Host values under which a browser on this machine reaches `host` at `port`."""
    names = {host, "127.0.0.1", "localhost", "[::1]"}
    return [f"{name}:{port}" for name in sorted(names)] + ([*sorted(names)] if port == 80 else [])
