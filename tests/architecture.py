"""The table in docs/architecture.md, drawn from the imports. Run as a module it writes the page anew."""

from pathlib import Path

import grimp

PAGE = Path(__file__).parents[1] / "docs" / "architecture.md"
BEGIN, END = "<!-- drawn from the imports -->\n", "<!-- until here -->\n"
ROOT = "gentle_ledger"


def rooms(graph: grimp.ImportGraph) -> list[str]:
    """The packages below the program's own, the wings of the core each for itself, the lowest floors last."""
    found = {child for child in graph.find_children(ROOT) if graph.find_children(child)}
    wings = {child for child in graph.find_children(f"{ROOT}.core") if graph.find_children(child)}
    found = (found - {f"{ROOT}.core"}) | wings

    def height(room: str, seen: frozenset[str] = frozenset()) -> int:
        below = uses(graph, room, found) - seen
        return 1 + max((height(other, seen | {room}) for other in below), default=0)

    return sorted(found, key=lambda room: (-height(room), room))


def uses(graph: grimp.ImportGraph, room: str, among: set[str]) -> set[str]:
    """The other rooms that something in this one imports."""
    mine = {room, *graph.find_descendants(room)}
    imported = {name for module in mine for name in graph.find_modules_directly_imported_by(module)}
    return {other for other in among if other != room and any(f"{name}.".startswith(f"{other}.") for name in imported)}


def drawn() -> str:
    """The table: each room, what it is for, and what it imports."""
    graph = grimp.build_graph(ROOT, cache_dir=None)
    found = rooms(graph)
    lines = ["| room | what it is for | imports |", "| --- | --- | --- |"]
    for room in found:
        path = Path(__file__).parents[1].joinpath("src", *room.split("."), "__init__.py")
        doc = path.read_text("utf-8").split('"""')[1].split("\n")[0] if path.stat().st_size else ""
        names = [other.removeprefix(f"{ROOT}.") for other in found if other in uses(graph, room, set(found))]
        lines.append(f"| `{room.removeprefix(f'{ROOT}.')}` | {doc} | {', '.join(names) or 'none of them'} |")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    page = PAGE.read_text("utf-8")
    start, end = page.index(BEGIN) + len(BEGIN), page.index(END)
    PAGE.write_text(page[:start] + drawn() + page[end:], "utf-8")
