"""A carrier that misbehaves on demand, over a real socket, and counts what it took."""

import json
import socket
import threading
import time
from collections import Counter
from collections.abc import Callable
from urllib.parse import parse_qs, urlsplit


class FaultyCarrier:
    """Speaks the interface byte by byte. `on_post` and `on_ask` say how it misbehaves; None is without fault.

    A way to misbehave is called with this carrier, the connection, and the hand-over's reference; it may `take` the
    text. Each text is taken only once under its reference, as the interface asks.
    """

    def __init__(self) -> None:
        self.on_post: Fault | None = None
        self.on_ask: Fault | None = None
        self.taken: dict[str, tuple[str, str]] = {}
        self.arrived: Counter[tuple[str, str]] = Counter()
        self.posts = 0
        self.poured = 0
        self.asks = 0
        self.posted: dict[str, tuple[str, str]] = {}
        self._later: list[threading.Thread] = []
        self._server = socket.create_server(("127.0.0.1", 0), backlog=64)
        self.url = f"http://127.0.0.1:{self._server.getsockname()[1]}/messaging/v1"
        threading.Thread(target=self._serve, daemon=True).start()

    def close(self) -> None:
        self._server.close()
        for thread in self._later:
            thread.join()

    def take(self, reference: str) -> None:
        if reference not in self.taken:
            self.taken[reference] = self.posted[reference]
            self.arrived[self.posted[reference]] += 1

    def take_later(self, reference: str, seconds: float) -> None:
        thread = threading.Timer(seconds, self.take, [reference])
        self._later.append(thread)
        thread.start()

    def accepted(self, reference: str, status: int = 201) -> bytes:
        request = {"clientCorrelator": reference, "resourceURL": f"/requests/{reference}"}
        return answer(status, {"outboundMessageRequest": request})

    def _serve(self) -> None:
        while True:
            try:
                peer, _ = self._server.accept()
            except OSError:
                return
            threading.Thread(target=self._answer, args=(peer,), daemon=True).start()

    def _answer(self, peer: socket.socket) -> None:
        with peer:
            peer.settimeout(10)
            try:
                method, path, body = _request(peer)
                if method == "POST":
                    self._posted(peer, body)
                else:
                    self._asked(peer, parse_qs(urlsplit(path).query)["clientCorrelator"][0])
            except OSError:
                pass

    def _posted(self, peer: socket.socket, body: bytes) -> None:
        request = json.loads(body)["outboundMessageRequest"]
        reference = request["clientCorrelator"]
        number = request["address"][0].removeprefix("tel:")
        self.posted[reference] = (number, request["outboundSMSTextMessage"]["message"])
        self.posts += 1
        if self.on_post:
            self.on_post(self, peer, reference)
            return
        self.take(reference)
        peer.sendall(self.accepted(reference))

    def _asked(self, peer: socket.socket, reference: str) -> None:
        self.asks += 1
        if self.on_ask:
            self.on_ask(self, peer, reference)
        elif reference in self.taken:
            peer.sendall(self.accepted(reference, 200))
        else:
            peer.sendall(fault(404, "SVC0002"))


Fault = Callable[[FaultyCarrier, socket.socket, str], None]


def _request(peer: socket.socket) -> tuple[str, str, bytes]:
    read = b""
    while b"\r\n\r\n" not in read:
        more = peer.recv(65536)
        if not more:
            raise ConnectionResetError
        read += more
    head, body = read.split(b"\r\n\r\n", 1)
    lines = head.decode().split("\r\n")
    length = next((int(line.split(":")[1]) for line in lines if line.lower().startswith("content-length:")), 0)
    while len(body) < length:
        body += peer.recv(65536)
    method, path, _ = lines[0].split(" ")
    return method, path, body


def answer(status: int, body: object = None, headers: str = "") -> bytes:
    data = body if isinstance(body, bytes) else b"" if body is None else json.dumps(body).encode()
    return f"HTTP/1.1 {status} X\r\nContent-Length: {len(data)}\r\n{headers}\r\n".encode() + data


def fault(status: int, message_id: str, headers: str = "", kind: str = "serviceException") -> bytes:
    return answer(status, {"requestError": {kind: {"messageId": message_id, "text": "Words"}}}, headers)


# --- ways to misbehave ----------------------------------------------------------------------------------------------


def says(data: bytes) -> Fault:
    return lambda _carrier, peer, _reference: peer.sendall(data)


def takes_and_says(data: bytes) -> Fault:
    def misbehave(carrier: FaultyCarrier, peer: socket.socket, reference: str) -> None:
        carrier.take(reference)
        peer.sendall(data)

    return misbehave


def takes_and_hangs_up(carrier: FaultyCarrier, _peer: socket.socket, reference: str) -> None:
    carrier.take(reference)


def takes_later(seconds: float, data: bytes = b"") -> Fault:
    """Answers at once, or hangs up, and takes the text only after a while."""

    def misbehave(carrier: FaultyCarrier, peer: socket.socket, reference: str) -> None:
        carrier.take_later(reference, seconds)
        peer.sendall(data)

    return misbehave


def hangs_up(_carrier: FaultyCarrier, _peer: socket.socket, _reference: str) -> None:
    return


def resets(_carrier: FaultyCarrier, peer: socket.socket, _reference: str) -> None:
    peer.setsockopt(socket.SOL_SOCKET, socket.SO_LINGER, b"\x01\x00\x00\x00\x00\x00\x00\x00")


def stays_silent(_carrier: FaultyCarrier, peer: socket.socket, _reference: str) -> None:
    peer.recv(1)


def trickles(data: bytes, each: float = 0.02) -> Fault:
    """One byte after the other: no single wait is long."""

    def misbehave(_carrier: FaultyCarrier, peer: socket.socket, _reference: str) -> None:
        for i in range(len(data)):
            peer.sendall(data[i : i + 1])
            time.sleep(each)

    return misbehave


def pours(megabytes: int, head: bytes) -> Fault:
    def misbehave(carrier: FaultyCarrier, peer: socket.socket, _reference: str) -> None:
        peer.sendall(head)
        for poured in range(megabytes):
            peer.sendall(b" " * 1_000_000)
            carrier.poured = max(carrier.poured, poured + 1)

    return misbehave


def names_another(_carrier: FaultyCarrier, peer: socket.socket, _reference: str) -> None:
    peer.sendall(_carrier.accepted("somebody-elses"))
