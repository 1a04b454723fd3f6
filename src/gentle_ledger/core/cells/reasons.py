"""Reasons: a code with parameters, so that behaviour never hangs on words. The sentence is written here, and last."""

import json
from collections.abc import Callable
from dataclasses import dataclass

Parameter = str | int | bool | None


@dataclass(frozen=True, slots=True)
class Reason:
    """Why something is as it is.

    Attributes:
        code: which kind of reason it is; programs look at nothing else but this and the parameters.
        names, values: of the parameters, in the order in which they were given. The names are one and the same tuple
            for all reasons of a kind: a round may have a hundred thousand of them.
    """

    code: str
    names: tuple[str, ...] = ()
    values: tuple[Parameter, ...] = ()

    def __getitem__(self, name: str) -> Parameter:
        return self.values[self.names.index(name)]

    @property
    def parameters(self) -> dict[str, Parameter]:
        """The parameters by name."""
        return dict(zip(self.names, self.values, strict=True))

    @property
    def sentence(self) -> str:
        """Part of a sentence in the clerk's words, without a full stop; the bare code of a kind that is not known."""
        kind = _KINDS.get(self.code)
        return kind.write(**self.parameters) if kind else self.code

    @property
    def heading(self) -> str:
        """The same for many of a kind, without what differs from one to the next."""
        kind = _KINDS.get(self.code)
        return kind.head(**self.parameters) if kind and kind.head else self.sentence

    def as_json(self) -> str:
        """The parameters as the store keeps them beside the code."""
        return json.dumps(self.parameters, ensure_ascii=False)


@dataclass(frozen=True, slots=True)
class ReasonKind:
    """A kind of reason; called with its parameters it gives one."""

    code: str
    write: Callable[..., str]
    head: Callable[..., str] | None = None

    def __call__(self, **parameters: Parameter) -> Reason:
        """A reason of this kind."""
        return _reason(self.code, parameters)


_KINDS: dict[str, ReasonKind] = {}
_NAMES: dict[tuple[str, ...], tuple[str, ...]] = {}


def _reason(code: str, parameters: dict[str, Parameter]) -> Reason:
    names = tuple(parameters)
    return Reason(code, _NAMES.setdefault(names, names), tuple(parameters.values()))


def reason_kind(
    code: str, says: str | Callable[..., str], heading: str | Callable[..., str] | None = None
) -> ReasonKind:
    """Makes a kind of reason known.

    Args:
        code: its own, kept in the store for good; a second kind with it is refused.
        says: the sentence, with its parameters in curly brackets, or a function of them.
        heading: the sentence of many of a kind, where a parameter of each stands in the sentence.
    """
    if code in _KINDS:
        raise ValueError(f"There are two kinds of reason with the code {code!r}.")
    kind = ReasonKind(code, _writer(says), _writer(heading) if heading else None)
    _KINDS[code] = kind
    return kind


def _writer(says: str | Callable[..., str]) -> Callable[..., str]:
    return says.format if isinstance(says, str) else says


def reason_of(code: str, parameters: str = "{}") -> Reason:
    """A reason out of the store: its code, and its parameters as JSON."""
    return _reason(code, json.loads(parameters))
