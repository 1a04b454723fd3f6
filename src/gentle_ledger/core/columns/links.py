"""Links from RFC 6570 URI Templates over the row's columns, expanded by `uritemplate`."""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from ipaddress import ip_address
from urllib.parse import quote

from uritemplate import URITemplate

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.formulas.parse import FormulaError

_EXPRESSION = re.compile(r"\{([+#./;?&]?)([^{}]*)\}")
_MODIFIER = re.compile(r"(.*?)\s*(\*|:\d{1,4})?")


@dataclass(frozen=True, slots=True)
class LinkTemplate:
    """A template bound to column names.

    Attributes:
        columns: the columns it uses, in order, each once.
        needed: those of them without which the link would lead somewhere else: all but the ones in a query.
        exploded: those of which it takes a list apart, as {?Berth*} does (RFC 6570, 2.4.2), wherever it uses them.
    """

    columns: tuple[str, ...]
    needed: frozenset[str]
    exploded: frozenset[str]
    _template: URITemplate
    _names: tuple[tuple[str, str], ...]
    _skeleton: str | None

    def expand(self, value: Callable[[str], str | list[str] | None]) -> str:
        """The link for a row: `value` gives a column's plain text, or the texts of a list, None when it is blank."""
        found = {name: value(column) for name, column in self._names}
        if self._skeleton is not None and all(found.values()):
            return self._skeleton.format(*[quote(str(text), safe="") for text in found.values()])
        return str(self._template.expand({**found}))


def names_in(template: str, whole: str = "") -> list[tuple[str, int, int]]:
    """The columns that a template names, each with its place; modifiers such as * and :3 are no part of a name.

    `whole` is a column whose own name may have a comma in it.
    """
    keys = {column_key(whole): whole} if whole else {}
    found = []
    for match in _EXPRESSION.finditer(template):
        at = match.start(2)
        for spec in _split(match[2], keys):
            plain, _ = _spec(spec, keys)
            plain, front = plain.strip(), len(spec) - len(spec.lstrip())
            found.append((plain, at + front, at + front + len(plain)))
            at += len(spec) + 1
    return found


def _skeleton_of(template: URITemplate, names: Sequence[str], expressions: Sequence[tuple[str, str]]) -> str | None:
    """The template expanded once, with a place for each value.

    Only where every value is put in as it is, percent-encoded but for the unreserved characters (RFC 6570, 3.2.1): not
    for the operators + and #, and not where a value is cut or exploded. None where that is not so.
    """
    plain = all(sign in {"", "?", "&", "/", ".", ";"} and not modifier for sign, modifier in expressions)
    if not plain:
        return None
    marks = {name: f"zq{i}qz" for i, name in enumerate(names)}
    expanded = str(template.expand({**marks})).replace("{", "{{").replace("}", "}}")
    for i, mark in enumerate(marks.values()):
        expanded = expanded.replace(mark, f"{{{i}}}")
    return expanded


def link_template(template: str, columns: Sequence[str]) -> LinkTemplate:
    """Binds a template to the columns, whose names match in any case and may have spaces in them.

    A name that RFC 6570 (2.3) does not allow is percent-encoded, which it does allow. Raises FormulaError with the
    place for a name that no column answers to and for brackets that do not close.
    """
    keys = {column_key(name): name for name in columns}
    pieces: list[str] = []
    names: dict[str, str] = {}
    needed: set[str] = set()
    exploded: dict[str, bool] = {}
    expressions: list[tuple[str, str]] = []
    at = 0
    for match in _EXPRESSION.finditer(template):
        _refuse_bracket(template, at, match.start())
        pieces.append(_literal(template[at : match.start()]))
        at = match.end()
        varspecs = []
        for spec in _split(match[2], keys):
            plain, modifier = _spec(spec, keys)
            column = keys.get(column_key(plain))
            if column is None:
                raise FormulaError(
                    match.start(),
                    match.end(),
                    f'No column is called "{clipped(plain)}".' if plain else "A field without a name.",
                    f"There is {listed(columns, 6)}.",
                    column=plain,
                )
            name = quote(" ".join(plain.split()), safe="").replace("-", "%2D").replace("~", "%7E")
            names[name] = column
            expressions.append((match[1], modifier))
            varspecs.append(name + modifier)
            exploded[column] = exploded.get(column, True) and modifier == "*"
            if match[1] not in {"?", "&"}:
                needed.add(column)
        pieces.append("{" + match[1] + ",".join(varspecs) + "}")
    _refuse_bracket(template, at, len(template))
    pieces.append(_literal(template[at:]))
    used = tuple(dict.fromkeys(names.values()))
    bound = URITemplate("".join(pieces))
    apart = frozenset(column for column, every in exploded.items() if every)
    return LinkTemplate(
        used, frozenset(needed), apart, bound, tuple(names.items()), _skeleton_of(bound, list(names), expressions)
    )


def _split(inside: str, keys: dict[str, str]) -> list[str]:
    """The names in an expression; a column whose own name has a comma in it may stand alone."""
    return [inside] if column_key(inside) in keys else inside.split(",")


def _spec(spec: str, keys: dict[str, str]) -> tuple[str, str]:
    if column_key(spec) in keys:
        return spec, ""
    match = _MODIFIER.fullmatch(spec.strip())
    return (match[1], match[2] or "") if match else (spec, "")


def _refuse_bracket(template: str, start: int, end: int) -> None:
    for at in range(start, end):
        if template[at] in "{}":
            what = "opened and not closed" if template[at] == "{" else "closed and was never opened"
            raise FormulaError(at, at + 1, f"The field at {at + 1} is {what}.", "A field is {Column name}.")


_LABEL = re.compile(r"(?!-)[\w-]{1,63}(?<!-)")


def _could_be(host: str) -> bool:
    """True for a name that could be a host: labels of letters, digits and hyphens (RFC 1123 2.1), or an address."""
    if host.startswith("["):
        return _is_address(host[1:-1])
    labels = host.removesuffix(".").split(".")
    if labels[-1].isdigit():
        return _is_address(host)
    return len(host) <= 253 and all(_LABEL.fullmatch(label) and "_" not in label for label in labels)


def _is_address(text: str) -> bool:
    try:
        ip_address(text)
    except ValueError:
        return False
    return True


_HTTP = re.compile(
    r"""https?://(\[[0-9a-f:.]+\]|[^\s<>"{}|\\^`/?#@:\[\]]+)
        (?::(\d{1,5}))?(?:[/?#][^\s<>"{}|\\^`]*)?""",
    re.IGNORECASE | re.VERBOSE,
)


@lru_cache(maxsize=262_144)
def link_host(link: str) -> str | None:
    """The host of an absolute http or https address (RFC 3986, 4.3 and 3.2), in small letters; None for all else.

    An address with a user name in front of its host is none either: it looks as if it led to that name.
    """
    match = _HTTP.fullmatch(link)
    if match is None or not _could_be(match[1]) or (match[2] and not _is_port(match[2])):
        return None
    return match[1].lower()


def _is_port(digits: str) -> bool:
    """Whether digits are a port: 1 to 65535 (RFC 6335, 6; RFC 3986, 3.2.3)."""
    return digits.isdecimal() and 0 < int(digits) <= 65_535


_START = re.compile(r"https?://([^/?#{}\s]*)", re.IGNORECASE)
_BEHIND_THE_HOST = ("/", "?", "#", "{/", "{?", "{#")


def refuse_address(template: str) -> None:
    """Raises FormulaError for a template whose links could not lead to one host: the one that is read in it."""
    match = _START.match(template)
    if match is None:
        scheme = re.match(r"[^{}/\s]*", template)
        raise FormulaError(
            0,
            max(1, scheme.end() if scheme else 1),
            "A link begins with https:// or http:// and its host.",
            "Write it out, such as https://pay.saltmarsh.example/, with the fields behind it.",
        )
    start, end = match.span(1)
    rest = template[end:]
    if rest.startswith("{") and not rest.startswith(_BEHIND_THE_HOST):
        raise FormulaError(
            end,
            end + 1,
            "A field cannot be part of the host: the rows would lead to different places.",
            "Put a / between the host and the field.",
        )
    if "@" in match[1]:
        raise FormulaError(start, end, "A link has no user name in front of its host.", "Take out all up to the @.")
    host, colon, port = match[1].partition(":") if not match[1].startswith("[") else (match[1], "", "")
    if (colon and not _is_port(port)) or (rest and not rest.startswith(_BEHIND_THE_HOST)) or not _could_be(host):
        raise FormulaError(
            start,
            max(end, start + 1),
            f'There is no host called "{clipped(match[1])}".',
            "A host is a name such as pay.saltmarsh.example.",
        )


_ALLOWED = "-._~:/?#[]@!$&'()*+,;="
"""What may stand in an address as it is (RFC 3986, 2.2 and 2.3), besides letters and digits of ASCII."""


def _literal(text: str) -> str:
    """The words of a template between its fields; all else is percent-encoded as UTF-8 (RFC 6570, 3.1)."""
    match = _START.match(text)
    if match and not match[1].isascii():
        try:
            host = match[1].encode("idna").decode()
        except UnicodeError:
            host = match[1]
        text = text[: match.start(1)] + host + text[match.end(1) :]
    pieces = re.split(r"(%[0-9A-Fa-f]{2})", text)
    return "".join(piece if i % 2 else quote(piece, safe=_ALLOWED) for i, piece in enumerate(pieces))
