"""What differs between two states of a set-up, place by place, in words."""

import json
from collections.abc import Iterator, Mapping
from typing import Any

_SETTINGS = {"give_or_take": "give or take", "fallback": "text when blank"}
"""Settings within a part of the set-up whose name is not as the clerk says it; other names may be the clerk's own."""
_NAMES = {"as_of": "date of the round", "leave_out": "rules", "lookups": "tables", "combine": "combining"}


def differences(before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterator[tuple[str, str, str]]:
    """Each place that became another, with what stood there before and after; "" for nothing."""
    for name in after:
        yield from _differences(_NAMES.get(name, name.replace("_", " ")), before.get(name), after[name])


def _differences(where: str, before: Any, after: Any) -> Iterator[tuple[str, str, str]]:
    if before == after:
        return
    if isinstance(before, dict) or isinstance(after, dict):
        was, now = before or {}, after or {}
        if isinstance(was, dict) and isinstance(now, dict):
            for name in dict.fromkeys([*was, *now]):
                # That the columns are combined goes without saying.
                silent = (where, name) == (_NAMES["combine"], "columns")
                deeper = where if silent else f"{where}, {_SETTINGS.get(name, name)}"
                yield from _differences(deeper, was.get(name), now.get(name))
            return
    if isinstance(before, list) and isinstance(after, list):
        for place in range(max(len(before), len(after))):
            was = before[place] if place < len(before) else None
            now = after[place] if place < len(after) else None
            yield from _differences(f"{where}, {place + 1}", was, now)
        return
    yield where, _said(before), _said(after)


def _said(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:g}"
    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
