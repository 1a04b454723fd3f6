"""The interface's description as a page that needs nothing from outside."""

from collections.abc import Iterator
from html import escape
from typing import Any

from fastapi import FastAPI
from fastapi.responses import HTMLResponse

from gentle_ledger.core.cells.errors import LedgerError

_OWN_KINDS = ("not valid", "http", "internal error")
"""The kinds of problems that no error of the program's own stands for; see `web.problems`."""
_METHODS = ("get", "post", "put", "patch", "delete")


def problem_kinds() -> list[str]:
    """Every kind of problem that an answer may name."""

    def kinds(error: type[LedgerError]) -> Iterator[str]:
        yield error.kind
        for more in error.__subclasses__():
            yield from kinds(more)

    return sorted({*kinds(LedgerError), *_OWN_KINDS})


def serve_description(app: FastAPI) -> None:
    """Serves the page at /api/description; the description itself is at /api/openapi.json."""

    @app.get("/api/description", include_in_schema=False)
    def description() -> HTMLResponse:
        return HTMLResponse(page_of(app.openapi()))


def page_of(description: dict[str, Any]) -> str:
    """The page of an OpenAPI description: every operation by its noun, then every shape."""
    tags: dict[str, list[str]] = {}
    for path, methods in description["paths"].items():
        for method in _METHODS:
            if method in methods:
                found = methods[method]
                tags.setdefault((found.get("tags") or ["other"])[0], []).append(_operation(path, method, found))
    title = f"{escape(description['info']['title'])} {escape(description['info']['version'])}"
    nouns = "".join(f"<h2>{escape(tag)}</h2>{''.join(operations)}" for tag, operations in tags.items())
    shapes = "".join(_shape(name, shape) for name, shape in description["components"]["schemas"].items())
    return (
        f"<!doctype html><html lang=en><meta charset=utf-8><title>{title}: the interface</title>"
        f"<h1>{title}: the interface</h1><p>The same as OpenAPI: <a href=/api/openapi.json>/api/openapi.json</a>. "
        "Whatever is refused answers with problem details (RFC 9457), a Problem below.</p>"
        f"{nouns}<h2>shapes</h2>{shapes}</html>"
    )


def _operation(path: str, method: str, found: dict[str, Any]) -> str:
    takes = [
        f"{escape(each['name'])} (in the {escape(each['in'])}{'' if each.get('required') else ', optional'})"
        for each in found.get("parameters", ())
    ]
    takes += [_content(found.get("requestBody", {}), "body")] if "requestBody" in found else []
    answers = [
        f"{escape(status)}: {_content(answer, escape(answer.get('description', '')))}"
        for status, answer in found["responses"].items()
    ]
    said = escape(found.get("description", found.get("summary", "")))
    lines = "".join(f"<li>{line}</li>" for line in [*(f"takes {each}" for each in takes), *answers])
    return f"<h3><code>{method.upper()} {escape(path)}</code></h3><p>{said}</p><ul>{lines}</ul>"


def _content(part: dict[str, Any], otherwise: str) -> str:
    """The kinds of content, each with the shape it has."""
    kinds = [
        f"{escape(media)} {_type(content.get('schema', {}))}" for media, content in part.get("content", {}).items()
    ]
    return ", ".join(kinds) or otherwise


def _shape(name: str, shape: dict[str, Any]) -> str:
    fields = "".join(
        f"<li><code>{escape(field)}</code>: {_type(about)} {escape(about.get('description', ''))}</li>"
        for field, about in shape.get("properties", {}).items()
    )
    said = escape(shape.get("description", ""))
    kinds = ", ".join(escape(str(value)) for value in shape.get("enum", ()))
    return f"<h3 id='{escape(name)}'>{escape(name)}</h3><p>{said}</p><p>{kinds}</p><ul>{fields}</ul>"


def _type(schema: dict[str, Any]) -> str:
    if "$ref" in schema:
        name = escape(schema["$ref"].rsplit("/", 1)[-1])
        return f"<a href='#{name}'>{name}</a>"
    for several in ("anyOf", "oneOf", "allOf"):
        if several in schema:
            return " or ".join(_type(each) for each in schema[several])
    if "enum" in schema:
        return " or ".join(escape(repr(value)) for value in schema["enum"])
    if schema.get("type") == "array":
        return f"a list of {_type(schema.get('items', {}))}"
    return escape(str(schema.get("type", "anything")))
