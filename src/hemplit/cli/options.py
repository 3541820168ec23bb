"""Options that several commands have."""

from __future__ import annotations

import os
import shlex
from typing import TYPE_CHECKING

from hemplit.errors import TargetError, without_password

if TYPE_CHECKING:
    import argparse

    from hemplit.core.model.tally import Ask

TARGETS = "NAME.sqlite, postgresql://HOST/DATABASE, mariadb://HOST/DATABASE, NAME.sql, NAME.xlsx or a folder NAME/"


def into(parser: argparse.ArgumentParser, what: str) -> None:
    """The target, and the schema in it."""
    parser.add_argument("--into", required=True, metavar="TARGET", help=what)
    parser.add_argument("--schema", default="", metavar="NAME", help="the schema of a database; else its usual one")


def target(given: argparse.Namespace) -> str:
    """The target that is meant, with its schema behind a #."""
    text = str(given.into)
    if given.schema and "://" not in text:
        raise TargetError(f"--schema {given.schema}", f"{text} has no schemas", "leave it out")
    if given.schema and "#" in text:
        raise TargetError(f"--schema {given.schema}", "the address names a schema, too", "leave one of them out")
    words = [given.schema, getattr(given, "dialect", ""), "schema-only" if getattr(given, "schema_only", False) else ""]
    if any(words[1:]) and not text.lower().endswith(".sql"):
        raise TargetError(text, "only an SQL script has a --dialect or is --schema-only", "name a file: NAME.sql")
    if getattr(given, "parquet", False):
        if not text.endswith(("/", os.sep)):
            raise TargetError(text, "only a folder of files has --parquet", "name a folder: NAME/")
        words.append("parquet")
    return "#".join([text, " ".join(filter(None, words))]).rstrip("#")


def asking(ask: Ask, design: str, given: argparse.Namespace) -> str:
    """The command that asks a question of the target of a call."""
    words = ["hemplit", "tally", design, "--into", without_password(given.into)]
    words += ["--schema", given.schema] if given.schema else []
    words += ["--of", ", ".join(ask.of)]
    words += ["--by", ", ".join(ask.by)] if ask.by else []
    words += ["--across", ask.across] if ask.across else []
    words += [word for condition in ask.where for word in ("--where", condition)]
    return shlex.join(words)


def with_schema(text: str, schema: str) -> str:
    """What is named on the command line, with the schema of a database behind a #."""
    if schema and ("://" not in text or "#" in text):
        raise TargetError(f"--schema {schema}", f"{text} has no schemas, or names one", "leave it out")
    return f"{text}#{schema}" if schema else text


def skip_broken(parser: argparse.ArgumentParser) -> None:
    """Whether to go on without the files of a folder that cannot be read."""
    parser.add_argument(
        "--skip-broken", action="store_true", help="go on without the files of a folder that cannot be read, and say so"
    )


def details(parser: argparse.ArgumentParser) -> None:
    """Whether every check is shown."""
    parser.add_argument("--details", action="store_true", help="show every check, and where all cells went")


def area(parser: argparse.ArgumentParser) -> None:
    """Which cells of a sheet are the table."""
    parser.add_argument(
        "--area", default="", metavar="RANGE", help="the cells that are the table, such as A4:M177; else it is found"
    )
