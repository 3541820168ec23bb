"""Places where tables go, each seen by a reader that knows nothing of Hemplit.

Servers are where the settings say. Where none runs their tests are passed over, unless ``HEMPLIT_SERVERS=needed``.
"""

from __future__ import annotations

import os
import re
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from decimal import Decimal
from itertools import count
from pathlib import Path
from typing import Any

import psycopg
import pymysql
import pytest

POSTGRESQL = os.environ.get("HEMPLIT_POSTGRESQL", "postgresql://root@127.0.0.1/test")
MARIADB = os.environ.get("HEMPLIT_MARIADB", "mariadb://root@127.0.0.1/")
NUMBERS = count(1)


class Place:
    """A target of a test's own, and a way into it without Hemplit."""

    #: How it quotes a name, and begins a statement that is one with others.
    mark = '"'

    def __init__(self, folder: Path, name: str = "yard.sqlite") -> None:
        self.text = str(folder / name)

    def connect(self) -> Any:
        return sqlite3.connect(self.text)

    def close(self) -> None:
        """Leaves nothing behind."""

    def empty(self) -> None:
        """As it was in the beginning."""
        self.close()

    def quote(self, name: str) -> str:
        return self.mark + name.replace(self.mark, 2 * self.mark) + self.mark

    def rows(self, query: str) -> list[tuple[Any, ...]]:
        with closing(self.connect()) as connection:
            cursor = connection.cursor()
            cursor.execute(query)
            return list(cursor.fetchall())

    def run(self, *statements: str) -> None:
        with closing(self.connect()) as connection:
            for statement in statements:
                connection.cursor().execute(statement)
            connection.commit()

    def listed(self) -> list[tuple[str, str]]:
        """The tables and views, each with its kind."""
        return self.rows("SELECT name, type FROM sqlite_master WHERE type IN ('table', 'view') ORDER BY name")

    def counts(self) -> dict[str, int]:
        """How many rows each table has that is no list of ours."""
        names = [name for name, kind in self.listed() if kind == "table" and not name.startswith("hemplit_")]
        return {name: self.rows(f"SELECT count(*) FROM {self.quote(name)}")[0][0] for name in names}

    def view(self, name: str) -> tuple[list[str], list[list[str]]]:
        """The headers and the cells of a view, numbers as plainly as they can be."""
        with closing(self.connect()) as connection:
            cursor = connection.cursor()
            cursor.execute(f"SELECT * FROM {self.quote(name)}")
            return [column[0] for column in cursor.description], [[_cell(one) for one in row] for row in cursor]

    def state(self, shown: Callable[[tuple[Any, ...]], str] = repr) -> list[object]:
        """All that can be seen in it."""
        held = {name: self.rows(f"SELECT * FROM {self.quote(name)}") for name, _ in self.listed()}
        return [self.listed(), *((name, sorted(map(shown, rows))) for name, rows in held.items())]


class PostgresqlPlace(Place):
    """A schema of its own."""

    def __init__(self, folder: Path) -> None:
        self.schema = f"hemplit_test_{os.getpid()}_{next(NUMBERS)}"
        self.text = f"{POSTGRESQL}#{self.schema}"

    def connect(self) -> Any:
        return psycopg.connect(POSTGRESQL, options=f"-c search_path={self.schema} -c client_min_messages=error")

    def close(self) -> None:
        self.run(f"DROP SCHEMA IF EXISTS {self.schema} CASCADE")

    def listed(self) -> list[tuple[str, str]]:
        return self.rows(
            "SELECT table_name, CASE table_type WHEN 'VIEW' THEN 'view' ELSE 'table' END "
            f"FROM information_schema.tables WHERE table_schema = '{self.schema}' ORDER BY table_name"
        )


class MariadbPlace(Place):
    """A database of its own."""

    mark = "`"

    def __init__(self, folder: Path) -> None:
        self.database = f"hemplit_test_{os.getpid()}_{next(NUMBERS)}"
        self.text = MARIADB + self.database
        # As old servers make them: nothing of ours may hang on what the database takes for letters.
        self.run(f"CREATE DATABASE {self.database} CHARACTER SET latin1")

    def connect(self, **how: Any) -> Any:
        user, _, host = MARIADB.removeprefix("mariadb://").strip("/").rpartition("@")
        name, _, port = host.partition(":")
        connection = pymysql.connect(
            host=name, port=int(port or 3306), user=user, charset="utf8mb4", ssl_disabled=True, **how
        )
        with connection.cursor() as cursor:
            if cursor.execute(f"SHOW DATABASES LIKE '{self.database}'"):
                cursor.execute(f"USE {self.database}")
        return connection

    def close(self) -> None:
        self.run(f"DROP DATABASE {self.database}")

    def empty(self) -> None:
        self.close()
        self.run(f"CREATE DATABASE {self.database}")

    def listed(self) -> list[tuple[str, str]]:
        return self.rows(
            "SELECT TABLE_NAME, IF(TABLE_TYPE = 'VIEW', 'view', 'table') FROM information_schema.TABLES "
            f"WHERE TABLE_SCHEMA = '{self.database}' ORDER BY TABLE_NAME"
        )


class FilePlace(Place):
    """A target that is a file, or a folder of files."""

    name = "yard.sql"

    def __init__(self, folder: Path) -> None:
        self.text = str(folder / self.name.rstrip("/")) + "/" * self.name.endswith("/")

    def listed(self) -> list[tuple[str, str]]:
        return [("something", "table")] if Path(self.text).exists() else []


class WorkbookPlace(FilePlace):
    name = "yard.xlsx"


class FolderPlace(FilePlace):
    name = "yard/"


class ParquetPlace(FolderPlace):
    def __init__(self, folder: Path) -> None:
        super().__init__(folder)
        self.text += "#parquet"

    def listed(self) -> list[tuple[str, str]]:
        return [("something", "table")] if Path(self.text.partition("#")[0]).exists() else []


FILES = {"script": FilePlace, "workbook": WorkbookPlace, "folder": FolderPlace, "parquet": ParquetPlace}
SERVERS = {"postgresql": PostgresqlPlace, "mariadb": MariadbPlace}
PLACES = {"sqlite": Place, **SERVERS, **FILES}


def placed(name: str, folder: Path) -> Iterator[Place]:
    """A place for one test."""
    try:
        place = PLACES[name](folder)
        if name in SERVERS:
            place.connect().close()
    except (psycopg.OperationalError, pymysql.err.OperationalError) as error:
        if os.environ.get("HEMPLIT_SERVERS") == "needed":
            raise
        pytest.skip(f"no server of {name} is to be reached ({error})")
    yield place
    place.close()


def as_text(row: list[str]) -> list[str]:
    """Numbers as they are, whatever places they are written with, and yes as one."""
    plain = {"True": "1", "False": "0"}
    return [f"{float(cell):.10g}" if re.fullmatch(r"-?\d+\.\d+", cell) else plain.get(cell, cell) for cell in row]


def _cell(value: object) -> str:
    """A value of a database as the text of a sheet; numbers as plainly as they can be."""
    if value is None:
        return ""
    if isinstance(value, str | int):
        return str(value)
    return f"{float(value):.15g}" if isinstance(value, float | Decimal) else str(value)
