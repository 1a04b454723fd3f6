"""What all tables have in common, and how moments and days are kept."""

from datetime import date, datetime
from typing import Any, ClassVar

from sqlalchemy import Integer, String
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase
from sqlalchemy.types import TypeDecorator

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.store.statements import moment_as_text


class Instant(TypeDecorator[datetime]):
    """A moment, kept as ISO 8601 text in UTC with microseconds, so that it sorts as text."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> Any:
        """To text; see `TypeDecorator`."""
        return None if value is None else moment_as_text(value)

    def process_result_value(self, value: Any, dialect: Dialect) -> datetime | None:
        """From text; see `TypeDecorator`."""
        return None if value is None else datetime.fromisoformat(value)


class Day(TypeDecorator[date]):
    """A day, kept as ISO 8601 text."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: date | None, dialect: Dialect) -> Any:
        """To text; see `TypeDecorator`."""
        return None if value is None else value.isoformat()

    def process_result_value(self, value: Any, dialect: Dialect) -> date | None:
        """From text; see `TypeDecorator`."""
        return None if value is None else date.fromisoformat(value)


class Base(DeclarativeBase):
    """What all tables have in common."""

    type_annotation_map: ClassVar = {RowNumber: Integer}
