"""Engines that run SQL where the data lies, for sheets that are larger than memory: one module per engine.

To add one, add a module with a class of ``contract.Engine`` and a line below.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

from hemplit.errors import InputError, nearest

if TYPE_CHECKING:
    from pathlib import Path

    from hemplit.engines.contract import FileEngine
    from hemplit.engines.server import ServerEngine
    from hemplit.targets.sql.session import Session

#: The engines by name: the module, and its class. Some take files, some work in the database in which the sheet lies.
ENGINES = {
    "duckdb": ("hemplit.engines.duckdb", "DuckdbEngine"),
    "spark": ("hemplit.engines.spark", "SparkEngine"),
}
SERVERS = {
    "postgresql": ("hemplit.engines.postgresql", "PostgresqlEngine"),
    "mariadb": ("hemplit.engines.mariadb", "MariadbEngine"),
}


def engine_of(text: str, folder: Path, memory: str) -> FileEngine:
    """The engine of a name or an address, which puts on disk in a folder what the given amount of memory does not hold.

    Raises ``InputError`` if there is none, or what it needs is not installed.
    """
    name, is_address, _ = text.partition("://")
    if name not in ENGINES:
        raise InputError(f"--engine {text}", "there is no such engine", nearest(name, [*ENGINES, *SERVERS]))
    module, made = ENGINES[name]
    try:
        return getattr(import_module(module), made)(folder, memory, text if is_address else "")
    except ModuleNotFoundError as error:
        hint = f"pip install 'hemplit[{name}]'"
        raise InputError(f"--engine {text}", f"the package {error.name} is not installed", hint) from error


def server_engine(name: str, session: Session) -> ServerEngine:
    """The engine of that name, on the connection of a target."""
    module, made = SERVERS[name]
    engine: ServerEngine = getattr(import_module(module), made)(session)
    return engine
