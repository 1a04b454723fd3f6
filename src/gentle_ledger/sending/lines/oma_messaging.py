"""A line over the OMA RESTful Network API for Messaging, in JSON (OMA-TS-REST_NetAPI_Messaging; from memory).

`docs/carrier.md` tells what of it is used.
"""

from typing import Any
from urllib.parse import quote

import httpx

from gentle_ledger.sending.lines import Accepted, NoRecord, Refused, Silent

# Which exceptions leave hope, by their OMA messageId; every other one is final.
_MAY_RETRY = frozenset({"SVC1000", "POL1010"})
_SENTENCES = {
    "SVC0004": "the number is not in use",
    "POL1011": "refused: the recipient has blocked this sender",
    "POL1010": "the carrier was busy",
    "SVC1000": "the carrier had no room for it",
}


class OmaMessagingLine:
    """Texts from one sender address by HTTP.

    Args:
        base_url: where the interface's root is, such as `http://127.0.0.1:8091/messaging/v1`.
        sender: the sender address or name.
        timeout: seconds to wait for an answer.
    """

    def __init__(self, base_url: str, sender: str, timeout: float = 10.0) -> None:
        self._sender = sender
        self._requests = f"{base_url.rstrip('/')}/outbound/{quote(sender, safe='')}/requests"
        # No proxies from the environment: the program talks to its carrier and to nobody else.
        self._http = httpx.Client(timeout=timeout, trust_env=False, follow_redirects=False)

    @property
    def name(self) -> str:
        return self._sender

    def hand_over(self, reference: str, number: str, text: str) -> Accepted | Refused | Silent:
        body = {
            "outboundMessageRequest": {
                "address": [f"tel:{number}"],
                "senderAddress": self._sender,
                "outboundSMSTextMessage": {"message": text},
                "clientCorrelator": reference,
            }
        }
        try:
            return _outcome(self._http.post(self._requests, json=body), reference)
        except httpx.ConnectError:
            return Refused("the carrier cannot be reached", may_retry=True, line_down=True)
        except (httpx.HTTPError, ValueError) as fault:
            return Silent(_said(fault))

    def ask(self, reference: str) -> Accepted | Refused | NoRecord | Silent:
        try:
            answer = self._http.get(self._requests, params={"clientCorrelator": reference})
            if answer.status_code == httpx.codes.NOT_FOUND and _message_id(answer.json()) == "SVC0002":
                return NoRecord()
            return _outcome(answer, reference)
        except (httpx.HTTPError, ValueError) as fault:
            return Silent(_said(fault))

    def close(self) -> None:
        self._http.close()


def _said(fault: Exception) -> str:
    if isinstance(fault, httpx.TimeoutException):
        return "the carrier did not answer in time"
    return "the connection to the carrier broke off"


def _exception(body: Any) -> dict[str, Any]:
    error = body.get("requestError") if isinstance(body, dict) else None
    found = (error.get("serviceException") or error.get("policyException")) if isinstance(error, dict) else None
    return found if isinstance(found, dict) else {}


def _message_id(body: Any) -> str:
    return str(_exception(body).get("messageId", ""))


def _outcome(answer: httpx.Response, reference: str) -> Accepted | Refused | Silent:
    """Only an answer that names our own reference counts as accepted, and only one that names its fault as refused."""
    body = answer.json()
    if answer.is_success:
        request = body.get("outboundMessageRequest") if isinstance(body, dict) else None
        if isinstance(request, dict) and request.get("clientCorrelator") == reference and request.get("resourceURL"):
            return Accepted(str(request["resourceURL"]).rsplit("/", 1)[-1])
        return Silent("the carrier's answer could not be understood")
    message_id = _message_id(body)
    if not message_id:
        return Silent("the carrier's answer could not be understood")
    reason = _SENTENCES.get(message_id) or f"the carrier refused it: {_exception(body).get('text', message_id)}"
    return Refused(reason, message_id in _MAY_RETRY, _wait(answer))


def _wait(answer: httpx.Response) -> float:
    """Retry-After in seconds (RFC 9110, 10.2.3); a date or nonsense counts as none."""
    try:
        return min(3600.0, max(0.0, float(answer.headers.get("Retry-After", "0"))))
    except ValueError:
        return 0.0
