"""One HTTP exchange with a peer that is not trusted: one limit of time and one of size for the whole answer."""

import asyncio
import json
import threading
from collections.abc import Coroutine, Mapping
from dataclasses import dataclass
from typing import Any, TypeVar

import httpx

T = TypeVar("T")

MOST_BYTES = 64 * 1024


@dataclass(frozen=True, slots=True)
class Answer:
    """An answer as it came. `body` is its JSON, or None for anything that is no JSON or says too much."""

    status: int
    headers: Mapping[str, str]
    body: Any


class NothingWritten(Exception):
    """The connection failed before the first byte of the request was written: the peer knows nothing of it."""


class NoAnswer(Exception):
    """The request was written, in part at least, and no whole answer came. Its text says what happened."""


class Exchange:
    """Requests to one peer, each over a connection of its own and within `timeout` seconds from its start to its end.

    A connection that was kept could be closed by the peer in the very moment of the next request, and nobody could say
    whether it was read. The requests run on a thread of their own, so that any thread may ask.
    """

    def __init__(self, timeout: float, transport: httpx.AsyncBaseTransport | None = None) -> None:
        self.timeout = timeout
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._loop.run_forever, name="carrier", daemon=True)
        self._thread.start()
        # No proxies from the environment: the program talks to its carrier and to nobody else.
        self._http = httpx.AsyncClient(
            timeout=None,
            trust_env=False,
            follow_redirects=False,
            transport=transport,
            limits=httpx.Limits(max_keepalive_connections=0),
            headers={"Accept": "application/json", "Accept-Encoding": "identity"},
        )

    def post(self, url: str, body: Any) -> Answer:
        """Raises NothingWritten or NoAnswer."""
        return self._run(self._within("POST", url, json=body))

    def get(self, url: str, params: Mapping[str, str]) -> Answer:
        """Raises NothingWritten or NoAnswer."""
        return self._run(self._within("GET", url, params=params))

    def close(self) -> None:
        """Ends the thread; nothing can be asked any more."""
        self._run(self._http.aclose())
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join()
        self._loop.close()

    def _run(self, doing: Coroutine[Any, Any, T]) -> T:
        return asyncio.run_coroutine_threadsafe(doing, self._loop).result()

    async def _within(self, method: str, url: str, **content: Any) -> Answer:
        written = False

        async def trace(event: str, _info: Any) -> None:
            nonlocal written
            written = written or event.endswith("send_request_headers.started")

        try:
            async with asyncio.timeout(self.timeout):
                extensions = {"trace": trace}
                async with self._http.stream(method, url, extensions=extensions, **content) as answer:
                    # A transport without a trace has written once it answers.
                    written = True
                    return Answer(answer.status_code, answer.headers, await _json_of(answer))
        except TimeoutError as fault:
            if not written:
                raise NothingWritten("the carrier cannot be reached: no connection in time") from fault
            raise NoAnswer("the carrier did not answer in time") from fault
        except (httpx.ConnectError, httpx.UnsupportedProtocol) as fault:
            raise NothingWritten("the carrier cannot be reached") from fault
        except httpx.TransportError as fault:
            raise NoAnswer("the connection to the carrier broke off") from fault
        except (httpx.HTTPError, httpx.InvalidURL, httpx.StreamError, OSError, ValueError) as fault:
            if not written:
                raise NothingWritten("the carrier cannot be reached") from fault
            raise NoAnswer("the connection to the carrier broke off") from fault


async def _json_of(answer: httpx.Response) -> Any:
    """The JSON of an answer's body. None for what is too long, packed although that was not asked for, or no JSON."""
    if answer.headers.get("content-encoding", "identity").strip().lower() not in {"", "identity"}:
        return None
    read = bytearray()
    async for piece in answer.aiter_raw():
        read += piece
        if len(read) > MOST_BYTES:
            return None
    try:
        return json.loads(bytes(read))
    except (ValueError, RecursionError):
        return None
