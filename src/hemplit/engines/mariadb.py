"""MariaDB: the server in which the sheet lies, and into which its tables go.

MySQL reads a temporary table only once in a query, so it is no engine.
"""

from __future__ import annotations

from contextlib import contextmanager
from typing import TYPE_CHECKING, ClassVar

from hemplit.engines.contract import EngineDialect
from hemplit.engines.server import ServerEngine
from hemplit.errors import TargetError
from hemplit.targets.mariadb_sql import MOST_IN_INDEX, MariadbDialect

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from hemplit.core.model.tables import TableColumn
    from hemplit.targets.sql.session import Session

#: The types of a cast, which are not those of columns.
TYPES = {
    "whole number": "SIGNED",
    "decimal": "DOUBLE",
    "date": "DATE",
    "time": "TIME",
    "date and time": "DATETIME",
    "yes/no": "SIGNED",
    "text": "CHAR",
}
COLUMNS = {
    "int64": "BIGINT",
    "double": "DOUBLE",
    "date32[day]": "DATE",
    "time32[s]": "TIME",
    "timestamp[s]": "DATETIME",
    "bool": "BOOLEAN",
    "string": "LONGTEXT",
}
#: How many columns an index may have.
MOST_COLUMNS = 16
#: Texts are told apart to so many bytes, more than a sheet has in a cell: where the server sorts to group, its usual
#: 1,024 make one group of 60,000 texts that begin alike. Numbers are joined by hash, and what sorting, grouping and
#: joining may hold is what PostgreSQL gets for it.
SETTINGS = """SET SESSION max_sort_length = 1048576,
    join_cache_level = 4, join_buffer_size = 134217728, join_buffer_space_limit = 268435456,
    optimizer_switch = 'join_cache_hashed=on,outer_join_with_cache=on',
    sort_buffer_size = 134217728, tmp_memory_table_size = 134217728, max_heap_table_size = 134217728"""


class MariadbEngineDialect(MariadbDialect, EngineDialect):
    """As the target has it."""

    def same(self, one: str, other: str) -> str:
        """The condition that two expressions say the same; two blanks do."""
        return f"{one} <=> {other}"

    def week_number(self, date: str) -> str:
        return f"week({date}, 3)"

    def type_of(self, kind: str) -> str:
        """The type for a kind of values."""
        return TYPES[kind]

    def summed(self, columns: Sequence[str]) -> tuple[str, ...]:
        """Expressions over all rows that differ if these do, in whatever order the rows come."""
        row = f"md5(concat_ws(',', {', '.join(f'quote({column})' for column in columns)}))"
        left, right = (f"CAST(conv({side}({row}, 15), 16, 10) AS UNSIGNED)" for side in ("left", "right"))
        return f"sum({left})", f"bit_xor({right})"


class MariadbEngine(ServerEngine):
    """Temporary tables, found by an index: without one, 20,000 rows join 50,000 texts in 149 s, and else in 0.1."""

    dialect: EngineDialect = MariadbEngineDialect()
    columns: ClassVar = COLUMNS
    options = "ENGINE = InnoDB DEFAULT CHARSET utf8mb4 COLLATE utf8mb4_nopad_bin"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        if "mariadb" not in str(session.rows("SELECT version()")[0][0]).lower():
            what = "MySQL reads a temporary table only once in a query"
            raise TargetError("--engine mariadb", what, "load it without --engine")
        session.run(SETTINGS)

    @contextmanager
    def working(self) -> Iterator[None]:
        # Texts that are made on the way are compared letter by letter, but the views of a target are made without.
        before = self.session.rows("SELECT @@collation_connection")[0][0]
        self.session.run("SET SESSION collation_connection = utf8mb4_nopad_bin")
        yield
        self.session.run(f"SET SESSION collation_connection = {before}")

    def ready(self, quoted: str, by: Sequence[str]) -> None:
        if by:
            sorts = {str(name): str(sort) for name, sort, *_ in self.session.rows(f"SHOW COLUMNS FROM {quoted}")}
            some = by[:MOST_COLUMNS]
            texts = [name for name in some if "text" in sorts[name] or "char" in sorts[name]]
            cut = f"({MOST_IN_INDEX // (2 * max(len(texts), 1))})"
            shown = (f"{self.dialect.quote(name)}{cut if name in texts else ''}" for name in some)
            self.session.run(f"CREATE INDEX by_name ON {quoted} ({', '.join(shown)})")

    def told_by(self, column: TableColumn) -> tuple[str, ...]:
        name = self.dialect.quote(column.name)
        if column.kind.word == "text":
            return (f"char_length({name}) DESC",)
        if column.kind.word != "decimal":
            return ()
        written = f"CAST({name} AS CHAR)"
        places = f"if(instr({written}, '.'), length(substring_index({written}, '.', -1)), 0)"
        return f"instr({written}, 'e') DESC", f"{places} DESC", f"abs({name}) DESC", f"{name} = 0, abs({name})"
