"""A condition in plain words, as the reason that a rule shows in the rows it leaves out."""

from gentle_ledger.core.formulas.parse import FormulaError, parse_formula
from gentle_ledger.core.formulas.tree import Call, Chain, Constant, FieldNode, Group, Node, Percent, Signed

_SAYS = {
    "=": "{} is {}",
    "<>": "{} is not {}",
    "<": "{} is less than {}",
    "<=": "{} is {} or less",
    ">": "{} is more than {}",
    ">=": "{} is {} or more",
}
_JOINS = {"AND": " and ", "OR": " or "}


def condition_in_words(formula: str) -> str:
    """Says a condition in words ("Due is 0 or less"); "" where it is none that can be put simply, or cannot be read."""
    try:
        return _said(parse_formula(formula)) or ""
    except FormulaError:
        return ""


def _said(node: Node) -> str | None:
    if isinstance(node, Group):
        return _said(node.of)
    if isinstance(node, Chain) and len(node.rest) == 1:
        sign, right = node.rest[0]
        a, b = _thing(node.first), _thing(right)
        if sign not in _SAYS or a is None or b is None:
            return None
        return _blank(a, sign) if b == "" and sign in {"=", "<>"} else (_SAYS[sign].format(a, b) if b else None)
    if isinstance(node, Call):
        return _called(node)
    return None


def _called(node: Call) -> str | None:
    if node.name == "ISBLANK" and len(node.arguments) == 1:
        of = _thing(node.arguments[0])
        return _blank(of, "=") if of else None
    if node.name == "NOT" and len(node.arguments) == 1:
        inner = node.arguments[0]
        of = _thing(inner.arguments[0]) if isinstance(inner, Call) and inner.name == "ISBLANK" else None
        return _blank(of, "<>") if of else None
    if node.name in _JOINS and node.arguments:
        said = [_said(argument) for argument in node.arguments]
        return None if None in said else _JOINS[node.name].join(each for each in said if each)
    return None


def _blank(of: str, sign: str) -> str:
    return f"{of} is blank" if sign == "=" else f"{of} is not blank"


def _thing(node: Node) -> str | None:
    """A column, a number or a text as it is said; "" for an empty text, None for anything else."""
    if isinstance(node, FieldNode):
        return node.name
    if isinstance(node, Constant):
        return node.value if isinstance(node.value, str) else node.typed
    if isinstance(node, Signed) and node.sign == "-" and (of := _thing(node.of)):
        return f"-{of}"
    if isinstance(node, Percent) and (of := _thing(node.of)):
        return f"{of}%"
    if isinstance(node, Call) and node.name == "TODAY" and not node.arguments:
        return "today"
    return None
