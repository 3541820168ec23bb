"""The sheets that an engine takes: small ones as a whole, in which all is looked for as ever, large ones in pieces."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.parquet

from hemplit import files
from hemplit.core.shape.turned import laid, upright
from hemplit.engines.able import IN_MEMORY
from hemplit.errors import DesignError, InputError
from hemplit.files.endings import PARQUET, TEXTS
from hemplit.files.pieces import Pieces, Whole
from hemplit.files.table_rows import TableRows
from hemplit.flow.reading import names_of
from hemplit.flow.staging import OF_THE_WHOLE

if TYPE_CHECKING:
    from collections.abc import Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import Design
    from hemplit.flow.staging import Rows

#: A draft is made from so many rows at most: on sheets of 10^6 rows it is that of all rows, but for what only they
#: contradict.
SAMPLE = 100_000
#: From narrower sheets it takes as many cells as from one of so many columns: lists of things are narrow, and what
#: others name of one is found if its sample is all of it. 900,000 boats in 3 columns are drafted in eight seconds.
COLUMNS = 28
#: So many bytes of a text file are a cell at most, but for remarks: order lines have eleven.
BYTES_OF_A_CELL = 16
#: So many rows show whether files are months of one sheet.
FEW = 1_000
NO_ROWS: npt.NDArray[np.int64] = np.zeros(0, dtype=np.int64)


def most_of(rows: Rows) -> int:
    """The most rows of a sheet that a draft is made from."""
    return max(SAMPLE, SAMPLE * COLUMNS // max(rows.column_count, 1))


def sheets_of(paths: Sequence[str], workspace: Path) -> dict[str, Rows]:
    """The sheets of files, by the names that a design has for them; text that is large is kept in the workspace.

    Files that were named one by one and are months of one sheet are this. Raises ``InputError`` for what is no file
    that can be read, or large and irregular.
    """
    found: list[tuple[Rows, ...]] = [
        (_table(path),) if files.is_address(path) else _small(path) or (Pieces(path, workspace, number),)
        for number, path in enumerate(paths)
    ]
    shown = [tuple((one.sample(FEW, NO_ROWS), one) for one in some) for some in found]
    known = {id(grid): one for some in shown for grid, one in some}
    whole = {
        str(Path(path)): all(isinstance(one, Whole) for one in some) for path, some in zip(paths, found, strict=True)
    }
    sheets: list[Rows] = []
    for some in files.in_series(paths, [tuple(grid for grid, _ in one) for one in shown]):
        for grid in some:
            path = grid.source.path
            if id(grid) in known:
                sheets.append(known[id(grid)])
            elif all(whole[str(Path(file))] for file in files.each_file(path)):
                sheets.append(Whole(grid))
            else:
                sheets.append(Pieces(path, workspace, len(paths) + len(sheets)))
    return _named([Whole(upright(one.grid)) if isinstance(one, Whole) else one for one in sheets])


def tables_of(addresses: Sequence[str]) -> dict[str, Rows]:
    """The tables or views of a server, by the names that a design has for them."""
    return _named([_table(address) for address in addresses])


def sheets_for(design: Design, folder: Path, workspace: Path) -> dict[str, Rows]:
    """The sheets of a design, which lie in a folder or in a database, by their names there.

    Raises ``DesignError`` if one that is large has a step that needs all of its rows at once.
    """
    found: dict[str, Rows] = {}
    known: dict[str, tuple[Whole, ...]] = {}
    for number, sheet in enumerate(one for one in design.sheets if one.is_read):
        if files.is_address(sheet.file):
            rows = _table(f"{sheet.file}#{sheet.sheet}")
        else:
            path = str(folder / sheet.file)
            text = f"{path}#{sheet.sheet}" if files.is_database(path) else path
            if text not in known:
                known[text] = _small(text)
            if known[text] and all(one.source.sheet != sheet.sheet for one in known[text]):
                known[text] += tuple(map(Whole, files.read(text, apart=True)))
            rows = (
                Whole(laid(_of_sheet(known[text], path, sheet.sheet).grid, sheet.steps))
                if known[text]
                else Pieces(path, workspace, number)
            )
        step = next((step for step in sheet.steps if step.act in OF_THE_WHOLE and not step.proposed), None)
        if step is not None and not isinstance(rows, Whole):
            what = f"an engine cannot do the step '{step.act}' to a sheet of {rows.row_count:,} rows"
            raise DesignError(f"sheets.{sheet.name}", what, IN_MEMORY)
        found[sheet.name] = rows
    return found


def _named(sheets: Sequence[Rows]) -> dict[str, Rows]:
    together: dict[str, list[Rows]] = {}
    for one in sheets:
        together.setdefault(one.source.path, []).append(one)
    names = names_of(tuple(one.source for one in some) for some in together.values())
    return dict(zip(names, (one for some in together.values() for one in some), strict=True))


def _table(address: str) -> Rows:
    rows = TableRows(address)
    most = most_of(rows)
    return rows if rows.row_count > most else Whole(rows.sample(most, NO_ROWS))


def _small(path: str) -> tuple[Whole, ...]:
    """The sheets of a file or of a pattern, if all of them are small.

    What does not come in pieces is always small: no workbook is larger than memory.
    """
    each = [Path(one) for one in files.each_file(path)]
    if sum(_cells_of(one) for one in each if one.is_file() and _comes_in_pieces(one)) > SAMPLE * COLUMNS:
        return ()
    found = tuple(map(Whole, files.read(path)))
    is_small = all(one.row_count <= most_of(one) for one in found)
    return found if is_small or not all(_comes_in_pieces(one) for one in each) else ()


def _of_sheet(small: Sequence[Whole], path: str, sheet: str | None) -> Whole:
    """The sheet of that name; of the layouts that a pattern stands for the one of most files, which has its name."""
    found = [one for one in small if one.source.sheet == sheet]
    if not found:
        raise InputError(path, f"it has no sheet '{sheet}' with content", "correct 'sheet' in the design")
    return max(found, key=lambda one: one.source.path == path)


def _comes_in_pieces(path: Path) -> bool:
    return path.suffix.lower() in (*PARQUET, *TEXTS)


def _cells_of(path: Path) -> int:
    """About how many cells a file has."""
    if path.suffix.lower() in TEXTS:
        return path.stat().st_size // BYTES_OF_A_CELL
    try:
        held = pyarrow.parquet.read_metadata(path)
    except (pa.ArrowException, OSError):
        return 0  # the reader says what is wrong with it
    return int(held.num_rows) * int(held.num_columns)
