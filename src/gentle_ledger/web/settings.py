"""Settings, each with its words; read from the environment, `GENTLE_LEDGER_` in front."""

import os
from decimal import Decimal
from ipaddress import ip_address
from pathlib import Path
from typing import Annotated, Literal

import tzlocal
from pydantic import AfterValidator, Field, ValidationError, field_validator, model_validator
from pydantic_settings import BaseSettings, SettingsConfigDict

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.pace.civil import known_zone
from gentle_ledger.core.recipe.model import Currency, LocaleTag, Region
from gentle_ledger.core.recipe.terms import LineTerms
from gentle_ledger.core.sms.parts import MOST_PARTS

PREFIX = "GENTLE_LEDGER_"


def system_zone() -> str:
    """This machine's own zone, by its IANA name; UTC where it has none that is known."""
    try:
        return known_zone(tzlocal.get_localzone_name() or "") or "UTC"
    except (LookupError, ValueError, OSError):
        return "UTC"


def state_folder() -> Path:
    """Where a program keeps the state of its user (XDG Base Directory Specification, `XDG_STATE_HOME`)."""
    # A path that is not absolute is to be ignored, by that specification.
    told = Path(os.environ.get("XDG_STATE_HOME", ""))
    if told.is_absolute():
        return told / "gentle-ledger"
    try:
        return Path.home() / ".local" / "state" / "gentle-ledger"
    except RuntimeError:
        # A user without a home.
        return Path("data") / "state"


def _zone(value: str) -> str:
    found = known_zone(value)
    if found is None:
        raise ValueError("It is an IANA time zone such as America/Halifax")
    return found


Zone = Annotated[str, AfterValidator(_zone)]


class SettingError(LedgerError):
    """A setting that cannot be used."""

    kind = "setting"


class Settings(BaseSettings):
    model_config = SettingsConfigDict(env_prefix=PREFIX, frozen=True)

    data: Path = Field(
        default=Path("data/ledger.sqlite3"), validate_default=True, description="The file everything is kept in."
    )
    host: str = Field(default="127.0.0.1", description="The address to listen on, of this machine only.")
    port: int = Field(default=8090, ge=0, le=65535, description="The port to listen on.")
    carrier_url: str = Field(
        default="http://127.0.0.1:8091/messaging/v1", description="Where the carrier's messaging interface is."
    )
    carrier_timeout: float = Field(default=10.0, gt=0, le=120, description="Seconds to wait for the carrier's answer.")
    carrier_settling: float | None = Field(
        default=None,
        gt=0,
        le=3600,
        description='Seconds after a hand-over until the carrier\'s "no record" is proof; longer than the time-out. '
        "Unset, a minute, or three times the time-out where that is longer.",
    )
    carrier_remembers: float = Field(
        default=24 * 3600.0,
        gt=0,
        description='Seconds for which the carrier remembers a text: after that its "no record" proves nothing.',
    )
    sender: str = Field(
        default="Quay Office", min_length=1, max_length=15, description="The sender name or number of the line."
    )
    price_per_part: Decimal | None = Field(
        default=None, ge=0, description="What one part costs by the line; unset, no cost is shown."
    )
    price_currency: Currency | None = Field(
        default=None, description="The currency (ISO 4217) of that. Unset, the one of new rounds."
    )
    prices: dict[Region, Decimal] = Field(
        default_factory=dict,
        description='What one part costs to other countries (ISO 3166-1), such as `{"US": "0.05"}`.',
    )
    most_parts: int = Field(
        default=MOST_PARTS, ge=1, le=MOST_PARTS, description="How many parts of a text the line takes."
    )
    state: Path = Field(
        default_factory=state_folder,
        description="The folder in which a second record of what was handed over is kept, apart from the ledger. "
        "Unset, `gentle-ledger` in the user's state folder.",
    )
    copies: int = Field(
        default=7,
        ge=0,
        le=366,
        description="How many copies of the ledger are kept beside it, one a day; 0 for none.",
    )
    log_format: Literal["lines", "json"] = Field(
        default="lines", description="How the log is written, on standard error: in `lines`, or each as `json`."
    )
    log_level: Literal["debug", "info", "warning", "error"] = Field(
        default="warning", description="From which level on something is logged: debug, info, warning or error."
    )
    zone: Zone = Field(
        default_factory=system_zone,
        description="The time zone (IANA) where the office is, such as America/Halifax. Unset, this machine's own.",
    )
    region: Region = Field(default="CA", description="The country (ISO 3166-1) of new rounds.")
    currency: Currency = Field(default="CAD", description="The currency (ISO 4217) of new rounds.")
    locale: LocaleTag = Field(default="en-CA", description="The locale (BCP 47) of new rounds.")

    @field_validator("data")
    @classmethod
    def _by_its_own_name(cls, value: Path) -> Path:
        # What lies beside a ledger goes by its name: by a link it would have another witness and other locks.
        return Path(os.path.realpath(value))

    @field_validator("host")
    @classmethod
    def _this_machine_only(cls, value: str) -> str:
        try:
            here = value == "localhost" or ip_address(value).is_loopback
        except ValueError:
            here = False
        if not here:
            raise ValueError(
                "Only this machine can be listened to (127.0.0.1, ::1 or localhost): whoever reached the program from "
                "elsewhere could send texts, for it does not know people and passwords yet"
            )
        return value

    @model_validator(mode="after")
    def _settles_after_the_time_out(self) -> "Settings":
        if self.carrier_settling is not None and self.carrier_settling <= self.carrier_timeout:
            raise ValueError("CARRIER_SETTLING must be longer than CARRIER_TIMEOUT")
        if self.carrier_remembers <= self.settles_after:
            raise ValueError("CARRIER_REMEMBERS must be longer than CARRIER_SETTLING")
        return self

    @property
    def terms(self) -> LineTerms:
        return LineTerms(
            price_per_part=self.price_per_part,
            price_currency=self.price_currency or self.currency,
            prices=self.prices,
            most_parts=self.most_parts,
        )

    @property
    def settles_after(self) -> float:
        return self.carrier_settling or max(60.0, 3 * self.carrier_timeout)


def read_settings(**given: object) -> Settings:
    """The settings, those that are given taking the place of the environment's.

    Raises SettingError, naming the setting, its value and what is expected of it.
    """
    try:
        return Settings(**given)  # type: ignore[arg-type]
    except ValidationError as fault:
        first = fault.errors(include_url=False)[0]
        why = first["msg"].removeprefix("Value error, ")
        if not first["loc"]:
            raise SettingError(f"The settings cannot be used together: {why}.") from fault
        name = f"{PREFIX}{first['loc'][0]}".upper()
        raise SettingError(f'The setting {name} cannot be used: it is "{first["input"]}". {why}.') from fault
