"""A formula taken apart. Places count code points of the formula as typed."""

from dataclasses import dataclass
from typing import TypeAlias

from gentle_ledger.core.cells.cell import Cell


@dataclass(frozen=True, slots=True)
class Place:
    """From `start` up to `end` of the formula; `depth` is how many levels stand below and including this one."""

    start: int
    end: int
    depth: int


@dataclass(frozen=True, slots=True)
class Constant:
    """A number, a text in double quotes, or true or false; `typed` is how it stands in the formula."""

    value: Cell
    typed: str
    place: Place


@dataclass(frozen=True, slots=True)
class FieldNode:
    """`{Column name}`."""

    name: str
    place: Place


@dataclass(frozen=True, slots=True)
class Bare:
    """A word that is neither in brackets nor a function: an error with a good guess."""

    name: str
    place: Place


@dataclass(frozen=True, slots=True)
class Call:
    """A function with its arguments; `name` in capitals."""

    name: str
    name_end: int
    arguments: "tuple[Node, ...]"
    place: Place


@dataclass(frozen=True, slots=True)
class Chain:
    """Operators of one rank, taken from left to right: `first`, then each operator with what follows it."""

    first: "Node"
    rest: "tuple[tuple[str, Node], ...]"
    place: Place


@dataclass(frozen=True, slots=True)
class Signed:
    """A sign in front."""

    sign: str
    of: "Node"
    place: Place


@dataclass(frozen=True, slots=True)
class Percent:
    """A percent sign behind: a hundredth."""

    of: "Node"
    place: Place


@dataclass(frozen=True, slots=True)
class Group:
    """Round brackets."""

    of: "Node"
    place: Place


Node: TypeAlias = Constant | FieldNode | Bare | Call | Chain | Signed | Percent | Group


def children(node: Node) -> "tuple[Node, ...]":
    """The pieces that a piece of a formula is made of."""
    if isinstance(node, Call):
        return node.arguments
    if isinstance(node, Chain):
        return (node.first, *(of for _, of in node.rest))
    if isinstance(node, (Signed, Percent, Group)):
        return (node.of,)
    return ()


def steps_of(node: Node) -> int:
    """How many pieces have to be worked out in a row, all of them counted."""
    return 1 + sum(steps_of(child) for child in children(node))


def fields_of(node: Node) -> list[FieldNode]:
    """Every field in the formula, in order."""
    if isinstance(node, FieldNode):
        return [node]
    return [found for child in children(node) for found in fields_of(child)]


def calls_of(node: Node) -> list[Call]:
    """Every function called in the formula, outermost first."""
    mine = [node] if isinstance(node, Call) else []
    return mine + [found for child in children(node) for found in calls_of(child)]
