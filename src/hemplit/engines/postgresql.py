"""PostgreSQL: the server in which the sheet lies, and into which its tables go, in one transaction."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from hemplit.engines.contract import EngineDialect
from hemplit.engines.server import ServerEngine
from hemplit.targets.postgresql import PostgresqlDialect

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.tables import TableColumn

TYPES = {
    "whole number": "bigint",
    "decimal": "double precision",
    "date": "date",
    "time": "time",
    "date and time": "timestamp",
    "yes/no": "boolean",
    "text": "text",
}
#: The type for what rows come in, by Arrow's name.
COLUMNS = {
    "int64": "bigint",
    "double": "double precision",
    "date32[day]": "date",
    "time32[s]": "time",
    "timestamp[s]": "timestamp",
    "bool": "boolean",
    "string": "text",
}


class PostgresqlEngineDialect(PostgresqlDialect, EngineDialect):
    """As the target has it."""

    tells_capitals = True

    def same(self, one: str, other: str) -> str:
        """The condition that two expressions say the same; two blanks do."""
        # Of arrays the server makes a hash, of IS NOT DISTINCT FROM none; and in them two blanks are the same.
        return f"ARRAY[{one}] = ARRAY[{other}]"

    def type_of(self, kind: str) -> str:
        """The type for a kind of values."""
        return TYPES[kind]

    def least(self, kind: str, value: str) -> str:
        return f"bool_and({value})" if kind == "yes/no" else super().least(kind, value)

    def most(self, kind: str, value: str) -> str:
        return f"bool_or({value})" if kind == "yes/no" else super().most(kind, value)

    def summed(self, columns: Sequence[str]) -> tuple[str, ...]:
        """Expressions over all rows that differ if these do, in whatever order the rows come."""
        row = f"CAST(ROW({', '.join(columns)}) AS text)"
        return (f"sum(CAST(hashtextextended({row}, 0) AS numeric))", f"bit_xor(hashtextextended({row}, 1))")


class PostgresqlEngine(ServerEngine):
    """Temporary tables, of which the server counts values to know how to join them."""

    dialect: EngineDialect = PostgresqlEngineDialect()
    columns: ClassVar = COLUMNS

    def ready(self, quoted: str, by: Sequence[str]) -> None:
        del by  # tables are joined by hash
        self.session.run(f"ANALYZE {quoted}")

    def told_by(self, column: TableColumn) -> tuple[str, ...]:
        if column.kind.word != "decimal":
            return ()
        name = self.dialect.quote(column.name)
        return f"scale(CAST({name} AS numeric)) DESC", f"abs({name}) DESC", f"{name} = 0, abs({name})"
