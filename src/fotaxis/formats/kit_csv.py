"""A studio's kit as CSV: one row a piece, with the columns kind, name, count and every field's name; see docs/running.md."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

from fotaxis.core.errors import DomainError, FormatError
from fotaxis.core.lights.kit import KINDS, Piece, piece

MAX_BYTES = 1_000_000
MOST_ROWS = 5000
FIRST = ("kind", "name", "count")


def columns() -> list[str]:
    """Every column there may be, in the order in which they are written."""
    return list(dict.fromkeys([*FIRST, *(field.name for kind in KINDS.values() for field in kind.fields)]))


def write(pieces: Iterable[Piece]) -> str:
    """The kit as CSV; cells that are not told are empty."""
    out = io.StringIO()
    table = csv.DictWriter(out, columns(), restval="", lineterminator="\r\n")
    table.writeheader()
    for one in pieces:
        values = {name: f"{value:.10g}" if isinstance(value, float) else _plain(value) for name, value in one.values.items()}
        table.writerow({"kind": one.kind, "name": _plain(one.name), "count": one.count, **values})
    return out.getvalue()


def _plain(text: str) -> str:
    """Words that a spreadsheet does not take for a formula."""
    return f"'{text}" if text[:1] in "=+-@" else text


def parse(data: bytes) -> tuple[list[Piece], list[str]]:
    """Pieces of a file, and what is wrong with the rows that are none, each with its number.

    Raises FormatError where the file as a whole is none.
    """
    if len(data) > MAX_BYTES:
        raise FormatError(f"the file has more than {MAX_BYTES:,} bytes; a kit is a small table.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FormatError("this is no CSV text in UTF-8; save it as such.", place=f"byte {error.start}") from error
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=_separator(text)))
    except csv.Error as error:
        raise FormatError(f"this is no CSV table: {error}.") from error
    rows = [[cell.strip() for cell in row] for row in rows]
    if not any(any(row) for row in rows):
        raise FormatError("the file is empty; its first row names the columns: kind, name, count and what is known.")
    heading = [name.lower() for name in rows[0]]
    if not {"kind", "name"} <= set(heading):
        raise FormatError(
            "its first row must name the columns, at least kind and name; export the kit for a pattern.", place="row 1"
        )
    unknown = [name for name in heading if name and name not in columns()]
    if unknown:
        raise FormatError(f"there is no column {unknown[0][:30]!r}; they are {', '.join(columns())}.", place="row 1")
    if len(rows) > MOST_ROWS:
        raise FormatError(f"more than {MOST_ROWS:,} rows; a kit has fewer pieces.")
    return _pieces(heading, rows[1:])


def _separator(text: str) -> str:
    heading = text.split("\n", 1)[0]
    return max(",;\t", key=heading.count)


def _pieces(heading: Sequence[str], rows: Sequence[Sequence[str]]) -> tuple[list[Piece], list[str]]:
    pieces, wrong = [], []
    for number, row in enumerate(rows, start=2):
        if not any(row):
            continue
        if len(row) > len(heading):
            wrong.append(f"Row {number}: {len(row)} cells under {len(heading)} columns; look for a comma in a name.")
            continue
        cells = dict(zip(heading, row, strict=False))
        given = {name: value.removeprefix("'") for name, value in cells.items() if name not in FIRST and name}
        try:
            pieces.append(
                piece(cells.get("kind", ""), cells.get("name", "").removeprefix("'"), cells.get("count", ""), given)
            )
        except DomainError as error:
            wrong.append(f"Row {number}: {error}")
    return pieces, wrong
