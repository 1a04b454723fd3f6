"""What the program writes down for whoever runs it: when, how bad, which part, and no number or word of anybody."""

import asyncio
import json
import logging
import sqlite3
from datetime import UTC, datetime
from types import TracebackType
from typing import Literal

from gentle_ledger.app.faults import JobFailed, told_discreetly
from gentle_ledger.store.errors import CannotOpen, CannotWrite, Displaced
from gentle_ledger.store.senders import TurnLost
from gentle_ledger.store.witness import NoWitness

Form = Literal["lines", "json"]

_MAY_SPEAK = (CannotOpen, CannotWrite, Displaced, NoWitness, TurnLost, JobFailed, OSError, sqlite3.Error, ImportError)
"""Errors whose words are of the machine, and have nothing of a sheet in them. Of any other the place where it arose is
told, and not what it says: it may quote a cell."""


def begin_logging(form: Form, level: str) -> None:
    """Has everything that is logged in this process written to standard error."""
    handler = logging.StreamHandler()
    handler.setFormatter(JsonLines() if form == "json" else Lines())
    handler.addFilter(_is_news)
    logging.basicConfig(level=level.upper(), handlers=[handler], force=True)


def _is_news(record: logging.LogRecord) -> bool:
    """What is broken off because the program was told to end is no error."""
    return not (record.exc_info and isinstance(record.exc_info[1], asyncio.CancelledError))


def at(record: logging.LogRecord) -> str:
    """When it was, in ISO 8601 and UTC."""
    return datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds")


class Discreet(logging.Formatter):
    """Writes errors down by what kind they are and where they arose."""

    def formatException(  # noqa: N802 - the name that logging calls
        self, ei: tuple[type[BaseException], BaseException, TracebackType | None] | tuple[None, None, None]
    ) -> str:
        """The chain of errors behind a record, the first one first."""
        return "" if ei[1] is None else told_discreetly(ei[1], _MAY_SPEAK)


class Lines(Discreet):
    """One line a record, and the lines of its error below it."""

    def format(self, record: logging.LogRecord) -> str:
        """See `logging.Formatter`."""
        said = f"{at(record)} {record.levelname} {record.name}: {record.getMessage()}"
        return f"{said}\n{self.formatException(record.exc_info)}" if record.exc_info else said


class JsonLines(Discreet):
    """One JSON object a record (RFC 8259)."""

    def format(self, record: logging.LogRecord) -> str:
        """See `logging.Formatter`."""
        said = {"at": at(record), "level": record.levelname, "component": record.name, "message": record.getMessage()}
        if record.exc_info:
            said["error"] = self.formatException(record.exc_info)
        return json.dumps(said, ensure_ascii=False)
