"""Spark: files beyond memory on this machine, or on a cluster that sees the same folder."""

from __future__ import annotations

import logging
import os
import shutil
import warnings
from contextlib import contextmanager, suppress
from typing import TYPE_CHECKING, Self

import pyarrow as pa
import pyarrow.parquet
from py4j.protocol import Py4JError
from pyspark.errors import PySparkException
from pyspark.sql import SparkSession

from hemplit.core.kinds.calendar import directives
from hemplit.engines.contract import EngineDialect, Staging
from hemplit.errors import InputError, TargetError
from hemplit.targets.sql.dialect import pattern_of
from hemplit.targets.sql.terms import Term, call, whole

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence
    from pathlib import Path

    from hemplit.core.model.relation import Kind

TYPES = {
    "whole number": "BIGINT",
    "decimal": "DOUBLE",
    "date": "DATE",
    "date and time": "TIMESTAMP_NTZ",
    "yes/no": "BOOLEAN",
    "text": "STRING",
}
#: What Spark may take if nobody says.
MEMORY = "2g"
#: Into so many parts for each core rows are put here; with the 200 of a cluster, 10^6 rows take twice as long.
PARTS_OF_A_CORE = 4


class SparkDialect(EngineDialect):
    """Standard SQL with backticks, and backslashes in texts."""

    name = "Spark"
    mark = "`"
    long_text = "STRING"
    double = "DOUBLE"
    #: Of a question to a few rows nine tenths are planning: six in one take 0.5 seconds, and one by one 1.2.
    is_asked_at_once = True

    def literal(self, text: str) -> str:
        return "'" + text.replace("\\", "\\\\").replace("'", "\\'") + "'"

    def same(self, one: str, other: str) -> str:
        """The condition that two expressions say the same; two blanks do."""
        return f"{one} <=> {other}"

    def type_of(self, kind: str) -> str:
        """The type for a kind of values. Raises ``TargetError`` for the one that there is not."""
        if kind not in TYPES:
            raise TargetError("--engine spark", f"Spark has no type for a {kind}", "take --engine duckdb")
        return TYPES[kind]

    def summed(self, columns: Sequence[str]) -> tuple[str, ...]:
        """Expressions over all rows that differ if these do, in whatever order the rows come."""
        # A blank leaves the hash as it is, wherever it stands.
        row = ", ".join(f"{column}, {column} IS NULL" for column in columns)
        return (f"sum(CAST(xxhash64({row}) AS DECIMAL(38, 0)))", f"bit_xor(xxhash64({row}, 1))")

    def weekday(self, date: Term) -> Term:
        return call("weekday", date) + whole(1)

    def keeps_form(self, column: Term, form: str) -> Term:
        return column.compared("RLIKE", self.value(f"^{pattern_of(form)}$"))

    def dated(self, column: Term, kind: Kind) -> Term:
        return call("date_format", column, self.value(directives(kind.form)))


class SparkEngine:
    """A session, here or on the cluster of an address, and a folder for what it keeps meanwhile."""

    dialect: EngineDialect = SparkDialect()

    def __init__(self, folder: Path, memory: str, address: str = "") -> None:
        self._folder, self._count = folder, 0
        self._folders: dict[str, Path] = {}
        size = (memory or MEMORY).lower().removesuffix("b")
        if not size[:-1].isdigit() or size[-1:] not in ("m", "g"):
            raise InputError(f"--memory {memory}", "this is no amount", "write for example --memory 4GB")
        if shutil.which("java") is None and not os.environ.get("JAVA_HOME"):
            hint = "install Java 17 or newer, or take --engine duckdb"
            raise InputError("--engine spark", "it needs Java, which is not installed", hint)
        settings = {
            "spark.driver.memory": size,
            "spark.local.dir": str(folder / "spilled"),
            "spark.sql.warehouse.dir": str(folder / "warehouse"),
            "spark.ui.enabled": "false",
            "spark.ui.showConsoleProgress": "false",
            "spark.log.level": "OFF",
            "spark.sql.session.timeZone": "UTC",
        }
        if not address:
            settings["spark.sql.shuffle.partitions"] = str(PARTS_OF_A_CORE * (os.cpu_count() or 1))
        builder = SparkSession.builder.master(address or "local[*]").appName("hemplit")
        for name, value in settings.items():
            builder = builder.config(name, value)
        # What its bridge says to the root logger is told as an error, too.
        logging.getLogger().addHandler(logging.NullHandler())
        with _told(), _quietly():
            self._session = builder.getOrCreate()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *raised: object) -> None:
        with suppress(TargetError), _told(), warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of a process that is gone, which is told already
            self._session.stop()

    def stage(self, name: str) -> Staging:
        """Takes rows in pieces, and holds them under a name once all are there."""
        self._count += 1
        self._folders[name] = self._folder / f"staged{self._count}"
        return _Staging(self._session, name, self._folders[name])

    def create(self, name: str, query: str, by: Sequence[str]) -> None:
        """Makes a table of what a query finds, which others find by some columns."""
        del by  # tables are joined by hash
        path = str(self._folder / f"table_{name}")
        with _told():
            self._session.sql(query).write.mode("overwrite").parquet(path)
            self._session.read.parquet(path).createOrReplaceTempView(self.dialect.quote(name))

    def rows(self, query: str) -> pa.Table:
        """What a query finds, which is little."""
        with _told():
            return self._session.sql(query).toArrow()

    def save(self, name: str, columns: Mapping[str, str], order: str, path: Path) -> None:
        """Writes columns of a table as a Parquet file, each as the expression that is given for it."""
        quote = self.dialect.quote
        shown = ", ".join(f"{value} AS {quote(column)}" for column, value in columns.items())
        parts = self._folder / f"saved_{name}"
        with _told():
            rows = self._session.sql(f"SELECT {shown} FROM {quote(name)} ORDER BY {quote(order)}")
            rows.coalesce(1).write.mode("overwrite").parquet(str(parts))
        shutil.move(next(parts.glob("*.parquet")), path)

    def saved(self, path: Path) -> str:
        """A source of a query: the rows of a Parquet file."""
        # The session may have been begun in another folder.
        return f"parquet.{self.dialect.quote(str(path.absolute()))}"

    def drop(self, names: Sequence[str]) -> None:
        """Takes away tables and staged rows, as far as they are there."""
        for name in names:
            self._session.catalog.dropTempView(self.dialect.quote(name))
            if name in self._folders:
                shutil.rmtree(self._folders.pop(name), ignore_errors=True)


class _Staging:
    """Writes pieces of rows into a folder, a Parquet file for each."""

    def __init__(self, session: SparkSession, name: str, path: Path) -> None:
        self._session, self._name, self._path, self._count = session, name, path, 0
        path.mkdir()

    def add(self, rows: pa.Table) -> None:
        """Further rows. Raises ``TargetError`` for what Spark has no type for."""
        for field in rows.schema:
            if pa.types.is_time(field.type):
                what = f"Spark has no type for a time of day, which '{field.name}' holds"
                raise TargetError("--engine spark", what, "take --engine duckdb")
        pyarrow.parquet.write_table(rows, self._path / f"{self._count:06}.parquet")
        self._count += 1

    def close(self) -> None:
        """All rows are there."""
        with _told():
            self._session.read.parquet(str(self._path)).createOrReplaceTempView(SparkDialect().quote(self._name))


@contextmanager
def _told() -> Iterator[None]:
    """Says plainly what the cluster says. Raises ``TargetError``."""
    try:
        yield
    except (PySparkException, Py4JError) as error:  # before others, as the loss of the bridge comes in both ways
        first = (str(error).strip().splitlines() or [type(error).__name__])[0]
        what = f"Spark cannot go on ({first})"
        raise TargetError("--engine spark", what, "look at the memory and the disk") from error
    except ConnectionError as error:
        what = "Spark was stopped, as a rule for want of memory"
        raise TargetError("--engine spark", what, "give it more or, where the system stopped it, less") from error


@contextmanager
def _quietly() -> Iterator[None]:
    """Leaves out what the launcher writes to the terminal, past Python."""
    kept, nowhere = os.dup(2), os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 2)
    try:
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)
