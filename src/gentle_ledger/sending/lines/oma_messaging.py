"""A line over the OMA RESTful Network API for Messaging, in JSON (OMA-TS-REST_NetAPI_Messaging; from memory).

`docs/carrier.md` tells what of it is used, and what each status means for a row.
"""

import math
from collections.abc import Callable, Mapping
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from typing import Any
from urllib.parse import quote

import httpcore

from gentle_ledger.core.cells.words import printable
from gentle_ledger.core.recipe.terms import LineTerms
from gentle_ledger.sending.lines import A_DAY, Accepted, NoRecord, Outcome, Policy, Refused, Silent, Unavailable
from gentle_ledger.sending.lines.exchange import Answer, Exchange, NoAnswer, NothingWritten
from gentle_ledger.sending.lines.registry import line_kind

KIND = "oma messaging"

_OWN = {
    "SVC0004": "the number is not in use",
    "POL1011": "refused: the recipient has blocked this sender",
}
"""The exceptions that are surely the row's own, by their OMA messageId; trying again would not help."""
_CORRELATOR = "clientCorrelator"
_NOT_OF_THIS = "the carrier's answer to the question says nothing of this text"
_CARRIERS = {"POL1010": "the carrier was busy", "SVC1000": "the carrier had no room for it"}
"""The exceptions that say something of the carrier, whatever status they come with."""
_NOT_TAKEN = {
    401: "the carrier does not know this program's credentials",
    402: "the carrier asks to be paid first",
    403: "the carrier does not let this line in",
    404: "the carrier's address is not where it was set",
    405: "the carrier's address is not where it was set",
    407: "a proxy stands before the carrier",
    408: "the carrier was too slow to take it",
    421: "the carrier's address is not where it was set",
    425: "the carrier was not ready",
    429: "the carrier asks for fewer texts",
    451: "the carrier may not take texts",
    511: "the network asks to be signed in to",
}
"""Statuses that say, before any body is read, that the request was not carried out (RFC 9110 15.5, RFC 6585)."""
_TOO_MANY = 429
_LONGEST_WAIT = 24 * 3600.0
_NOT_UNDERSTOOD = "the carrier's answer could not be understood"
MOST_REASON = 160


class OmaSettings(LineTerms):
    """What has to be set for a line over this interface; see `OmaMessagingLine`."""

    base_url: str
    sender: str
    timeout: float = 10.0
    settles_after: float = 60.0
    remembers: float = A_DAY


@line_kind(key=KIND, doc="A carrier's messaging interface over HTTP, by a standard of the OMA.", settings=OmaSettings)
def oma_line(settings: OmaSettings, now: Callable[[], datetime]) -> "OmaMessagingLine":
    """A line by its settings."""
    terms = LineTerms(**{name: getattr(settings, name) for name in LineTerms.model_fields})
    return OmaMessagingLine(
        settings.base_url,
        settings.sender,
        settings.timeout,
        settings.settles_after,
        now,
        terms=terms,
        remembers=settings.remembers,
    )


class OmaMessagingLine:
    """Texts from one sender address by HTTP.

    Args:
        base_url: where the interface's root is, such as `http://127.0.0.1:8091/messaging/v1`.
        sender: the sender address or name.
        timeout: seconds for a whole answer.
        settles_after: seconds after a hand-over from which on "no record" is proof; longer than `timeout`.
        now: the moment, for a Retry-After that is a date where the answer has no date of its own.
        network: what connects, for tests.
        terms: what a part costs by it, and the most parts that it takes.
        remembers: seconds for which the carrier remembers references.
    """

    kind = KIND

    def __init__(
        self,
        base_url: str,
        sender: str,
        timeout: float = 10.0,
        settles_after: float = 60.0,
        now: Callable[[], datetime] = lambda: datetime.now(UTC),
        network: httpcore.NetworkBackend | None = None,
        terms: LineTerms | None = None,
        remembers: float = A_DAY,
    ) -> None:
        # The clientCorrelator is there for this: the same one again creates nothing new (from memory).
        self.policy = Policy(settles_after, tells_repeats_apart=True, remembers=remembers, answers_within=timeout)
        self.identity = f"{sender} at {base_url.rstrip('/')}"
        self._sender = sender
        self.settings = OmaSettings(
            base_url=base_url,
            sender=sender,
            timeout=timeout,
            settles_after=settles_after,
            remembers=remembers,
            **(terms or LineTerms()).model_dump(),
        ).model_dump(mode="json")
        self._now = now
        self._requests = f"{base_url.rstrip('/')}/outbound/{quote(sender, safe='')}/requests"
        self._http = Exchange(timeout, network, encrypts=base_url.lower().startswith("https:"))

    @property
    def name(self) -> str:
        """The sender address or name."""
        return self._sender

    def hand_over(self, reference: str, number: str, text: str) -> Accepted | Refused | Unavailable | Silent:
        """Hands one text over; see `Line`."""
        body = {
            "outboundMessageRequest": {
                "address": [f"tel:{number}"],
                "senderAddress": self._sender,
                "outboundSMSTextMessage": {"message": text},
                "clientCorrelator": reference,
            }
        }
        try:
            return self._outcome(self._http.post(self._requests, body), reference)
        except NothingWritten as fault:
            return Unavailable(str(fault))
        except NoAnswer as fault:
            return Silent(str(fault))

    def ask(self, reference: str) -> Outcome:
        """What became of a hand-over; see `Line`."""
        try:
            answer = self._http.get(self._requests, {"clientCorrelator": reference})
        except NothingWritten as fault:
            return Unavailable(str(fault))
        except NoAnswer as fault:
            return Silent(str(fault))
        exception = _exception(answer.body)
        named = _variables(exception)
        if answer.status == 404 and exception.get("messageId") == "SVC0002":
            # It is about our reference, unless it says that it is about something else.
            return NoRecord() if not named or {_CORRELATOR, reference} & named else Silent(_NOT_OF_THIS)
        outcome = self._outcome(answer, reference)
        if isinstance(outcome, Refused) and reference not in named:
            # What is wrong with the question is no word about the text.
            return Silent(_NOT_OF_THIS)
        return outcome

    def _outcome(self, answer: Answer, reference: str) -> Accepted | Refused | Unavailable | Silent:
        """The status counts before the body.

        Only an answer that names our own reference counts as accepted, and only one that names its fault as refused.
        """
        if 200 <= answer.status < 300:
            return _accepted(answer.body, reference)
        exception = _exception(answer.body)
        message_id = exception.get("messageId")
        code = message_id if isinstance(message_id, str) else ""
        if answer.status >= 500 or code in _CARRIERS or answer.status in {401, 429}:
            return self._unavailable(answer, code)
        if code in _OWN:
            return Refused(_OWN[code], own=True, code=code)
        if code and 400 <= answer.status < 500:
            said = printable(exception.get("text") or code, MOST_REASON)
            return Refused(f"the carrier refused it: {said}", may_retry=True, code=printable(code, MOST_REASON))
        if answer.status in _NOT_TAKEN:
            return self._unavailable(answer, code)
        return Silent(_NOT_UNDERSTOOD)

    def _unavailable(self, answer: Answer, code: str) -> Unavailable:
        taken = answer.status >= 500 and answer.status not in _NOT_TAKEN and code not in _CARRIERS
        why = _CARRIERS.get(code) or _NOT_TAKEN.get(answer.status) or "the carrier has trouble of its own"
        return Unavailable(
            f"{why} ({answer.status})", self._wait(answer), perhaps_taken=taken, too_fast=answer.status == _TOO_MANY
        )

    def _wait(self, answer: Answer) -> float:
        """Retry-After in seconds: a number of them or a date (RFC 9110, 10.2.3); nonsense counts as none.

        A date is compared with the answer's own Date, so that a wrong clock on either side changes nothing.
        """
        value = answer.headers.get("Retry-After", "").strip()
        if value.isdecimal() and value.isascii() and len(value) <= 20:
            return min(_LONGEST_WAIT, float(value))
        until = _moment(value)
        if until is None:
            return 0.0
        seconds = (until - (_moment(answer.headers.get("Date", "")) or self._now())).total_seconds()
        return min(_LONGEST_WAIT, max(0.0, math.ceil(seconds)))


def _moment(value: str) -> datetime | None:
    """A date of HTTP (RFC 9110, 5.6.7); None for anything else."""
    try:
        found = parsedate_to_datetime(value)
    except (ValueError, TypeError, IndexError, OverflowError):
        return None
    return found if found.tzinfo else found.replace(tzinfo=UTC)


def _accepted(body: Any, reference: str) -> Accepted | Silent:
    request = body.get("outboundMessageRequest") if isinstance(body, dict) else None
    if isinstance(request, dict) and request.get("clientCorrelator") == reference and request.get("resourceURL"):
        return Accepted(printable(str(request["resourceURL"]).rsplit("/", 1)[-1], MOST_REASON))
    return Silent(_NOT_UNDERSTOOD)


def _variables(exception: Mapping[str, Any]) -> set[str]:
    """What an exception names: the message parts that it is about, and what stands in them."""
    named = exception.get("variables")
    return {str(each) for each in named} if isinstance(named, list) else set()


def _exception(body: Any) -> dict[str, Any]:
    error = body.get("requestError") if isinstance(body, dict) else None
    found = (error.get("serviceException") or error.get("policyException")) if isinstance(error, dict) else None
    return found if isinstance(found, dict) else {}
