"""What a formula comes to, told from its tree: what is computed from money is money."""

from collections.abc import Callable, Iterator

from gentle_ledger.core.formulas.functions import BY_NAME
from gentle_ledger.core.formulas.registry import Keeps
from gentle_ledger.core.formulas.tree import Call, Chain, Constant, FieldNode, Group, Node, Percent, Signed, children

OfColumn = Callable[[str], bool]
"""Says something of the column of that name."""


def comes_to_money(node: Node, is_money: OfColumn) -> bool:
    """True where the values of a formula are amounts: money plus anything, money times or over a number.

    Money over money is a plain ratio. Of a function's arguments count those whose value it gives back, in one way or
    another, such as what is rounded, or either end of a choice.
    """
    if isinstance(node, FieldNode):
        return is_money(node.name)
    if isinstance(node, (Group, Signed, Percent)):
        return comes_to_money(node.of, is_money)
    if isinstance(node, Chain):
        return _chain(node, is_money)
    if isinstance(node, Call):
        entry = BY_NAME.get(node.name)
        kept = entry.keeps if entry else Keeps.NOTHING
        return any(comes_to_money(argument, is_money) for argument in kept.of(node.arguments))
    return False


def _chain(node: Chain, is_money: OfColumn) -> bool:
    if node.rest[0][0] in "+-":
        return any(comes_to_money(part, is_money) for part in children(node))
    if node.rest[0][0] in "*/":
        times = int(comes_to_money(node.first, is_money))
        for operator, part in node.rest:
            if comes_to_money(part, is_money):
                times += 1 if operator == "*" else -1
        return times == 1
    return False


def joins_text(node: Node) -> bool:
    """Whether a formula makes a text of pieces, by & or a function that does the same."""
    if isinstance(node, Chain) and node.rest[0][0] == "&":
        return True
    if isinstance(node, Call) and (entry := BY_NAME.get(node.name)) and entry.joins:
        return True
    return any(joins_text(child) for child in children(node))


def asked_to_equal_a_number(node: Node, counts: OfColumn) -> Iterator[str]:
    """The columns that a formula asks to equal a number, though they do not hold figures.

    `counts` says of a column whether it does.
    """
    if isinstance(node, Chain) and node.rest[0][0] in {"=", "<>"}:
        parts = [_bare(part) for part in children(node)]
        if any(_is_figure(part, counts) for part in parts):
            yield from (part.name for part in parts if isinstance(part, FieldNode) and not counts(part.name))
    if isinstance(node, Call) and node.name == "SWITCH":
        first, *others = [_bare(part) for part in node.arguments]
        if isinstance(first, FieldNode) and not counts(first.name) and any(_is_figure(p, counts) for p in others[::2]):
            yield first.name
    for child in children(node):
        yield from asked_to_equal_a_number(child, counts)


def _bare(node: Node) -> Node:
    while isinstance(node, (Group, Signed)):
        node = node.of
    return node


def _is_figure(node: Node, counts: OfColumn) -> bool:
    if isinstance(node, Constant):
        return node.value is not None and not isinstance(node.value, (str, bool))
    if isinstance(node, FieldNode):
        return counts(node.name)
    return isinstance(node, Percent) or (isinstance(node, Chain) and node.rest[0][0] in "+-*/^")
