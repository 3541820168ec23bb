"""Files that are larger than memory → grids of some of their rows, one after the other, each with the header above.

A text file is first written as Parquet, beside whatever else the engine puts on disk: it has rows of equal length, in
UTF-8, with its header in the first line.
"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.csv
import pyarrow.parquet

from hemplit.core.model.grid import Source
from hemplit.dataclasses import dataclass, replace
from hemplit.errors import InputError
from hemplit.files.delimited import Bytes, delimiter_of
from hemplit.files.endings import PARQUET, READERS, TEXTS
from hemplit.files.parquet import of_table
from hemplit.files.together import is_pattern, matching

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    import numpy.typing as npt

    from hemplit.core.model.grid import Grid

#: So many rows are shaped at a time: 28 columns of them take about a quarter of a gigabyte on the way.
ROWS = 250_000
#: From so many groups of rows, evenly spread over the files, a sample takes runs.
RUNS = 20


@dataclass(frozen=True)
class Piece:
    """Some rows of a file as a grid with the header above, and where each row of it stands, shape (rows,).

    Of several files, the rows of the second come after those of the first; each file has its header in front.
    """

    grid: Grid
    places: npt.NDArray[np.int64]


@dataclass(frozen=True)
class Whole:
    """A sheet that is small enough to be drafted from all of its rows; it is its own sample, and one piece."""

    grid: Grid

    @property
    def source(self) -> Source:
        """Where it was read."""
        return self.grid.source

    @property
    def row_count(self) -> int:
        """How many rows there are, without the one of its header."""
        return self.grid.row_count - 1

    @property
    def column_count(self) -> int:
        """How many columns there are."""
        return len(self.grid.columns)

    def __iter__(self) -> Iterator[Piece]:
        yield Piece(self.grid, np.arange(self.grid.row_count))

    def row(self, place: int) -> str:
        """The row at a place, in words."""
        file, within = self.source.row(place)
        return f"{file}row {within + 1:,}"

    def sample(self, most: int, also: npt.NDArray[np.int64]) -> Grid:
        """All rows."""
        del most, also
        return self.grid


class Pieces:
    """The rows of a file, or of those that a pattern or a folder stands for, all with the same columns.

    Raises ``InputError`` if there is no such file, or one of them has other columns. ``number`` tells it from others
    that use the same workspace.
    """

    def __init__(self, path: str, workspace: Path, number: int = 0) -> None:
        self.source = Source(path, taken_as="Parquet")
        names = _files(path)
        made = (workspace / f"text{number}_{place}.parquet" for place in range(len(names)))
        self._files = [_parquet(name, kept) for name, kept in zip(names, made, strict=True)]
        self._names = names
        self.schema = self._files[0].schema_arrow
        check_names(names[0], self.schema.names)
        for name, file in zip(names, self._files, strict=True):
            if file.schema_arrow.names != self.schema.names:
                hint = "put files of other columns into another folder"
                raise InputError(name, f"it has other columns than {names[0]}", hint)
        self.column_count = len(self.schema.names)
        counts = [file.metadata.num_rows for file in self._files]
        self.row_count = sum(counts)
        if not self.row_count:
            raise InputError(path, "there is a header and no row below it", "add the rows, or name another sheet")
        self._starts = np.cumsum([0, *(count + 1 for count in counts)]).tolist()

    def __iter__(self) -> Iterator[Piece]:
        for place, file in enumerate(self._files):
            before = 0
            for batch in file.iter_batches(batch_size=ROWS):
                yield self._piece(pa.Table.from_batches([batch]), place, before)
                before += batch.num_rows

    def _piece(self, rows: pa.Table, file: int, before: int) -> Piece:
        header = self._starts[file]
        places = np.append(header, np.arange(before, before + rows.num_rows) + header + 1)
        name = self._names[file] if len(self._names) > 1 else ""
        source = replace(self.source, parts=((name, -before),))
        return Piece(replace(of_table(rows, self.source.path), source=source), places)

    def row(self, place: int) -> str:
        """The row at a place, in words."""
        file = int(np.searchsorted(self._starts, place, side="right")) - 1
        name = f"{Path(self._names[file]).name} " if len(self._names) > 1 else ""
        return f"{name}row {place - self._starts[file] + 1:,}"

    def sample(self, most: int, also: npt.NDArray[np.int64]) -> Grid:
        """A grid of no more rows than that, in runs that lie evenly over the files, and of those at further places."""
        # In front of each row stand the headers of its file and of those before.
        wanted = also - np.searchsorted(self._starts, also, side="right")
        if self.row_count <= most:
            chosen = np.arange(self.row_count)
        else:
            groups = [group for file in self._files for group in _groups(file)]
            step = max(len(groups) // RUNS, 1)
            starts = np.cumsum([0, *groups])[:-1][::step]
            sizes = np.array(groups)[::step]
            each = max(most // len(starts), 1)
            chosen = np.concatenate(
                [np.arange(start, start + min(each, size)) for start, size in zip(starts, sizes, strict=True)]
            )
        rows = self._rows(np.union1d(chosen, wanted))
        return replace(of_table(rows, self.source.path), source=self.source)

    def _rows(self, numbers: npt.NDArray[np.int64]) -> pa.Table:
        """Rows by their numbers over all files, in which no header counts; only the groups they stand in are read."""
        parts = []
        first = 0
        for file in self._files:
            for group, size in enumerate(_groups(file)):
                inside = numbers[(numbers >= first) & (numbers < first + size)] - first
                if len(inside):
                    parts.append(file.read_row_group(group).take(pa.array(inside)))
                first += size
        return pa.concat_tables(parts, promote_options="permissive")


def _groups(file: pyarrow.parquet.ParquetFile) -> list[int]:
    return [file.metadata.row_group(place).num_rows for place in range(file.metadata.num_row_groups)]


def _files(path: str) -> list[str]:
    endings = (*PARQUET, *TEXTS)
    pattern = path if is_pattern(path) else str(Path(path) / "*") if Path(path).is_dir() else ""
    found = [name for name in matching(pattern) if Path(name).suffix.lower() in READERS] if pattern else [path]
    other = next((name for name in found if Path(name).suffix.lower() not in endings), None)
    if other is not None:
        what = f"a folder that is larger than memory holds {', '.join(endings)} only"
        raise InputError(other, what, "name the other files by a pattern")
    return found


def _parquet(name: str, made: Path) -> pyarrow.parquet.ParquetFile:
    path = Path(name)
    try:
        if path.suffix.lower() not in TEXTS:
            return pyarrow.parquet.ParquetFile(name)
        with path.open("rb") as file:
            parsed = _parsed(delimiter_of(path, Bytes(path, file)))
        header = pyarrow.csv.open_csv(name, parse_options=parsed).schema.names
        check_names(name, header)
        kept = pyarrow.csv.ConvertOptions(
            column_types=dict.fromkeys(header, pa.string()), null_values=[""], strings_can_be_null=True
        )
        with (
            pyarrow.csv.open_csv(name, parse_options=parsed, convert_options=kept) as rows,
            pyarrow.parquet.ParquetWriter(made, rows.schema) as writer,
        ):
            for batch in rows:
                writer.write_batch(batch)
        return pyarrow.parquet.ParquetFile(made)
    except (pa.ArrowException, OSError, UnicodeDecodeError) as error:
        first = "it is no UTF-8" if isinstance(error, UnicodeDecodeError) else str(error).splitlines()[0]
        raise InputError(name, f"it cannot be read ({first})", "load it without --engine, which says more") from error


def check_names(name: str, header: Iterable[str]) -> None:
    """Raises ``InputError`` for two of one name, in which engines do not tell capitals apart."""
    known: dict[str, str] = {}
    for one in header:
        other = known.get(one.lower())
        if other is not None:
            called = f"'{one}'" if one == other else f"'{other}' and '{one}'"
            raise InputError(name, f"two columns are called {called}", "rename one, or load it without --engine")
        known[one.lower()] = one


def _parsed(delimiter: str) -> pyarrow.csv.ParseOptions:
    return pyarrow.csv.ParseOptions(delimiter=delimiter, newlines_in_values=True, ignore_empty_lines=False)
