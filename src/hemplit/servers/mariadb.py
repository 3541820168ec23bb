"""Connections to MariaDB and MySQL."""

from __future__ import annotations

import os
from functools import cache, partial
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING, Any
from urllib.parse import parse_qs, unquote, urlsplit

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.errors import TargetError

if TYPE_CHECKING:
    import ssl
    from collections.abc import Iterator, Sequence

SCHEMES = ("mariadb", "mysql")
EXAMPLE = "write mariadb://HOST/DATABASE"
ACCESS_DENIED, NO_DATABASE, NOT_ENCRYPTED = 1045, (1044, 1049), 2026
#: Rows come back in pieces of so many.
PIECE = 1 << 16


def connect(address: str, where: str) -> Any:
    """A connection to the database of an address, which errors call ``where``. Raises ``TargetError``."""
    try:
        import pymysql
    except ImportError as error:
        what = "MariaDB and MySQL need a library that is not installed"
        raise TargetError(where, what, 'pip install "hemplit[mariadb]"') from error
    try:
        given = urlsplit(address)
        port = given.port
    except ValueError as error:
        raise TargetError(where, f"this is no address ({error})", EXAMPLE) from error
    database = database_of(address)
    if not database:
        raise TargetError(where, "the address names no database", EXAMPLE)
    settings = Path("~/.my.cnf").expanduser()
    asked = parse_qs(given.query)
    password = (
        unquote(given.password) if given.password else asked.get("password", [os.environ.get("MYSQL_PWD", "")])[0]
    )
    named = {"host": given.hostname, "port": port, "user": unquote(given.username or ""), "password": password}
    told: dict[str, Any] = {name: value for name, value in named.items() if value}
    if settings.is_file():
        told["read_default_file"] = str(settings)
    if "unix_socket" in asked:
        told["unix_socket"] = asked["unix_socket"][0]
    connecting = partial(
        pymysql.connect, **told, database=database, charset="utf8mb4", connect_timeout=10, autocommit=False
    )
    try:
        if settings.is_file():
            return connecting()  # they may say how to encrypt
        try:
            return connecting(ssl=_encrypted())
        except pymysql.OperationalError as error:
            if error.args[0] != NOT_ENCRYPTED:
                raise
            return connecting(ssl_disabled=True)
    except (pymysql.Error, OSError) as error:
        raise TargetError(where, *_why_not_reached(error)) from error


@cache
def _encrypted() -> ssl.SSLContext:
    """Encryption where the server has it, as the driver has it, which reads all certificates of the system each time.

    That takes 40 ms for a connection, and looks at none of them.
    """
    import ssl  # few start with a server

    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    return context


def database_of(address: str) -> str:
    """The name of the database."""
    return unquote(urlsplit(address).path.strip("/"))


def fetched(connection: Any, query: str, types: Sequence[pa.DataType] | None = None) -> Iterator[pa.Table]:
    """The rows of a query in pieces, as the server writes them, their columns called by their places.

    They have these types, or all are texts if what the query gives does not fit them.
    """
    from pymysql.cursors import SSCursor

    decoders, connection.decoders = connection.decoders, {}
    try:
        with connection.cursor(SSCursor) as cursor:
            cursor.execute(query)
            count = len(cursor.description)
            wanted = types if types is not None and count == len(types) else [pa.string()] * count
            given = False
            rows = cursor.fetchall_unbuffered()
            while piece := list(islice(rows, PIECE)):
                given = True
                columns = [pa.array(map(_text, column), pa.string()) for column in zip(*piece, strict=True)]
                yield _typed(columns, wanted)
    finally:
        connection.decoders = decoders
    if not given:
        yield _typed([pa.array([], pa.string()) for _ in wanted], wanted)


def _text(value: Any) -> str | None:
    """A value as the server writes it."""
    if isinstance(value, bytes):
        return value.decode(errors="backslashreplace")
    return None if value is None else str(value)


def _typed(columns: Sequence[pa.Array], types: Sequence[pa.DataType]) -> pa.Table:
    """The columns in these types, or all as texts if one does not fit."""
    names = [str(place) for place in range(len(columns))]
    try:
        cast = [pc.cast(column, one) for column, one in zip(columns, types, strict=True)]
    except pa.ArrowInvalid:
        cast = list(columns)
    return pa.table(cast, names=names)


def _why_not_reached(error: Exception) -> tuple[str, str]:
    """What a failed connection means, and what to do."""
    code, said = (error.args[0] if error.args else 0), " ".join(str(error.args[-1] if error.args else error).split())
    if code == ACCESS_DENIED:
        return f"the server refuses the password ({said})", "give it in the address, in MYSQL_PWD or in ~/.my.cnf"
    if code in NO_DATABASE:
        return f"the server refuses the connection ({said})", "look at user and database in the address"
    return f"the server cannot be reached ({said})", "look at host, port and whether the server runs"
