"""A carrier's odd answers: only one that names our reference is an acceptance, only one that names its fault a refusal.

The status counts before the body: what it says of the carrier is no row's fault. Anything else is silence, and silence
is asked about, never simply sent again.
"""

import json
import socket
import threading
from datetime import UTC, datetime
from urllib.parse import parse_qs, urlsplit

import httpcore
import pytest

from gentle_ledger.sending.lines import Accepted, NoRecord, Refused, Silent, Unavailable
from gentle_ledger.sending.lines.exchange import Exchange, NothingWritten
from gentle_ledger.sending.lines.oma_messaging import OmaMessagingLine

OURS = {"outboundMessageRequest": {"clientCorrelator": "r1", "resourceURL": "/x/requests/17"}}


def fault(message_id, kind="serviceException", text="Words of the carrier"):
    return {"requestError": {kind: {"messageId": message_id, "text": text}}}


class Network(httpcore.NetworkBackend):
    """Every connection gets the same answer, in pieces, or breaks at one of its steps."""

    def __init__(self, answer=b"", breaks=None):
        self.answer, self.breaks = answer, breaks or {}
        self.asked, self.tried = [], []

    def connect_tcp(self, host, port, timeout=None, local_address=None, socket_options=None):
        self.tried.append((host, timeout))
        if fault := self.breaks.get("connect") or self.breaks.get(host):
            raise fault
        return Connection(self)


class Connection(httpcore.MockStream):
    def __init__(self, network):
        super().__init__([network.answer[i : i + 20_000] for i in range(0, len(network.answer), 20_000)])
        self.network = network
        network.asked.append(b"")

    def read(self, max_bytes, timeout=None):
        if fault := self.network.breaks.get("read"):
            raise fault
        return super().read(max_bytes, timeout)

    def write(self, buffer, timeout=None):
        if fault := self.network.breaks.get("write"):
            raise fault
        self.network.asked[-1] += buffer


def line_by(network):
    return OmaMessagingLine("http://127.0.0.1:1/messaging/v1", "Quay Office", now=lambda: NOW, network=network)


def respond(status, body, headers=None):
    """An answer as it comes over a network, without its length: it ends where the connection does."""
    data = body if isinstance(body, bytes) else json.dumps(body).encode()
    said = "".join(f"{name}: {value}\r\n" for name, value in (headers or {}).items())
    return f"HTTP/1.1 {status} X\r\n{said}\r\n".encode() + data


NOW = datetime(2026, 10, 21, 7, 27, 0, tzinfo=UTC)
UNKNOWN = "the carrier refused it: Words of the carrier"
BUSY = "the carrier was busy (503)"
TROUBLE = "the carrier has trouble of its own"


def away(reason, wait=0.0, taken=False, fast=False):
    return Unavailable(reason, wait, taken, fast)


ANSWERS = [
    # status, body, headers, what it means, why
    (201, OURS, {}, Accepted("17"), "accepted"),
    (200, OURS, {}, Accepted("17"), "the same correlator again"),
    (201, OURS, {"retry-after": "30"}, Accepted("17"), "a wait that belongs to no refusal"),
    (201, {"outboundMessageRequest": {"clientCorrelator": "r2", "resourceURL": "/x/1"}}, {}, Silent, "another's"),
    (201, {"outboundMessageRequest": {"clientCorrelator": "r1"}}, {}, Silent, "no resource"),
    (201, {}, {}, Silent, "empty object"),
    (201, [], {}, Silent, "a list"),
    (201, "accepted", {}, Silent, "a bare word"),
    (201, b"<html>Welcome</html>", {}, Silent, "a page instead of JSON"),
    (201, b"[" * 60_000, {}, Silent, "JSON nested deeper than can be read"),
    (201, b'{"a":' * 9_000 + b"1" + b"}" * 9_000, {}, Silent, "objects in objects"),
    (201, b'"' + b"x" * 70_000 + b'"', {}, Silent, "more than 64 kB"),
    (201, b"\xff\xfe\x00", {}, Silent, "no text at all"),
    (201, b"1" * 5_000, {}, Silent, "a number of 5,000 digits"),
    (201, b"", {"content-encoding": "gzip"}, Silent, "packed although not asked for"),
    (302, b"", {"location": "http://evil.example/"}, Silent, "sent elsewhere"),
    (304, b"", {}, Silent, "nothing new"),
    (400, b"<h1>Bad request</h1>", {}, Silent, "a page that refuses"),
    (422, {"detail": "no"}, {}, Silent, "an error in other words than the interface's"),
    (500, b"", {}, away(f"{TROUBLE} (500)", taken=True), "an empty 500"),
    (500, fault("SVC0001"), {}, away(f"{TROUBLE} (500)", taken=True), "a general error"),
    (500, fault("SVC0004"), {}, away(f"{TROUBLE} (500)", taken=True), "the status counts before the body"),
    (502, b"<h1>Bad gateway</h1>", {}, away(f"{TROUBLE} (502)", taken=True), "a gateway's page"),
    (503, b"<h1>Busy</h1>", {"retry-after": "9"}, away(f"{TROUBLE} (503)", 9, taken=True), "a page, with a wait"),
    (503, {"requestError": {}}, {}, away(f"{TROUBLE} (503)", taken=True), "an error without its name"),
    (503, {"requestError": "busy"}, {}, away(f"{TROUBLE} (503)", taken=True), "an error that is a word"),
    (504, b"", {}, away(f"{TROUBLE} (504)", taken=True), "a gateway that did not wait"),
    (599, OURS, {}, away(f"{TROUBLE} (599)", taken=True), "our reference under an error"),
    (401, b"", {}, away("the carrier does not know this program's credentials (401)"), "credentials"),
    (401, fault("SVC0004"), {}, away("the carrier does not know this program's credentials (401)"), "and a body"),
    (403, b"", {}, away("the carrier does not let this line in (403)"), "shut out"),
    (404, b"<h1>Not found</h1>", {}, away("the carrier's address is not where it was set (404)"), "a wrong address"),
    (407, b"", {}, away("a proxy stands before the carrier (407)"), "a proxy"),
    (429, b"", {}, away("the carrier asks for fewer texts (429)", fast=True), "too many, no wait named"),
    (429, fault("POL1010"), {"retry-after": "60"}, away("the carrier was busy (429)", 60, fast=True), "too many"),
    (400, fault("SVC0004"), {}, Refused("the number is not in use", own=True), "not in use"),
    (
        403,
        fault("POL1011", "policyException"),
        {},
        Refused("refused: the recipient has blocked this sender", own=True),
        "blocked",
    ),
    (403, fault("POL0001", "policyException"), {}, Refused(UNKNOWN, may_retry=True), "a policy we do not know"),
    (400, fault("SVC1000"), {}, away("the carrier had no room for it (400)"), "no room, whatever the status"),
    (503, fault("POL1010", "policyException"), {"retry-after": "7"}, away(BUSY, 7), "busy"),
    (503, fault("POL1010", "policyException"), {}, away(BUSY), "busy, no wait named"),
    (503, fault("POL1010"), {"retry-after": "Wed, 21 Oct 2026 07:28:00 GMT"}, away(BUSY, 60), "a date"),
    (503, fault("POL1010"), {"retry-after": "Wednesday, 21-Oct-26 07:28:00 GMT"}, away(BUSY, 60), "a date of old form"),
    (
        503,
        fault("POL1010"),
        {"retry-after": "Wed, 21 Oct 2026 09:00:30 GMT", "date": "Wed, 21 Oct 2026 09:00:00 GMT"},
        away(BUSY, 30),
        "a date by the carrier's own clock, which is wrong",
    ),
    (503, fault("POL1010"), {"retry-after": "Wed, 21 Oct 2026 07:00:00 GMT"}, away(BUSY), "a date that is over"),
    (503, fault("POL1010"), {"retry-after": "Wed, 99 Oct 2026 07:28:00 GMT"}, away(BUSY), "no date"),
    (503, fault("POL1010"), {"retry-after": "-5"}, away(BUSY), "a wait below nothing"),
    (503, fault("POL1010"), {"retry-after": "1e9"}, away(BUSY), "no whole seconds"),
    (503, fault("POL1010"), {"retry-after": "9" * 400}, away(BUSY), "more digits than a wait has"),
    (503, fault("POL1010"), {"retry-after": "999999"}, away(BUSY, 86_400), "a day at most"),
    (400, fault("SVC9999"), {}, Refused(UNKNOWN, may_retry=True), "a fault we do not know"),
    (400, fault("SVC9999", text="x" * 9_000), {}, Refused(f"the carrier refused it: {'x' * 159}…", True), "clipped"),
    (
        400,
        b'{"requestError":{"serviceException":{"messageId":"SVC9999","text":"a\\ud800b\\u202ec\\n\\u0007d"}}}',
        {},
        Refused("the carrier refused it: a b c d", True),
        "marks that cannot be shown or kept",
    ),
    (400, fault(["SVC0004"]), {}, Silent, "a name that is a list"),
    (400, fault("SVC9999", text={"a": 1}), {}, Refused("the carrier refused it: ", True), "words that are none"),
]


@pytest.mark.parametrize(("status", "body", "headers", "means", "why"), ANSWERS, ids=[a[4] for a in ANSWERS])
def test_answers(status, body, headers, means, why):
    line = line_by(Network(respond(status, body, headers)))
    for asked, outcome in enumerate((line.hand_over("r1", "+19025550101", "Hello"), line.ask("r1"))):
        if asked and isinstance(means, Refused):
            # As an answer to a question it says nothing of the text.
            assert isinstance(outcome, Silent)
        elif isinstance(means, type):
            assert isinstance(outcome, means)
        else:
            assert outcome == means
        assert not isinstance(outcome, Unavailable) or outcome.reason.isprintable()


@pytest.mark.parametrize(
    ("step", "error", "means"),
    [
        ("connect", httpcore.ConnectError("refused"), Unavailable("the carrier cannot be reached")),
        (
            "connect",
            httpcore.ConnectTimeout("slow"),
            Unavailable("the carrier cannot be reached: no connection in time"),
        ),
        ("connect", OSError("no more sockets"), Unavailable("the carrier cannot be reached")),
        ("write", httpcore.WriteTimeout("slow"), Silent("the carrier did not answer in time")),
        ("write", httpcore.WriteError("broken pipe"), Silent("the connection to the carrier broke off")),
        ("read", httpcore.ReadTimeout("slow"), Silent("the carrier did not answer in time")),
        ("read", httpcore.ReadError("reset"), Silent("the connection to the carrier broke off")),
        ("read", OSError("reset"), Silent("the connection to the carrier broke off")),
        ("read", httpcore.RemoteProtocolError("cut off"), Silent("the connection to the carrier broke off")),
    ],
)
def test_errors_on_the_way(step, error, means):
    """What was perhaps written is never said to be unknown to the carrier, and what was not is."""
    line = line_by(Network(breaks={step: error}))
    assert line.hand_over("r1", "+19025550101", "Hello") == means
    assert line.ask("r1") == means


@pytest.mark.parametrize(
    "url", ["http://127.0.0.1:1", "http://carrier.invalid", "http://a..b", "ftp://127.0.0.1", "nonsense", "http://[::1"]
)
def test_a_carrier_that_was_never_reached_knows_of_no_try(url):
    line = OmaMessagingLine(url, "Quay Office", timeout=2)
    assert line.hand_over("r1", "+19025550101", "Hello") == Unavailable("the carrier cannot be reached")


def test_only_the_carriers_own_words_are_no_record():
    """A 404 of some proxy must not count as "the carrier knows no such reference"."""
    line = line_by(Network(respond(404, fault("SVC0002"))))
    assert line.ask("r1") == NoRecord()
    line = line_by(Network(respond(404, {"detail": "Not found"})))
    assert isinstance(line.ask("r1"), Unavailable)


QUESTIONS = [
    # status, code, kind, variables of the answer to a question; what it says of the text, why
    (404, "SVC0002", "serviceException", [], NoRecord(), "no record"),
    (404, "SVC0002", "serviceException", ["clientCorrelator"], NoRecord(), "it names the part"),
    (404, "SVC0002", "serviceException", ["r1"], NoRecord(), "it names the reference"),
    (404, "SVC0002", "serviceException", ["senderAddress"], Silent, "it is about another part of the question"),
    (400, "SVC0002", "serviceException", ["clientCorrelator"], Silent, "not found is 404"),
    (400, "SVC0001", "serviceException", [], Silent, "an error of the service"),
    (403, "POL0001", "policyException", [], Silent, "a policy about asking"),
    (400, "SVC0004", "serviceException", ["address"], Silent, "which address, if the question has none"),
    (400, "SVC0004", "serviceException", ["senderAddress"], Silent, "the sender's"),
    (400, "SVC0004", "serviceException", ["address", "r1"], Refused("the number is not in use", own=True), "of ours"),
    (400, "SVC0004", "serviceException", ["address", "r12"], Silent, "of another one"),
    (403, "POL1011", "policyException", ["senderAddress"], Silent, "whom it concerns is not said"),
]


@pytest.mark.parametrize(("status", "code", "kind", "variables", "means", "_why"), QUESTIONS)
def test_an_error_of_a_question_is_none_of_the_text(status, code, kind, variables, means, _why):
    body = fault(code, kind)
    body["requestError"][kind]["variables"] = variables
    outcome = line_by(Network(respond(status, body))).ask("r1")
    assert isinstance(outcome, means) if isinstance(means, type) else outcome == means


def test_what_is_asked_for():
    network = Network(respond(201, OURS))
    line = line_by(network)
    line.hand_over("r1", "+19025550101", "Hello €")
    line.ask("r1")
    (post, sent), (get, nothing) = (asked.decode().split("\r\n\r\n") for asked in network.asked)
    path = "/messaging/v1/outbound/Quay%20Office/requests"
    assert post.startswith(f"POST {path} HTTP/1.1\r\n")
    assert "\r\nHost: 127.0.0.1:1\r\n" in post
    assert f"\r\nContent-Length: {len(sent.encode())}" in post
    assert json.loads(sent)["outboundMessageRequest"] == {
        "address": ["tel:+19025550101"],
        "senderAddress": "Quay Office",
        "outboundSMSTextMessage": {"message": "Hello €"},
        "clientCorrelator": "r1",
    }
    method, asked, _ = get.split("\r\n")[0].split(" ")
    assert (method, urlsplit(asked).path, nothing) == ("GET", path, "")
    assert parse_qs(urlsplit(asked).query) == {"clientCorrelator": ["r1"]}


def test_a_host_of_several_addresses_is_reached_by_any_of_them_within_the_time(monkeypatch):
    def found(host, port, type=0, flags=0):
        if flags:
            raise socket.gaierror
        return [(0, 0, 0, "", (address, port)) for address in ("::1", "127.0.0.1", "127.0.0.1")]

    monkeypatch.setattr(socket, "getaddrinfo", found)
    network = Network(respond(200, OURS), {"::1": httpcore.ConnectTimeout("leads nowhere")})
    assert Exchange(8.0, network).get("http://quay.example/x", {}).status == 200
    assert [host for host, _ in network.tried] == ["::1", "127.0.0.1"]
    assert network.tried[0][1] <= 4.0 < network.tried[1][1] <= 8.0
    network.breaks["127.0.0.1"] = httpcore.ConnectError("refused")
    with pytest.raises(NothingWritten):
        Exchange(8.0, network).get("http://quay.example/x", {})
    assert len(network.asked) == 1


def test_a_name_that_is_looked_up_for_too_long_is_not_waited_for(monkeypatch):
    over = threading.Event()

    def slow(host, port, type=0, flags=0):
        if flags:
            raise socket.gaierror
        over.wait(30)
        raise socket.gaierror

    monkeypatch.setattr(socket, "getaddrinfo", slow)
    line = OmaMessagingLine("http://quay.example", "Quay Office", timeout=0.05)
    means = Unavailable("the carrier cannot be reached: no connection in time")
    assert line.hand_over("r1", "+19025550101", "Hello") == means
    over.set()
