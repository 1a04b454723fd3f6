"""Who is let in: programs by the key, browsers by a cookie that they got for a code, good once and for a minute.

A machine has more users than one, and each of them can reach an open port. Cookies are not kept apart by port (RFC
6265, 8.5): another user's server on this machine can be sent ours. So each request also carries a value that the page
keeps in its own storage, which is kept apart by port (WHATWG HTML, origin and localStorage).

The key itself is sent by nobody but programs that were given it: codes, cookies and values are made from it (HMAC, RFC
2104), so that whoever listens in the server's place learns nothing that opens the ledger.
"""

import hashlib
import hmac
import secrets
import threading
import time
from base64 import urlsafe_b64encode
from collections.abc import Callable
from typing import NamedTuple

from starlette.datastructures import Headers, QueryParams
from starlette.requests import cookie_parser

CODE_LASTS = 60.0
"""Seconds for which a code is good."""
_AHEAD = 5.0
"""Seconds by which a code may be ahead of the clock, should that be put back a little."""
VALUE = "gentle-ledger-value"
"""The header that a browser's request carries; `value` in the address of a stream, or of a file that is saved."""
LASTS = 400 * 24 * 3600
"""Seconds for which a browser is let in; browsers keep no cookie for longer (RFC 6265bis, 5.5)."""
HOW = 'Type "gentle-ledger address" as the user who started the program, and open what it prints, within a minute.'


class Visitor(NamedTuple):
    """What a browser is let in by: its cookie, and the value that its requests carry."""

    cookie: str
    value: str


class Keyring:
    """Who is let in, by the key of the ledger that is served at a port.

    Args:
        key: the key.
        port: the port: codes are good for it alone, and a browser that knows several has a cookie for each.
        now: the time, in POSIX seconds. A code from before this was made is good no more: nobody would know by then
            whether it was used.
    """

    def __init__(self, key: str, port: int, now: Callable[[], float] = time.time) -> None:
        self._key = key.encode()
        self._port = port
        self._now = now
        self._since = now()
        self.cookie_name = f"gentle-ledger-{port}"
        self._used: dict[str, float] = {}
        self._guard = threading.Lock()

    def new_code(self) -> str:
        """A code for one browser, good once and for a minute."""
        made = f"{round(self._now() * 1000)}-{secrets.token_urlsafe(12)}"
        return f"{made}.{self._mac(f'code at {self._port}', made)}"

    def let_in(self, code: str) -> Visitor | None:
        """Lets a browser in for a code; None where it is none, was used, or is too old."""
        made, _, mac = code.partition(".")
        if not _same(mac, self._mac(f"code at {self._port}", made)):
            return None
        at, now = int(made.partition("-")[0]) / 1000, self._now()
        with self._guard:
            self._used = {used: until for used, until in self._used.items() if until > now}
            if not max(self._since, now - CODE_LASTS) - 0.001 <= at <= now + _AHEAD or code in self._used:
                return None
            self._used[code] = at + CODE_LASTS + _AHEAD
        visitor = secrets.token_urlsafe(18)
        return Visitor(f"{visitor}.{self._mac('cookie', visitor)}", self._mac("value", visitor))

    def cookie_of(self, headers: Headers) -> str | None:
        """The cookie that a request has, where it is one of ours."""
        # What other ports of this host have set is in the same line, and may be no cookie by any standard.
        kept = next(
            (kept for line in headers.getlist("cookie") if (kept := cookie_parser(line).get(self.cookie_name))), ""
        )
        visitor, _, mac = kept.partition(".")
        return kept if _same(mac, self._mac("cookie", visitor)) else None

    def is_program(self, headers: Headers) -> bool:
        """Whether a request has the key itself (RFC 6750, 2.1)."""
        scheme, _, key = headers.get("authorization", "").partition(" ")
        return scheme.lower() == "bearer" and _same(key.strip(), self._key.decode())

    def refusal(self, headers: Headers, query: QueryParams) -> tuple[int, str] | None:
        """Why a request is not let in, with the status of that; None where it is."""
        if self.is_program(headers):
            return None
        cookie = self.cookie_of(headers)
        if cookie is None:
            return 401, f"The ledger opens only for who has its key. {HOW}"
        shown = headers.get(VALUE) or query.get("value", "")
        if not _same(shown, self._mac("value", cookie.partition(".")[0])):
            return 403, f"This browser was let in, and this page of it was not. {HOW}"
        return None

    def _mac(self, what: str, of: str) -> str:
        made = hmac.digest(self._key, f"{what}:{of}".encode(), hashlib.sha256)
        return urlsafe_b64encode(made).rstrip(b"=").decode()


def _same(one: str, other: str) -> bool:
    return hmac.compare_digest(one.encode(), other.encode())
