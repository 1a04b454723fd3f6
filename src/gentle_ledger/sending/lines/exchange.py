"""One HTTP exchange with a peer that is not trusted: one limit of time and one of size for the whole answer."""

import json
import queue
import socket
import ssl
import threading
import time
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

import httpcore
import httpx

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
    whether it was read. Nothing follows a redirection, and no proxy of the environment is used: the program talks to
    its carrier and to nobody else. Any thread may ask.

    Args:
        timeout: in seconds.
        network: what connects; the system's own sockets when it is left out.
        encrypts: whether its addresses are of https, for which certificates are read: that takes a while.
    """

    def __init__(
        self, timeout: float, network: httpcore.NetworkBackend | None = None, *, encrypts: bool = False
    ) -> None:
        self.timeout = timeout
        self._network = network or httpcore.SyncBackend()
        self._tls = httpcore.default_ssl_context() if encrypts else None

    def post(self, url: str, body: Any) -> Answer:
        """Raises NothingWritten or NoAnswer."""
        content = json.dumps(body, ensure_ascii=False, separators=(",", ":")).encode()
        return self._ask("POST", url, {"Content-Type": "application/json"}, content)

    def get(self, url: str, params: Mapping[str, str]) -> Answer:
        """Raises NothingWritten or NoAnswer."""
        return self._ask("GET", url, {}, None, params)

    def _ask(
        self,
        method: str,
        url: str,
        headers: Mapping[str, str],
        content: bytes | None,
        params: Mapping[str, str] | None = None,
    ) -> Answer:
        wire = _Wire(self._network, time.monotonic() + self.timeout)
        said = {"Accept": "application/json", "Accept-Encoding": "identity", "Connection": "close", **headers}
        try:
            whole = str(httpx.URL(url, params=params))
            pool = httpcore.ConnectionPool(ssl_context=self._tls, network_backend=wire, max_keepalive_connections=0)
            with pool, pool.stream(method, whole, headers=list(said.items()), content=content) as answer:
                found = httpx.Headers(answer.headers)
                return Answer(answer.status, found, _json_of(found, answer.iter_stream()))
        except httpcore.TimeoutException as fault:
            if not wire.written:
                raise NothingWritten("the carrier cannot be reached: no connection in time") from fault
            raise NoAnswer("the carrier did not answer in time") from fault
        except _BROKEN_OFF as fault:
            if not wire.written:
                raise NothingWritten("the carrier cannot be reached") from fault
            raise NoAnswer("the connection to the carrier broke off") from fault


_BROKEN_OFF = (
    httpcore.NetworkError,
    httpcore.ProtocolError,
    httpcore.UnsupportedProtocol,
    httpx.InvalidURL,
    OSError,
    ValueError,
)
"""What ends an exchange: an address that is none raises the last three, and sockets any of the system's errors."""


class _Wire(httpcore.NetworkBackend):
    """Connects for one exchange, and holds all that is done over the connection to one end.

    Attributes:
        until: that end, in seconds of `time.monotonic`.
        written: whether any of the request was written.
    """

    def __init__(self, network: httpcore.NetworkBackend, until: float) -> None:
        self._network = network
        self.until = until
        self.written = False

    def left(self) -> float:
        """Seconds that are left. Raises httpcore.TimeoutException where none are."""
        left = self.until - time.monotonic()
        if left <= 0:
            raise httpcore.ReadTimeout("the time for the whole exchange is over")
        return left

    def connect_tcp(
        self,
        host: str,
        port: int,
        timeout: float | None = None,
        local_address: str | None = None,
        socket_options: Iterable[httpcore.SOCKET_OPTION] | None = None,
    ) -> httpcore.NetworkStream:
        """Tries one address of a host after the other, each for its share of the time; see `NetworkBackend`.

        A host may name one that leads nowhere from here, as where there is no way out by IPv6.
        """
        refused: Exception = httpcore.ConnectError(f"{host} has no address")
        addresses = _addresses(host, port, self.left())
        for tried, address in enumerate(addresses):
            share = self.left() / (len(addresses) - tried)
            try:
                return _Stream(self._network.connect_tcp(address, port, share, local_address, socket_options), self)
            except (httpcore.ConnectError, httpcore.ConnectTimeout) as fault:
                refused = fault
        raise refused


class _Stream(httpcore.NetworkStream):
    """A connection whose every read and write ends when the exchange must, however little comes each time."""

    def __init__(self, stream: httpcore.NetworkStream, wire: _Wire) -> None:
        self._stream = stream
        self._wire = wire

    def read(self, max_bytes: int, timeout: float | None = None) -> bytes:
        """See `NetworkStream`."""
        return self._stream.read(max_bytes, self._wire.left())

    def write(self, buffer: bytes, timeout: float | None = None) -> None:
        """See `NetworkStream`."""
        left = self._wire.left()
        self._wire.written = True
        self._stream.write(buffer, left)

    def close(self) -> None:
        """See `NetworkStream`."""
        self._stream.close()

    def start_tls(
        self, ssl_context: ssl.SSLContext, server_hostname: str | None = None, timeout: float | None = None
    ) -> httpcore.NetworkStream:
        """See `NetworkStream`."""
        return _Stream(self._stream.start_tls(ssl_context, server_hostname, self._wire.left()), self._wire)

    def get_extra_info(self, info: str) -> Any:
        """See `NetworkStream`."""
        return self._stream.get_extra_info(info)


def _addresses(host: str, port: int, seconds: float) -> list[str]:
    """The addresses of a host. Names are looked up on a thread of their own, for that can take longer than we wait."""
    try:
        return _looked_up(host, port, socket.AI_NUMERICHOST)
    except socket.gaierror:
        pass
    found: queue.Queue[list[str] | Exception] = queue.Queue(1)

    def look() -> None:
        try:
            found.put(_looked_up(host, port))
        except (OSError, ValueError) as fault:
            found.put(fault)

    threading.Thread(target=look, name="look up the carrier", daemon=True).start()
    try:
        answer = found.get(timeout=seconds)
    except queue.Empty as fault:
        raise httpcore.ConnectTimeout(f"{host} was not looked up in time") from fault
    if isinstance(answer, Exception):
        raise httpcore.ConnectError(f"{host} has no address") from answer
    return answer


def _looked_up(host: str, port: int, flags: int = 0) -> list[str]:
    found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM, flags=flags)
    return list(dict.fromkeys(str(address[0]) for *_, address in found))


def _json_of(headers: Mapping[str, str], pieces: Iterable[bytes]) -> Any:
    """The JSON of an answer's body. None for what is too long, packed although that was not asked for, or no JSON."""
    if headers.get("content-encoding", "identity").strip().lower() not in {"", "identity"}:
        return None
    read = bytearray()
    for piece in pieces:
        read += piece
        if len(read) > MOST_BYTES:
            return None
    try:
        return json.loads(bytes(read))
    except (ValueError, RecursionError):
        return None
