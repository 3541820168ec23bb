"""An SQL script, for a colleague who wants to read first: what creates the tables, their rows, and the views.

It is read again statement by statement: the rows are those between the quotes, all else is what the design says.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, ClassVar

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.loads import Ability
from hemplit.core.model.proof import Difference
from hemplit.errors import TargetError, nearest
from hemplit.targets.file import FileTarget
from hemplit.targets.mariadb_sql import MARIADB
from hemplit.targets.postgresql import POSTGRESQL
from hemplit.targets.rows import Written, as_stored, as_type, check_signs, lines_that_differ
from hemplit.targets.sql.all_views import create_views
from hemplit.targets.sql.ddl import References, statements_of
from hemplit.targets.sql.names import with_names
from hemplit.targets.sql.rows import literals
from hemplit.targets.sqlite_catalogue import SQLITE

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence
    from pathlib import Path

    from hemplit.core.model.tables import Table, Tables
    from hemplit.targets.sql.dialect import Dialect

DIALECTS: Mapping[str, Dialect] = {"sqlite": SQLITE, "postgresql": POSTGRESQL, "mariadb": MARIADB}
SCHEMA_ONLY, WITHOUT_ROWS = "schema-only", ", without rows"
FIRST_LINE = "-- Made by Hemplit, for "
#: Rows go into statements of so many, which a person can still scroll through.
ROWS = 500
#: What stands between the quotes of a text, where a backslash is a sign as any other, and where it is not.
PLAIN, ESCAPED = r"(?:[^']|'')*", r"(?:[^'\\]|''|\\.)*"
#: A text, a quoted name, a comment, the end of a statement: what can hold a semicolon, and the semicolon.
PIECES = r"'{text}'|\"(?:[^\"]|\"\")*\"|`(?:[^`]|``)*`|--[^\n]*|;"
VALUE = r"'({text})'|([^\s,()';]+)|(\))"
INSERT = re.compile(r"INSERT INTO (\S+|\"(?:[^\"]|\"\")*\"|`(?:[^`]|``)*`) \(")


class ScriptTarget(FileTarget):
    """An SQL script.

    >>> ScriptTarget.takes("yard.sql"), ScriptTarget.takes("yard.sql#postgresql"), ScriptTarget.takes("yard.sqlite")
    (True, True, False)
    """

    endings: ClassVar = (".sql",)
    called = "script"
    holds_views = True
    lacks: Mapping[Ability, str] = {
        Ability.VIEWS: "a script runs no views; its statements and its rows are compared as they stand there",
        Ability.GROW: "a script cannot be added to",
    }

    def __init__(self, text: str) -> None:
        super().__init__(text)
        words = self.how.split()
        self.schema_only = SCHEMA_ONLY in words or (not words and WITHOUT_ROWS in self._first_line())
        if self.schema_only:
            self.lacks = {Ability.ROWS: "a script of the tables alone holds no rows", **self.lacks}
        named = [word for word in words if word != SCHEMA_ONLY] or [self._written_for()]
        if named[0] not in DIALECTS:
            raise TargetError(f"--dialect {named[0]}", "this is not a dialect", nearest(named[0], DIALECTS))
        self.dialect = DIALECTS[named[0]]
        self.word = named[0]
        self.backslashes = self.dialect is MARIADB
        between = ESCAPED if self.backslashes else PLAIN
        self.pieces, self.value = (re.compile(one.replace("{text}", between), re.S) for one in (PIECES, VALUE))

    def _written_for(self) -> str:
        """The dialect of the script that is there; else that of the embedded default."""
        found = self._first_line().removeprefix(FIRST_LINE).partition(":")[0].partition(",")[0]
        return found if found in DIALECTS else "sqlite"

    def _first_line(self) -> str:
        if not self.path.is_file():
            return ""
        with self.path.open(encoding="utf-8", errors="replace") as file:
            return file.readline(200)

    def _is_ours(self) -> bool:
        return self._first_line().startswith(FIRST_LINE)

    def _make(self, path: Path, tables: Tables, written: Written) -> None:
        tables = with_names(tables, self.dialect)
        check_signs(tables, "\0", self.text, "a script")
        with path.open("w", encoding="utf-8", newline="") as file:
            what = f"{self.word}{WITHOUT_ROWS if self.schema_only else ''}"
            file.write(f"{FIRST_LINE}{what}: {len(tables.tables)} tables, and views that give the sheets back.\n")
            file.write("-- Run again it makes them anew: what has these names is dropped first.\n\n")
            for kind, text in self._statements(tables):
                written.add(ROWS if kind == "rows" else 0)
                file.write(text + (";\n" if kind.startswith(("rows", "drop")) else ";\n\n"))

    def _statements(self, tables: Tables) -> Iterator[tuple[str, str]]:
        """The statements, each with what it is for."""
        dialect, quote = self.dialect, self.dialect.quote
        schema = statements_of(tables, dialect)
        yield "begin", "START TRANSACTION" if dialect is MARIADB else "BEGIN"
        if dialect is MARIADB:
            yield "mode", "SET NAMES utf8mb4, sql_mode = 'STRICT_ALL_TABLES'"
        for name in reversed(tables.view_names):
            yield f"drop {name}", f"DROP VIEW IF EXISTS {quote(name)}"
        for table in reversed(tables.tables):
            yield f"drop {table.name}", f"DROP TABLE IF EXISTS {quote(table.name)}"
        own = References.ALL if dialect is SQLITE else References.OF_OTHERS
        for name, created in schema.items():
            yield f"table {name}", created.create(own)
        if not self.schema_only:
            for table in tables.tables:
                yield from (("rows", text) for text in self._rows(table))
        if own is not References.ALL:
            pointing = (text for one in schema.values() for text in one.add_references(only_own=True))
            yield from ((f"reference {number}", text) for number, text in enumerate(pointing, 1))
        for name, statement in (index for one in schema.values() for index in one.indexes):
            yield f"index {name}", statement
        if dialect is POSTGRESQL:
            comments = (text for one in schema.values() for text in one.comments)
            yield from ((f"comment {number}", text) for number, text in enumerate(comments, 1))
        for name, statement in create_views(tables, dialect):
            yield f"view {name}", statement
        yield "end", "COMMIT"

    def _rows(self, table: Table) -> Iterator[str]:
        quote = self.dialect.quote
        columns = ", ".join(quote(column.name) for column in table.columns)
        stored = as_stored(table)
        for start in range(0, table.row_count, ROWS):
            cells = []
            for column in table.columns:
                some = stored.column(column.name).slice(start, ROWS).combine_chunks()
                written = literals(some, backslashes=self.backslashes)
                is_word = column.kind.word == "yes/no" and not self.dialect.yes_is_one
                cells.append(_as_words(written) if is_word else written)
            lines = pc.binary_join_element_wise(*cells, ", ").to_pylist()
            yield f"INSERT INTO {quote(table.name)} ({columns}) VALUES\n  ({f'),{chr(10)}  ('.join(lines)})"

    def _text(self, path: Path) -> str:
        try:
            with path.open(encoding="utf-8", newline="") as file:
                return file.read()
        except (OSError, UnicodeDecodeError) as error:
            raise TargetError(self.text, f"it cannot be read ({error})", "load the design again") from error

    def _read(self, path: Path, tables: Tables) -> dict[str, pa.Table]:
        found: dict[str, list[str]] = {}
        for statement in _parted(self._text(path), self.pieces):
            into = INSERT.match(statement)
            if into is not None:
                found.setdefault(into[1], []).append(statement)
        return {
            table.name: self._rows_of(table, found.get(self.dialect.quote(self.dialect.fit(table.name)), []))
            for table in tables.tables
        }

    def _rows_of(self, table: Table, statements: Sequence[str]) -> pa.Table:
        """The rows of the statements that fill a table, in the types in which they are stored."""
        columns: list[list[str | None]] = [[] for _ in table.columns]
        for statement in statements:
            at = 0
            for value in self.value.finditer(statement, statement.index("VALUES") + len("VALUES")):
                text, word, _ = value.groups()
                if text is None and word is None:
                    at = 0
                    continue
                if at < len(columns):
                    columns[at].append(self._unquoted(text) if text is not None else WORDS.get(word, word))
                at += 1
        most = max(map(len, columns), default=0)
        arrays = [pa.array([*some, *[None] * (most - len(some))], pa.string()) for some in columns]
        types = as_stored(table).schema.types
        return pa.table([as_type(one, kind) for one, kind in zip(arrays, types, strict=True)], names=[*table.by_name])

    def _unquoted(self, text: str) -> str:
        text = text.replace("''", "'")
        return re.sub(r"\\(.)", r"\1", text, flags=re.S) if self.backslashes else text

    def structure(self, tables: Tables) -> tuple[int, Sequence[Difference]]:
        """Compares all that is no row."""
        wanted = [one for one in self._statements(with_names(tables, self.dialect)) if one[0] != "rows"]
        found = [text for text in _parted(self._text(self.path), self.pieces) if not INSERT.match(text)]
        differences: list[Difference] = []
        for at, (kind, text) in enumerate(wanted):
            differences += lines_that_differ(kind, text, found[at] if at < len(found) else "")
        for text in found[len(wanted) :]:
            differences.append(Difference("the script", "nothing more", " ".join(text.split())))
        return len(wanted), differences


def _as_words(values: pa.Array) -> pa.Array:
    """One and nought as a database wants them that knows yes and no."""
    return pc.if_else(pc.equal(values, "1"), "TRUE", pc.if_else(pc.equal(values, "0"), "FALSE", values))


def _parted(text: str, pieces: re.Pattern[str]) -> Iterator[str]:
    """The statements of a script, without comments before them.

    >>> pieces = re.compile(PIECES.replace("{text}", PLAIN))
    >>> list(_parted("-- first; one\\nSELECT ';';\\n\\nCOMMIT;\\n", pieces))
    ["SELECT ';'", 'COMMIT']
    """
    start = 0
    for piece in pieces.finditer(text):
        if piece[0] == ";":
            yield text[start : piece.start()].strip()
            start = piece.end()
        elif piece[0].startswith("--") and not text[start : piece.start()].strip():
            start = piece.end()
    if text[start:].strip():
        yield text[start:].strip()


#: How a script writes what is no text.
WORDS: Mapping[str, str | None] = {"NULL": None, "TRUE": "1", "FALSE": "0"}
