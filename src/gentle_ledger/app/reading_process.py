"""The process that reads one file, with limits of memory and time, so that no file can end the program.

It reads a pickled request from standard input and writes a pickled answer to standard output. The limits are set before
anything else is imported.
"""

import sys


def set_limits(memory: int, seconds: int) -> None:
    """Limits this process to so many bytes and seconds of processor time, where the system can do that."""
    try:
        import resource
    except ImportError:
        return
    # At its soft limit of time the process is told by a signal of its own, which says why it ended.
    limits = ((resource.RLIMIT_AS, memory, 0), (resource.RLIMIT_CPU, seconds, 2), (resource.RLIMIT_CORE, 0, 0))
    for limit, value, more in limits:
        try:
            resource.setrlimit(limit, (value, value + more))
        except (ValueError, OSError):
            # A tighter limit than ours was set from outside: that one holds.
            continue


def main() -> None:
    """Reads what it is given on standard input, and answers on standard output."""
    set_limits(int(sys.argv[1]), int(sys.argv[2]))
    try:
        _answer()
    except MemoryError:
        sys.exit(OUT_OF_MEMORY)


def _answer() -> None:
    import pickle
    from dataclasses import astuple

    from gentle_ledger.core.cells.errors import SheetError
    from gentle_ledger.core.sheets.bring_in import bring_in, glance

    request = pickle.load(sys.stdin.buffer)
    data, name, currency, choice = request["data"], request["name"], request["currency"], request["choice"]
    answer: dict[str, object] = {}
    named = choice.header
    try:
        brought = bring_in(data, name, choice, currency)
        reading = brought.reading
        named = reading.header
        answer |= {
            "columns": brought.sheet.columns,
            "rows": list(brought.sheet.rows),
            "hidden": sorted(brought.sheet.hidden),
            "reading": (reading.header, reading.above, reading.blank, reading.totals, reading.hidden),
            "worksheets": brought.worksheets,
            "worksheet": brought.worksheet,
            "unseen": brought.unseen,
            "commas": {column: str(said) for column, said in brought.commas.items()},
        }
    except SheetError as fault:
        answer["refused"] = (fault.what, fault.remedy, fault.row, fault.column)
    if request["lines"]:
        least, after = request["lines"]
        try:
            seen = glance(data, name, choice, max(least, (named or 0) + after), currency)
            torn = [astuple(each) for each in seen.torn]
            answer["seen"] = (seen.worksheets, seen.worksheet, seen.lines, seen.characters, torn, seen.unseen)
        except SheetError as fault:
            answer["closed"] = (fault.what, fault.remedy, fault.row, fault.column)
    pickle.dump(answer, sys.stdout.buffer, protocol=5)


OUT_OF_MEMORY = 65
"""The exit code of a file that wanted more memory than the limit; so is any end by a signal."""

if __name__ == "__main__":
    main()
