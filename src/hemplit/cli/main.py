"""The parser and the one place where errors become a line and an exit code.

Only light modules are imported here, so that ``hemplit --help`` answers at once; each command imports the heavy ones
when it runs.
"""

from __future__ import annotations

import argparse
import os
import sys
from contextlib import redirect_stderr, redirect_stdout
from typing import TYPE_CHECKING, NoReturn

from hemplit import __version__
from hemplit.cli import demo, dependencies, draft, load, look, prove, why
from hemplit.cli.screen import Screen
from hemplit.errors import WRONG_CALL_OR_INPUT, HemplitError

if TYPE_CHECKING:
    from collections.abc import Sequence
    from typing import TextIO

#: In the order in which people work. To add a command, add a module and put it here.
COMMANDS = (look, dependencies, draft, why, load, prove, demo)
INTERRUPTED = 130


class Parser(argparse.ArgumentParser):
    """Says in one line what is wrong with a call."""

    def error(self, message: str) -> NoReturn:
        self.exit(WRONG_CALL_OR_INPUT, f"{self.prog}: {' '.join(message.split())}; see {self.prog} --help\n")


def parser() -> argparse.ArgumentParser:
    """The whole command line."""
    whole = Parser(
        prog="hemplit",
        description="Turns flat sheets into normalised tables in a database, and proves that nothing was lost.",
        epilog="Start with: hemplit demo",
    )
    whole.add_argument("--version", action="version", version=f"hemplit {__version__}")
    commands = whole.add_subparsers(title="commands", metavar="COMMAND", required=True, parser_class=Parser)
    for module in COMMANDS:
        command = commands.add_parser(
            module.NAME,
            help=module.HELP,
            description=f"{module.HELP[0].upper()}{module.HELP[1:]}.",
            epilog=f"example:\n  {module.EXAMPLE}",
            formatter_class=argparse.RawDescriptionHelpFormatter,
        )
        module.arguments(command)
        command.set_defaults(command=module.run)
    return whole


def main(arguments: Sequence[str], stdout: TextIO, stderr: TextIO) -> int:
    """Runs one command and returns the exit code: 0 done and proven, 1 look at it, 2 the call or the input is wrong."""
    try:
        with redirect_stdout(stdout), redirect_stderr(stderr):
            given = parser().parse_args(arguments)
    except SystemExit as stop:
        return int(stop.code or 0)
    screen = Screen(stdout, stderr, as_json=getattr(given, "json", False))
    try:
        code: int = given.command(given, screen)
        stdout.flush()
    except HemplitError as error:
        screen.close()
        print(f"hemplit: {error}", file=stderr)
        return WRONG_CALL_OR_INPUT
    except KeyboardInterrupt:
        screen.close()
        print("hemplit: stopped; nothing half-written is left", file=stderr)
        return INTERRUPTED
    finally:
        screen.close()
    return code


def run() -> NoReturn:
    """The ``hemplit`` command."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="replace")
    try:
        code = main(sys.argv[1:], sys.stdout, sys.stderr)
    except BrokenPipeError:
        # The reader of a pipe has gone; what is still buffered has nowhere to go.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        code = 0
    sys.exit(code)
