"""What differs between two states of a set-up, place by place, in words."""

import json
from collections.abc import Callable, Iterator, Mapping
from typing import Any


def _seconds(value: Any) -> str:
    return f"{value:g} s"


def _minutes(value: Any) -> str:
    return f"{value:g} min"


def _texts(value: Any) -> str:
    return f"{value:,} texts" if value else "none"


def _a_day(value: Any) -> str:
    caps = [f"{each:,}" for each in value]
    return ", ".join([*caps[:-1], f"then {caps[-1]}" if len(caps) > 1 else caps[-1]]) if caps else "no cap"


def _listed(value: Any) -> str:
    return ", ".join(map(str, value))


_NAMES: Mapping[tuple[str, ...], str] = {
    ("title",): "name of the round",
    ("as_of",): "date of the round",
    ("region",): "country",
    ("locale",): "language",
    ("plain_signs",): "signs written plainly",
    ("leave_out_hidden",): "hidden rows left out",
    ("repeat_days",): "days back for the same text",
    ("lately_days",): "days back for any text",
    ("sender",): "who writes",
    ("sent_columns",): "says which rows were sent",
    ("pace", "every"): "the gap",
    ("pace", "give_or_take"): "give or take",
    ("pace", "after"): "a rest after",
    ("pace", "rest"): "how long a rest is",
    ("pace", "per_day"): "texts a day",
    ("pace", "start"): "the beginning",
    ("pace", "at"): "own moments from",
    ("pace", "zone"): "recipients' zones from",
    ("pace", "late"): "left out when late by",
    ("pace", "order"): "order of the texts",
    ("pace", "patience"): "patience with a carrier that is away",
    ("pace", "hours"): "hours",
    ("pace", "hours", "from"): "hours from",
    ("pace", "hours", "to"): "hours to",
    ("pace", "hours", "days"): "days of the week",
    ("pace", "hours", "where"): "whose clocks tell the hours",
    ("pace", "hours", "holidays"): "holidays kept",
    ("combine",): "rows of one person combined by",
    ("combine", "by"): "rows of one person combined by",
}
"""What a setting is called; of others the last part of its place is said."""
_OF_COLUMN = {
    "role": "what it is for",
    "fallback": "the text when blank",
    "format": "how it is written",
    "formula": "its formula",
    "template": "its link",
    "order": "how its days are read",
}
_VALUES: Mapping[tuple[str, ...], Callable[[Any], str]] = {
    ("pace", "every"): _seconds,
    ("pace", "give_or_take"): _seconds,
    ("pace", "rest"): _seconds,
    ("pace", "after"): _texts,
    ("pace", "per_day"): _a_day,
    ("pace", "late"): _minutes,
    ("pace", "patience"): _minutes,
    ("pace", "hours", "days"): _listed,
    ("countries",): _listed,
}
"""How a setting's value is said, where that is not as it is kept."""
_PARTS = {"leave_out": "rule", "wordings": "wording", "belong_together": "rows that belong together,"}
"""What each of several is called."""


def differences(before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterator[tuple[str, str, str]]:
    """Each place that became another, with what stood there before and after; "" for nothing."""
    for name in after:
        yield from _differences((name,), before.get(name), after[name])


def _differences(place: tuple[str, ...], before: Any, after: Any) -> Iterator[tuple[str, str, str]]:
    if before == after:
        return
    said = _VALUES.get(place, _said)
    if place not in _VALUES and (isinstance(before, dict) or isinstance(after, dict)):
        was, now = before or {}, after or {}
        if isinstance(was, dict) and isinstance(now, dict):
            for name in dict.fromkeys([*was, *now]):
                yield from _differences((*place, name), was.get(name), now.get(name))
            return
    if place not in _VALUES and isinstance(before, list) and isinstance(after, list):
        for at in range(max(len(before), len(after))):
            was = before[at] if at < len(before) else None
            now = after[at] if at < len(after) else None
            yield from _differences((*place, str(at + 1)), was, now)
        return
    yield _where(place), "" if before is None else said(before), "" if after is None else said(after)


def _where(place: tuple[str, ...]) -> str:
    """A place in the clerk's words: "the gap", "Due, how it is written", "rule 2, when"."""
    if place in _NAMES:
        return _NAMES[place]
    first, *rest = place
    if first == "columns" and rest:
        return ", ".join([rest[0], *(_OF_COLUMN.get(name, name.replace("_", " ")) for name in rest[1:])])
    if first == "checks" and rest:
        return f"the check “{rest[0]}”"
    if first == "lookups" and rest:
        return ", ".join([f"the table {rest[0]}", *rest[1:]])
    if first == "sent_columns" and rest:
        return f"{rest[0]} {_NAMES['sent_columns',]}"
    if first in _PARTS and rest:
        return ", ".join([f"{_PARTS[first]} {rest[0]}", *(name.replace("_", " ") for name in rest[1:])])
    if place[:2] == ("combine", "columns"):
        return f"combining, {', '.join(place[2:])}"
    return ", ".join([_NAMES.get((first,), first.replace("_", " ")), *(name.replace("_", " ") for name in rest)])


def _said(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:g}"
    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
