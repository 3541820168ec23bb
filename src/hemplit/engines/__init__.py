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

#: The engines by name: the module, and its class.
ENGINES = {
    "duckdb": ("hemplit.engines.duckdb", "DuckdbEngine"),
    "spark": ("hemplit.engines.spark", "SparkEngine"),
}


def engine_of(text: str, folder: Path, memory: str) -> FileEngine:
    """The engine of a name or an address, which puts on disk in a folder what the given amount of memory does not hold.

    Raises ``InputError`` if there is none, or what it needs is not installed.
    """
    name, is_address, _ = text.partition("://")
    if name not in ENGINES:
        raise InputError(f"--engine {text}", "there is no such engine", nearest(name, ENGINES))
    module, made = ENGINES[name]
    try:
        return getattr(import_module(module), made)(folder, memory, text if is_address else "")
    except ModuleNotFoundError as error:
        hint = f"pip install 'hemplit[{name}]'"
        raise InputError(f"--engine {text}", f"the package {error.name} is not installed", hint) from error
