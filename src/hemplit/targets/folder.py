"""A folder of open files: CSV with metadata as the W3C has laid down (CSVW), or Parquet with the same beside it.

The files are written beside the folder and the two change places, so that it is as before or complete.
"""

from __future__ import annotations

import csv
import json
import os
import re
import shutil
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar
from urllib.parse import quote

import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv
import pyarrow.parquet

from hemplit.core.model.arrays import taken
from hemplit.core.model.loads import Ability
from hemplit.core.model.proof import Difference
from hemplit.disk import unfinished_folder
from hemplit.errors import TargetError
from hemplit.targets.file import FileTarget
from hemplit.targets.rows import Written, as_stored, as_type, lines_that_differ
from hemplit.targets.sql.dialect import DIGITS, MOST_IN_FOUR_BYTES, places_of

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from hemplit.core.model.tables import Table, TableColumn, Tables

PARQUET = "parquet"
#: The name that CSVW gives the metadata of a folder, and ours for what Parquet has no place for.
METADATA = {"": "csv-metadata.json", PARQUET: "tables.json"}
CONTEXT = ["http://www.w3.org/ns/csvw", {"@language": "en"}]
CREATOR = "Hemplit"
DATATYPES = {
    "whole number": "integer",
    "decimal": "decimal",
    "date": "date",
    "time": "time",
    "date and time": "datetime",
    "yes/no": "boolean",
    "text": "string",
}
NO_FILE_NAME = re.compile(r"[^\w.-]+")
LONGEST_FILE_NAME = 80


class FolderTarget(FileTarget):
    """A folder.

    >>> FolderTarget.takes("yard/"), FolderTarget.takes("yard/#parquet"), FolderTarget.takes("yard")
    (True, True, False)
    """

    endings: ClassVar = tuple({"/", os.sep})
    called = "folder"
    lacks: Mapping[Ability, str] = {
        Ability.VIEWS: "a folder of files joins no tables; they are compared cell by cell",
        Ability.GROW: "a folder of files cannot be added to",
    }

    def __init__(self, text: str) -> None:
        super().__init__(text)
        there = (self.path / METADATA[PARQUET]).is_file() and not (self.path / METADATA[""]).is_file()
        self.as_parquet = self.how == PARQUET or (not self.how and there)

    @property
    def _metadata(self) -> str:
        return METADATA[PARQUET if self.as_parquet else ""]

    def exists(self) -> bool:
        self._bring_back()
        return self.path.exists() and (not self.path.is_dir() or any(self.path.iterdir()))

    def _bring_back(self) -> None:
        """Undoes a change of places that was broken off in the middle."""
        if self._before.is_dir() and not self.path.exists():
            self._before.rename(self.path)

    @property
    def _before(self) -> Path:
        """Where the old folder is for a moment."""
        return self.path.with_name(f".{self.path.name}.before")

    def _is_ours(self) -> bool:
        for name in METADATA.values():
            with suppress(OSError, ValueError, AttributeError):
                if json.loads((self.path / name).read_text(encoding="utf-8")).get("dc:creator") == CREATOR:
                    return True
        return False

    def _put(self, tables: Tables, written: Written, *, over: bool) -> None:
        def make(made: Path) -> None:
            self._make(made, tables, written)
            self._check_made(made, tables)

        self._change_places(make, over=over)

    def take(self, tables: Tables, make: Callable[[Mapping[str, Path]], None], *, over: bool) -> None:
        """Lets others make the files of tables, of which only the structure is known here, and puts them in place."""

        def make_all(made: Path) -> None:
            make({name: made / file for name, file in self._file_names(tables).items()})
            self._describe(made, tables)

        self._change_places(make_all, over=over)

    def _change_places(self, make: Callable[[Path], None], *, over: bool) -> None:
        with unfinished_folder(self.path) as made:
            make(made)
            if self.path.is_dir() and not any(self.path.iterdir()):
                self.path.rmdir()
            if self.path.exists() and not over:
                raise FileExistsError(str(self.path))
            try:
                if self.path.exists():
                    shutil.rmtree(self._before, ignore_errors=True)
                    self.path.rename(self._before)
                made.rename(self.path)
            finally:
                self._bring_back()
            shutil.rmtree(self._before, ignore_errors=True)

    def _make(self, path: Path, tables: Tables, written: Written) -> None:
        names = self._file_names(tables)
        for table in tables.tables:
            if self.as_parquet:
                rows = pa.table({column.name: _exact(column) for column in table.columns})
                pa.parquet.write_table(rows, path / names[table.name])
            else:
                how = pa.csv.WriteOptions(quoting_style="all_valid" if len(table.columns) == 1 else "needed")
                pa.csv.write_csv(
                    pa.table({column.name: _texts(column) for column in table.columns}), path / names[table.name], how
                )
            written.add(table.row_count)
        self._describe(path, tables)

    def _describe(self, path: Path, tables: Tables) -> None:
        text = json.dumps(self._described(tables), ensure_ascii=False, indent=2) + "\n"
        (path / self._metadata).write_text(text, encoding="utf-8", newline="")

    def _file_names(self, tables: Tables) -> dict[str, str]:
        ending = ".parquet" if self.as_parquet else ".csv"
        taken: set[str] = set()
        names = {}
        for table in tables.tables:
            plain = NO_FILE_NAME.sub("_", table.name)[:LONGEST_FILE_NAME].lstrip(".") or "table"
            name, count = plain, 1
            while name.lower() in taken:
                count += 1
                name = f"{plain}_{count}"
            taken.add(name.lower())
            names[table.name] = name + ending
        return names

    def _described(self, tables: Tables) -> dict[str, Any]:
        """The metadata: tables, columns with their datatypes, keys and references."""
        names = self._file_names(tables)
        described = [_table(table, names) for table in tables.tables]
        return {"@context": CONTEXT, "dc:creator": CREATOR, "tables": described}

    def _read(self, path: Path, tables: Tables) -> dict[str, pa.Table]:
        names = self._file_names(tables)
        return {table.name: self._rows_of(path / names[table.name], table) for table in tables.tables}

    def _rows_of(self, path: Path, table: Table) -> pa.Table:
        wanted = as_stored(table).schema
        try:
            if self.as_parquet:
                rows = pa.parquet.read_table(path)
            else:
                rows = pa.csv.read_csv(
                    path,
                    pa.csv.ReadOptions(block_size=max(path.stat().st_size, 1) + 1),
                    pa.csv.ParseOptions(newlines_in_values=True, ignore_empty_lines=False),
                    pa.csv.ConvertOptions(
                        column_types=dict.fromkeys(wanted.names, pa.string()),
                        null_values=[""],
                        strings_can_be_null=True,
                        quoted_strings_can_be_null=True,
                    ),
                )
            columns = [
                _as_stored(
                    rows.column(column.name),
                    wanted.field(column.name).type,
                    is_moment=column.kind.word == "date and time",
                )
                for column in table.columns
            ]
            return pa.table(columns, names=wanted.names)
        except (OSError, pa.ArrowInvalid, KeyError) as error:
            what = f"{path.name} cannot be read ({' '.join(str(error).split())})"
            raise TargetError(self.text, what, "load the design again") from error

    def _header(self, path: Path) -> str:
        """The names of the columns in a file; why there are none, if it cannot be read."""
        try:
            if self.as_parquet:
                return ", ".join(pa.parquet.read_schema(path).names)
            with path.open(encoding="utf-8", newline="") as file:
                return ", ".join(next(csv.reader(file), []))
        except (OSError, ValueError, pa.ArrowInvalid) as error:
            return f"nothing ({' '.join(str(error).split())})"

    def structure(self, tables: Tables) -> tuple[int, Sequence[Difference]]:
        """Compares the metadata, and which files there are."""
        wanted = json.dumps(self._described(tables), ensure_ascii=False, indent=2)
        try:
            found = json.dumps(
                json.loads((self.path / self._metadata).read_text(encoding="utf-8")), ensure_ascii=False, indent=2
            )
        except (OSError, ValueError) as error:
            return 1, [Difference(self._metadata, "what the tables are", f"nothing ({error})")]
        names = {*self._file_names(tables).values(), self._metadata}
        there = {path.name for path in self.path.iterdir()}
        differences = [*lines_that_differ(self._metadata, wanted, found)]
        differences += [Difference(name, "a file", "no file") for name in sorted(names - there)]
        differences += [Difference(name, "no file", "a file") for name in sorted(there - names)]
        for table in tables.tables:
            wanted = ", ".join(table.by_name)
            found = self._header(self.path / self._file_names(tables)[table.name])
            if found != wanted:
                differences.append(Difference(f"the header of {table.name}", wanted, found))
        return len(names), differences


def _table(table: Table, names: Mapping[str, str]) -> dict[str, Any]:
    keys = [
        {
            "columnReference": [_name(one) for one in reference.columns],
            "reference": {
                "resource": names[reference.table],
                "columnReference": [_name(one) for one in reference.table_columns],
            },
        }
        for reference in table.references
    ]
    columns = [
        {
            "name": _name(column.name),
            "titles": column.name,
            "datatype": _datatype(column),
            "required": column.required,
            **({"dc:description": column.comment} if column.comment else {}),
        }
        for column in table.columns
    ]
    schema = {"columns": columns, "primaryKey": [_name(one) for one in table.key], "foreignKeys": keys}
    told = {"dc:title": table.name, **({"dc:description": table.comment} if table.comment else {})}
    return {"url": quote(names[table.name]), **told, "tableSchema": schema}


def _name(column: str) -> str:
    """The name of a column as CSVW allows it: letters, digits, and all else by its bytes."""
    plain = re.sub(r"[.~-]", lambda sign: f"%{ord(sign[0]):02X}", quote(column, safe=""))
    return f"%5F{plain[1:]}" if plain.startswith("_") else plain


def _datatype(column: TableColumn) -> str:
    if column.kind.word == "decimal" and _is_wide(column.values):
        return "double"
    return DATATYPES[column.kind.word]


def _is_wide(values: pa.Array) -> bool:
    """Whether numbers are too small or large to be written without an exponent."""
    return bool(pc.any(pc.match_substring(pc.cast(values, pa.string()), "e")).as_py())


def _texts(column: TableColumn) -> pa.Array:
    """The cells as CSVW writes their datatype."""
    if column.kind.word == "date and time":
        return taken(pc.replace_substring(pc.cast(column.values, pa.string()), " ", "T"), column.codes)
    return _exact(column)


def _exact(column: TableColumn) -> pa.Array:
    """The cells in the narrowest type of Parquet that holds them exactly."""
    values, kind = column.values, column.kind
    places = places_of(column) if kind.word == "decimal" and kind.form else None
    if places is not None:
        texts = [f"{value:.{places}f}" for value in values.to_pylist()]
        values = pc.cast(pa.array(texts, pa.string()), pa.decimal128(DIGITS + places, places))
    elif kind.word == "whole number" and len(values) and (pc.max(pc.abs(values)).as_py() or 0) <= MOST_IN_FOUR_BYTES:
        values = pc.cast(values, pa.int32())
    return taken(values, column.codes)


def _as_stored(column: pa.ChunkedArray, kind: pa.DataType, *, is_moment: bool = False) -> pa.Array:
    """A column as read, in the type in which it is stored; what does not fit it stays text."""
    array = column.combine_chunks()
    if pa.types.is_string(array.type) and is_moment:
        return pc.replace_substring(array, "T", " ")
    if pa.types.is_string(array.type) and pa.types.is_integer(kind):
        array = pc.if_else(pc.equal(array, "true"), "1", pc.if_else(pc.equal(array, "false"), "0", array))
    elif pa.types.is_decimal(array.type):
        array = pc.cast(array, pa.string())  # a cast to doubles is not exact
    elif pa.types.is_time(array.type):
        array = pc.cast(array, pa.time32("s"))
    elif pa.types.is_timestamp(array.type):
        array = pc.cast(array, pa.timestamp("s"))
    return as_type(array, kind)
