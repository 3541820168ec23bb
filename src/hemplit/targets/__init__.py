"""Where tables go: one module per target behind one small contract. To add one, add a module and a line below."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

from hemplit.errors import TargetError

if TYPE_CHECKING:
    from hemplit.targets.contract import Target

#: The class of each module, which is imported when its turn comes: the libraries of a database need half a second.
TARGETS = {
    "sqlite": "SqliteTarget",
    "postgresql": "PostgresqlTarget",
    "mariadb": "MariadbTarget",
    "script": "ScriptTarget",
    "workbook": "WorkbookTarget",
    "folder": "FolderTarget",
}


#: What a TARGET can be, in words.
SORTS = "NAME.sqlite, postgresql://HOST/DATABASE, mariadb://HOST/DATABASE, NAME.sql, NAME.xlsx, or a folder NAME/"


def target_for(text: str) -> Target:
    """The target that a TARGET of the command line means.

    Raises ``TargetError`` if there is none.
    """
    for module, name in TARGETS.items():
        kind: type[Target] = getattr(import_module(f"hemplit.targets.{module}"), name)
        if kind.takes(text):
            return kind(text)
    raise TargetError(
        text,
        "this is no place for tables",
        f"name one: {SORTS}",
    )
