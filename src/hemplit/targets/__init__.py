"""Where tables go: one module per target behind one small contract. To add one, add a module and a line below."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.errors import TargetError
from hemplit.targets.folder import FolderTarget
from hemplit.targets.mariadb import MariadbTarget
from hemplit.targets.postgresql import PostgresqlTarget
from hemplit.targets.script import ScriptTarget
from hemplit.targets.sqlite import SqliteTarget
from hemplit.targets.workbook import WorkbookTarget

if TYPE_CHECKING:
    from hemplit.targets.contract import Target

TARGETS: tuple[type[Target], ...] = (
    SqliteTarget,
    PostgresqlTarget,
    MariadbTarget,
    ScriptTarget,
    WorkbookTarget,
    FolderTarget,
)


#: What a TARGET can be, in words.
SORTS = "NAME.sqlite, postgresql://HOST/DATABASE, mariadb://HOST/DATABASE, NAME.sql, NAME.xlsx, or a folder NAME/"


def target_for(text: str) -> Target:
    """The target that a TARGET of the command line means.

    Raises ``TargetError`` if there is none.
    """
    for kind in TARGETS:
        if kind.takes(text):
            return kind(text)
    raise TargetError(
        text,
        "this is no place for tables",
        f"name one: {SORTS}",
    )
