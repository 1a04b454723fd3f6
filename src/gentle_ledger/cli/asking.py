"""What is asked of the program while it is served: a new address, and how it is.

The key is never sent. Whoever listens in the server's place gets a code that is good for that port alone.
"""

import json
import urllib.error
import urllib.request
from collections.abc import Mapping
from http.client import HTTPException, HTTPResponse
from typing import Any, cast

from gentle_ledger.cli.ports import address_of
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.store.key import read_key
from gentle_ledger.store.serving import is_served, served_at
from gentle_ledger.web.keyring import VALUE, Keyring
from gentle_ledger.web.settings import Settings, read_settings
from gentle_ledger.web.way_in.router import WAY_IN, address_with

_PATIENCE = 20.0


class NotServed(LedgerError):
    """The program does not run, or does not answer."""


def new_address(port: int | None) -> str:
    """An address by which one browser is let in. Raises NotServed, and NoKey."""
    settings = _settings(port)
    base = _base(settings, port)
    return address_with(base, _keyring(settings, base).new_code())


def health(port: int | None) -> dict[str, Any]:
    """How the program is; see `web.health`. Raises NotServed, and NoKey."""
    settings = _settings(port)
    base = _base(settings, port)
    code = _keyring(settings, base).new_code()
    let_in = _ask(base, WAY_IN, {"code": code})
    shown = {"Cookie": let_in.headers.get("Set-Cookie", "").partition(";")[0], VALUE: json.load(let_in)["value"]}
    with _ask(base, "/api/health", shown=shown) as answer:
        return cast("dict[str, Any]", json.load(answer))


def _settings(port: int | None) -> Settings:
    return read_settings(**({} if port is None else {"port": port}))


def _base(settings: Settings, port: int | None) -> str:
    if not is_served(settings.data):
        raise NotServed(
            f'The program does not run over "{settings.data}".',
            "Start it with gentle-ledger serve, or name its ledger with GENTLE_LEDGER_DATA.",
        )
    return (served_at(settings.data) if port is None else None) or address_of(settings)


def _keyring(settings: Settings, base: str) -> Keyring:
    return Keyring(read_key(settings.data), int(base.rpartition(":")[2]))


def _ask(base: str, path: str, body: object = None, shown: Mapping[str, str] = {}) -> HTTPResponse:
    data = None if body is None else json.dumps(body).encode()
    asked = urllib.request.Request(base + path, data, {"Origin": base, "Content-Type": "application/json", **shown})
    try:
        # Never by way of a proxy: it is on this machine.
        opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))
        return cast("HTTPResponse", opener.open(asked, timeout=_PATIENCE))
    except urllib.error.HTTPError as fault:
        raise NotServed(f"What answers at {base} is not this ledger's program (it says {fault.code}).") from fault
    except (OSError, HTTPException) as fault:
        raise NotServed(f"The program runs, and does not answer at {base}: {fault}.") from fault
