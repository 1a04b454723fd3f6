"""From the text of a formula to its tree, or to an error that points at the place.

Operators and their ranks are those of OpenFormula (ODF 1.3 part 4, 5.5): a sign in front binds tighter than the power,
so -2^2 is 4; operators of one rank go from left to right, powers included.
"""

from functools import lru_cache
from typing import Any, cast

from lark import Lark, Token, Transformer
from lark.exceptions import UnexpectedCharacters, UnexpectedInput, UnexpectedToken, VisitError

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.cells.fields import FIELD
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.formulas.tree import (
    Bare,
    Call,
    Chain,
    Constant,
    FieldNode,
    Group,
    Node,
    Percent,
    Place,
    Signed,
    steps_of,
)
from gentle_ledger.core.formulas.values import WORK, number_in

MOST_CHARACTERS = 2_000
MOST_STEPS = 500
"""Values, operators and functions in one formula."""
MOST_LEVELS = 60
"""Levels of brackets, functions and signs inside one another."""

_GRAMMAR = r"""
    start: EQUALS? _whole
    _whole: comparison
    comparison: joined (_compares joined)*
    joined: total (JOINS total)*
    total: product (SIGN product)*
    product: power (TIMES power)*
    power: percent (RAISES percent)*
    percent: signed PERCENT*
    ?signed: SIGN signed -> sign
           | _atom
    _atom: number | text | field | bare | call | group
    number: NUMBER
    text: TEXT
    field: FIELD
    bare: NAME
    call: NAME OPEN (_whole (_BETWEEN _whole)*)? CLOSE
    group: OPEN _whole CLOSE
    _compares: EQUALS | RANKS

    EQUALS: "="
    RANKS: "<>" | "<=" | ">=" | "<" | ">"
    JOINS: "&"
    SIGN: "+" | "-"
    TIMES: "*" | "/"
    RAISES: "^"
    PERCENT: "%"
    OPEN: "("
    CLOSE: ")"
    _BETWEEN: ";" | ","
    NUMBER: /(\d+(\.\d+)?|\.\d+)([eE][+-]?\d{1,2})?(?![\w.])/
    TEXT: /"(?:[^"]|"")*"/
    FIELD: /%FIELD%/
    NAME: /[^\W\d]\w*(\.\w+)*/
    %ignore /\s+/
""".replace("%FIELD%", FIELD)
_VALUES = frozenset({"NUMBER", "TEXT", "FIELD", "NAME"})
# Signs people write in sums, and what the formula language has for them; common practice, no source.
_INSTEAD = {
    "×": "Write * for times.",
    "·": "Write * for times.",
    "÷": "Write / for divided by.",
    "−": "Write the plain hyphen - for minus.",
    "–": "Write the plain hyphen - for minus.",
    "“": 'Put the text between straight double quotes: "text".',
    "”": 'Put the text between straight double quotes: "text".',
    "'": 'Put the text between double quotes: "text".',
    "[": "Put a column's name in curly brackets: {Due}.",
    "]": "Put a column's name in curly brackets: {Due}.",
    "!": "Write <> for not equal.",
}


class FormulaError(LedgerError):
    """A formula that cannot be used, and where: `start` up to `end` count code points of the formula as typed."""

    kind = "formula"

    def __init__(self, start: int, end: int, message: str, hint: str, column: str | None = None) -> None:
        super().__init__(message, hint, column=column)
        self.start = start
        self.end = end


def parse_formula(formula: str) -> Node:
    """The tree of a formula. Raises FormulaError with the place, what was expected there, and what to do."""
    if not formula.strip().removeprefix("=").strip():
        raise FormulaError(
            0, len(formula), "The formula is empty.", "Write a sum over the row's columns: {Length} * 14."
        )
    if len(formula) > MOST_CHARACTERS:
        raise FormulaError(
            MOST_CHARACTERS,
            len(formula),
            f"The formula has {len(formula):,} characters; at most {MOST_CHARACTERS:,} can be used.",
            "Work part of it out in a column of its own.",
        )
    try:
        found = cast("Node", _parser().parse(formula))
    except UnexpectedToken as fault:
        raise _unexpected(formula, fault) from None
    except UnexpectedCharacters as fault:
        raise _unreadable(formula, fault) from None
    except UnexpectedInput as fault:
        at = fault.pos_in_stream or 0
        raise FormulaError(at, at + 1, "The formula cannot be read here.", "Look at what stands before it.") from None
    except VisitError as fault:
        if isinstance(fault.orig_exc, FormulaError):
            raise fault.orig_exc from None
        raise
    if (steps := steps_of(found)) > MOST_STEPS:
        raise FormulaError(
            0,
            len(formula),
            f"The formula takes {steps:,} steps in every row; at most {MOST_STEPS:,} can be used.",
            "Work part of it out in a column of its own.",
        )
    return found


@lru_cache(maxsize=1)
def _parser() -> Lark:
    return Lark(_GRAMMAR, parser="lalr", transformer=_Builder())


class _Builder(Transformer[Token, Any]):
    """Builds the tree from the bottom up, so that no formula can make it go deeper than it allows."""

    def start(self, found: list[Any]) -> Node:
        return cast("Node", found[-1])

    def _chain(self, found: list[Any]) -> Node:
        first: Node = found[0]
        if len(found) == 1:
            return first
        rest = tuple((str(found[i]), found[i + 1]) for i in range(1, len(found), 2))
        return Chain(first, rest, _place(first.place.start, rest[-1][1].place.end, first, *(of for _, of in rest)))

    comparison = joined = total = product = power = _chain

    def percent(self, found: list[Any]) -> Node:
        node: Node = found[0]
        for sign in found[1:]:
            node = Percent(node, _place(node.place.start, sign.end_pos, node))
        return node

    def sign(self, found: list[Any]) -> Node:
        return Signed(str(found[0]), found[1], _place(found[0].start_pos, found[1].place.end, found[1]))

    def number(self, found: list[Token]) -> Node:
        place = _place(_start(found[0]), _end(found[0]))
        value = number_in(found[0])
        if value is None:
            raise FormulaError(place.start, place.end, "This number has too many digits.", "Use at most 40 of them.")
        return Constant(WORK.plus(value), str(found[0]), place)

    def text(self, found: list[Token]) -> Node:
        return Constant(found[0][1:-1].replace('""', '"'), str(found[0]), _place(_start(found[0]), _end(found[0])))

    def field(self, found: list[Token]) -> Node:
        return FieldNode(" ".join(found[0][1:-1].split()), _place(_start(found[0]), _end(found[0])))

    def bare(self, found: list[Token]) -> Node:
        place = _place(_start(found[0]), _end(found[0]))
        name = found[0].upper()
        if name in {"TRUE", "FALSE"}:
            return Constant(name == "TRUE", name, place)
        return Bare(str(found[0]), place)

    def call(self, found: list[Any]) -> Node:
        name, arguments = found[0], tuple(found[2:-1])
        place = _place(name.start_pos, found[-1].end_pos, *arguments)
        return Call(name.upper(), name.end_pos, arguments, place)

    def group(self, found: list[Any]) -> Node:
        return Group(found[1], _place(found[0].start_pos, found[-1].end_pos, found[1]))


def _start(token: Token) -> int:
    return token.start_pos or 0


def _end(token: Token) -> int:
    return token.end_pos or 0


def _place(start: int, end: int, *below: Node) -> Place:
    depth = 1 + max((node.place.depth for node in below), default=0)
    if depth > MOST_LEVELS:
        raise FormulaError(
            start,
            end,
            f"The formula goes more than {MOST_LEVELS} levels deep.",
            "Work part of it out in a column of its own.",
        )
    return Place(start, end, depth)


def _unexpected(formula: str, fault: UnexpectedToken) -> FormulaError:
    token = fault.token
    wants_value = bool(_VALUES & fault.accepts if fault.accepts else _VALUES & fault.expected)
    opened = _open_brackets(formula)
    if token.type == "$END":
        end = len(formula)
        if wants_value:
            return FormulaError(
                end,
                end,
                f"A column, a number or a function was expected at {end + 1}.",
                "The formula breaks off there.",
            )
        at = opened[-1]
        return FormulaError(at, at + 1, f"The bracket at {at + 1} is not closed.", "Close it with ).")
    start, end = _start(token), _end(token)
    shown = clipped(str(token))
    if token.type == "CLOSE" and not _open_brackets(formula[:start]):
        return FormulaError(start, end, f"The bracket at {start + 1} closes nothing.", "Take it out.")
    if wants_value:
        hint = "An argument is missing." if token.type in {"_BETWEEN", "CLOSE"} else "Look at what stands before it."
        return FormulaError(
            start, end, f"A column, a number or a function was expected at {start + 1}, not {shown}.", hint
        )
    if token.type == "_BETWEEN":
        hint = "Arguments stand in a function's brackets. The decimal mark in a formula is the point: 14.50."
        return FormulaError(start, end, f"{shown} at {start + 1} is not inside a function.", hint)
    inside = " or ; or )" if _open_brackets(formula[:start]) else ""
    return FormulaError(
        start,
        end,
        f"An operator such as + - * / &{inside} was expected at {start + 1}, not {shown}.",
        "Look at what stands between the two values.",
    )


def _unreadable(formula: str, fault: UnexpectedCharacters) -> FormulaError:
    start = fault.pos_in_stream or 0
    found = formula[start]
    end = len(formula)
    if found == '"':
        return FormulaError(start, end, f"The text at {start + 1} is opened and not closed.", 'Close it with ".')
    if found == "{":
        return FormulaError(
            start,
            end,
            f"The field at {start + 1} is opened and not closed.",
            "Close it with } behind the column's name.",
        )
    if found == "}":
        hint = "Put { in front of the column's name."
        return FormulaError(start, start + 1, f"The closing bracket at {start + 1} has no field.", hint)
    if found.isdigit() or found == ".":
        stop = next((i for i in range(start, end) if not (formula[i].isalnum() or formula[i] in "._")), end)
        hint = "A number has one decimal point and nothing else: 1234.50."
        return FormulaError(start, stop, f"'{clipped(formula[start:stop])}' is not a number.", hint)
    hint = _INSTEAD.get(found, "Take it out; amounts stand without their sign: 14.00.")
    return FormulaError(start, start + 1, f"'{found}' at {start + 1} means nothing in a formula.", hint)


def _open_brackets(formula: str) -> list[int]:
    """Where the round brackets stand that are not closed; those in texts and fields do not count."""
    found: list[int] = []
    inside = ""
    for at, sign in enumerate(formula):
        if inside:
            inside = "" if sign == inside else inside
        elif sign in '"{':
            inside = '"' if sign == '"' else "}"
        elif sign == "(":
            found.append(at)
        elif sign == ")" and found:
            found.pop()
    return found
