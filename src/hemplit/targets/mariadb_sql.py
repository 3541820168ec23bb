"""How MariaDB and MySQL write SQL, and what their catalogue tells."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

import pyarrow.compute as pc

from hemplit.core.kinds.calendar import directives
from hemplit.targets.sql.dialect import DIGITS, Dialect, pattern_of, places_of
from hemplit.targets.sql.reserved import MARIADB_WORDS
from hemplit.targets.sql.terms import Term, call, whole

if TYPE_CHECKING:
    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import TableColumn

#: An index holds 3,072 bytes, and a letter has up to four. A text in a key gets one of these lengths.
MOST_IN_INDEX, LENGTHS = 768, (50, 100, 255, 768)


class MariadbDialect(Dialect):
    """Texts in keys need a length, and texts are equal only if every letter and blank of them is."""

    name = "MariaDB"
    reserved = MARIADB_WORDS
    mark = "`"
    backslashes = True
    longest_name = 64
    longest_comment = 1_024
    most_columns = 1_017
    comments_inside = True
    yes_is_one = True
    own_column = "held."
    types: ClassVar = {**Dialect.types, "yes/no": "BOOL", "decimal": "NUMERIC(30, 15)", "text": "LONGTEXT"}
    long_text = short_text = "CHAR"
    hundred = whole(100.0)
    #: How letters are compared and put in order.
    collation: ClassVar[str] = "utf8mb4_nopad_bin"

    def fit(self, name: str) -> str:
        # Names have no signs beyond the first plane of Unicode.
        return super().fit("".join(sign if sign <= "\uffff" else "_" for sign in name))

    def fitted_type(self, column: TableColumn, *, indexed: bool) -> str:
        word = column.kind.word
        if word == "decimal":
            places = places_of(column)
            return "DOUBLE" if places is None else f"NUMERIC({DIGITS + places}, {places})"
        if word == "text" and indexed:
            longest = pc.max(pc.utf8_length(column.values)).as_py() or 0
            return f"VARCHAR({next((length for length in LENGTHS if 2 * longest <= length), MOST_IN_INDEX)})"
        return super().fitted_type(column, indexed=indexed)

    def dated(self, column: Term, kind: Kind) -> Term:
        form = directives(kind.form).replace("%M", "%i").replace("%S", "%s")
        return call("time_format" if kind.word == "time" else "date_format", column, self.value(form))

    def keeps_form(self, column: Term, form: str) -> Term:
        return column.compared("REGEXP", self.value(f"^{pattern_of(form)}$"))

    def weekday(self, date: Term) -> Term:
        return call("weekday", date) + whole(1)

    def week(self, date: Term) -> Term:
        return call("date_format", date, self.value("%x-W%v"))

    def listed(self, column: str, order: str, source: str, between: str) -> str:
        return f"SELECT GROUP_CONCAT({column} ORDER BY {order} SEPARATOR {self.literal(between)}) {source}"

    def as_double(self, number: Term) -> Term:
        return number + Term("0e0")

    def joined(self, *texts: Term) -> Term:
        return call("concat", *texts)

    def table_end(self, comment: str | None) -> str:
        said = f" COMMENT={self.literal(comment)}" if comment else ""
        return f"ENGINE=InnoDB DEFAULT CHARSET=utf8mb4{said} COLLATE {self.collation}"


class MysqlDialect(MariadbDialect):
    """What MySQL calls otherwise."""

    name = "MySQL"
    collation = "utf8mb4_0900_bin"


MARIADB, MYSQL = MariadbDialect(), MysqlDialect()


#: All that there is to a table or view, line by line.
CATALOGUE = """
SELECT TABLE_NAME AS name, CASE TABLE_TYPE WHEN 'BASE TABLE' THEN 'table' WHEN 'VIEW' THEN 'view' ELSE TABLE_TYPE END
    AS kind, 0 AS part, 0 AS place, CONCAT_WS(' ', ENGINE, TABLE_COLLATION, NULLIF(TABLE_COMMENT, '')) AS line
FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()
UNION ALL
SELECT TABLE_NAME, '', 1, ORDINAL_POSITION, CONCAT_WS(' ', COLUMN_NAME, COLUMN_TYPE, COLLATION_NAME,
    IF(IS_NULLABLE = 'NO', 'NOT NULL', NULL), CONCAT('DEFAULT ', COLUMN_DEFAULT), NULLIF(EXTRA, ''), COLUMN_COMMENT)
FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE()
UNION ALL
SELECT TABLE_NAME, '', 2, SEQ_IN_INDEX,
    CONCAT_WS(' ', IF(NON_UNIQUE, 'INDEX', 'UNIQUE'), INDEX_NAME, COLUMN_NAME, SUB_PART)
FROM information_schema.STATISTICS WHERE TABLE_SCHEMA = DATABASE()
UNION ALL
SELECT k.TABLE_NAME, '', 3, k.ORDINAL_POSITION, CONCAT_WS(' ', 'REFERENCE', k.CONSTRAINT_NAME, k.COLUMN_NAME, 'TO',
    k.REFERENCED_TABLE_NAME, k.REFERENCED_COLUMN_NAME, r.UPDATE_RULE, r.DELETE_RULE)
FROM information_schema.KEY_COLUMN_USAGE AS k JOIN information_schema.REFERENTIAL_CONSTRAINTS AS r
    ON r.CONSTRAINT_SCHEMA = k.CONSTRAINT_SCHEMA AND r.CONSTRAINT_NAME = k.CONSTRAINT_NAME
    AND r.TABLE_NAME = k.TABLE_NAME
WHERE k.TABLE_SCHEMA = DATABASE()
UNION ALL
SELECT t.TABLE_NAME, '', 4, 0, CONCAT_WS(' ', 'CHECK', c.CONSTRAINT_NAME, c.CHECK_CLAUSE)
FROM information_schema.CHECK_CONSTRAINTS AS c JOIN information_schema.TABLE_CONSTRAINTS AS t
    ON t.CONSTRAINT_SCHEMA = c.CONSTRAINT_SCHEMA AND t.CONSTRAINT_NAME = c.CONSTRAINT_NAME {same_table}
WHERE t.TABLE_SCHEMA = DATABASE()
UNION ALL
SELECT EVENT_OBJECT_TABLE, '', 5, ACTION_ORDER,
    CONCAT_WS(' ', 'TRIGGER', TRIGGER_NAME, ACTION_TIMING, EVENT_MANIPULATION, ACTION_STATEMENT)
FROM information_schema.TRIGGERS WHERE EVENT_OBJECT_SCHEMA = DATABASE()
UNION ALL
SELECT TABLE_NAME, '', 6, 0, VIEW_DEFINITION FROM information_schema.VIEWS WHERE TABLE_SCHEMA = DATABASE()
"""
#: What others made that depends on a table of ours.
DEPENDENT = """
SELECT 'table', TABLE_NAME, REFERENCED_TABLE_NAME FROM information_schema.KEY_COLUMN_USAGE
WHERE REFERENCED_TABLE_SCHEMA = DATABASE() AND REFERENCED_TABLE_NAME IN ({ours}) AND TABLE_NAME NOT IN ({ours})
UNION ALL
SELECT 'trigger', TRIGGER_NAME, EVENT_OBJECT_TABLE FROM information_schema.TRIGGERS
WHERE EVENT_OBJECT_SCHEMA = DATABASE() AND EVENT_OBJECT_TABLE IN ({ours})
UNION ALL
SELECT 'view', v.TABLE_NAME, t.TABLE_NAME FROM information_schema.VIEWS AS v JOIN information_schema.TABLES AS t
    ON t.TABLE_SCHEMA = v.TABLE_SCHEMA AND t.TABLE_NAME IN ({ours})
    AND INSTR(v.VIEW_DEFINITION, CONCAT('`', REPLACE(t.TABLE_NAME, '`', '``'), '`')) > 0
WHERE v.TABLE_SCHEMA = DATABASE() AND v.TABLE_NAME NOT IN ({ours})
"""
