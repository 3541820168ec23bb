"""The parser and the one place where errors become a line and an exit code.

Only light modules are imported here, so that ``hemplit --help`` answers at once; each command imports the heavy ones
when it runs.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import sys
from contextlib import redirect_stderr, redirect_stdout
from functools import cache
from typing import TYPE_CHECKING, NoReturn

from hemplit import __version__
from hemplit.cli import demo, dependencies, draft, draw, help, load, look, prove, tally, topup, why
from hemplit.cli.quickly import start_quickly
from hemplit.cli.screen import NARROWEST, WIDEST, Screen
from hemplit.errors import DONE, FAULT, WRONG_CALL_OR_INPUT, HemplitError, visible

if TYPE_CHECKING:
    from collections.abc import Sequence
    from typing import TextIO

#: In the order in which people work. To add a command, add a module and put it here.
COMMANDS = (look, dependencies, draft, why, draw, load, prove, tally, topup, demo, help)
INTERRUPTED = 130
SIGNS = "signs: ✓ done  ! look at this  ? your choice  – left out  · none"
FIRST = """\
Hemplit turns flat sheets into tables of a database, and checks that nothing was lost.

  hemplit demo                                    see it work on made-up sheets
  hemplit look FILE                               look at a sheet of yours
  hemplit draft FILE                              propose tables for it
  hemplit load FILE.design.toml --into DB.sqlite  load them

hemplit --help lists all commands, hemplit COMMAND --help explains one.
"""


class Parser(argparse.ArgumentParser):
    """Says in one line what is wrong with a call."""

    def error(self, message: str) -> NoReturn:
        self.exit(WRONG_CALL_OR_INPUT, f"{self.prog}: {visible(' '.join(message.split()))}; see {self.prog} --help\n")


@cache
def parser() -> argparse.ArgumentParser:
    """The whole command line."""
    whole = Parser(
        prog="hemplit",
        description="Turns flat sheets into normalised tables in a database, and proves that nothing was lost.",
        epilog="Start with: hemplit demo",
    )
    whole.add_argument("--version", action="version", version=f"hemplit {__version__}")
    commands = whole.add_subparsers(title="commands", metavar="COMMAND", parser_class=Parser)
    whole.set_defaults(command=_say_first, width=None, timings=False)
    for module in COMMANDS:
        command = commands.add_parser(
            module.NAME,
            help=module.HELP,
            description=f"{module.HELP[0].upper()}{module.HELP[1:]}.",
            epilog=f"example:\n  {module.EXAMPLE}\n\n{SIGNS}",
            formatter_class=argparse.RawDescriptionHelpFormatter,
        )
        module.arguments(command)
        command.add_argument("--width", type=_width, metavar="N", help="how wide lines may be, from 40 to 200")
        command.add_argument("--timings", action="store_true", help="say in the end how long each stop took")
        command.set_defaults(command=module.run)
    return whole


def _say_first(given: argparse.Namespace, screen: Screen) -> int:
    """What to do first, for somebody who has typed no command."""
    screen.stdout.write(FIRST)
    return DONE


def _width(text: str) -> int:
    if not text.isdigit() or not NARROWEST <= int(text) <= WIDEST:
        raise argparse.ArgumentTypeError(f"'{text}' is not a number from {NARROWEST} to {WIDEST}")
    return int(text)


def main(arguments: Sequence[str], stdout: TextIO, stderr: TextIO) -> int:
    """Runs one command and returns the exit code.

    0 done and proven, 1 look at it, 2 the call or the input is wrong, 3 a fault of ours.
    """
    try:
        with redirect_stdout(stdout), redirect_stderr(stderr):
            given = parser().parse_args(arguments)
    except SystemExit as stop:
        return int(stop.code or 0)
    as_json = getattr(given, "json", False)
    screen = Screen(stdout, stderr, as_json=as_json, width=given.width, timed=given.timings)
    try:
        code: int = given.command(given, screen)
        stdout.flush()
        screen.tell_times()
    except HemplitError as error:
        screen.close()
        print(f"hemplit: {_problems(error)}", file=stderr)
        return WRONG_CALL_OR_INPUT
    except KeyboardInterrupt as stopped:
        screen.close()
        said = str(stopped) or "nothing was written"
        print(f"hemplit: stopped; {visible(said)}", file=stderr)
        return INTERRUPTED
    except BrokenPipeError:
        raise
    except OSError as error:
        screen.close()
        print(f"hemplit: {visible(_said(error))}", file=stderr)
        return WRONG_CALL_OR_INPUT
    except Exception as error:  # noqa: BLE001 (what nobody foresaw is ours to mend, and the person gets one line)
        screen.close()
        print(f"hemplit: {visible(_fault(error, arguments))}", file=stderr)
        return FAULT
    finally:
        screen.close()
    return code


def _problems(error: HemplitError) -> str:
    """One line, or a line for each of several problems."""
    if not error.further:
        return str(error)
    several = dict.fromkeys(map(str, (error, *error.further)))
    lines = (f"  {number} {one}" for number, one in enumerate(several, 1))
    return "\n".join([f"{len(several)} problems, and nothing was written", *lines])


def _said(error: OSError) -> str:
    where = f"{error.filename}: " if error.filename else "the output: "
    return f"{where}{error.strerror or error}; look at the disk, the name and your rights there"


def _fault(error: Exception, arguments: Sequence[str]) -> str:
    """One line for what should never happen, and a file with all that helps to find it."""
    import platform
    import tempfile
    import traceback

    what = f"{type(error).__name__}: {' '.join(str(error).split())}"[:200]
    lines = [
        f"hemplit {__version__}, Python {platform.python_version()}, {platform.platform()}",
        f"called with: {' '.join(map(repr, arguments))}",
        "",
        *traceback.format_exception(error),
    ]
    report = "\n".join(lines).encode("utf-8", "backslashreplace")
    for folder in (".", tempfile.gettempdir()):
        with contextlib.suppress(OSError):
            handle, name = tempfile.mkstemp(prefix="hemplit-report-", suffix=".txt", dir=folder)
            os.write(handle, report)
            os.close(handle)
            return f"a fault of Hemplit's own ({what}); please send us {name}"
    return f"a fault of Hemplit's own ({what}); there is no place to write a report to"


def _complete() -> None:
    """Answers a shell that asks how a line goes on, and ends, if the library for that is there."""
    try:
        import argcomplete
    except ImportError:
        return
    argcomplete.autocomplete(parser())


def run() -> NoReturn:
    """The ``hemplit`` command."""
    start_quickly()
    if "_ARGCOMPLETE" in os.environ:
        _complete()
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="backslashreplace")
    # Without an output, as some services start programs, there is nothing to write to.
    stdout, stderr = (stream or open(os.devnull, "w") for stream in (sys.stdout, sys.stderr))  # noqa: SIM115, PTH123
    try:
        code = main(sys.argv[1:], stdout, stderr)
    except BrokenPipeError:
        code = DONE
        _throw_away(stdout)
    try:
        stdout.flush()
    except OSError:
        _throw_away(stdout)
    with contextlib.suppress(OSError):
        stderr.flush()
    # All is written and closed by then; taking the interpreter apart would need as long as reading a sheet.
    os._exit(code)


def _throw_away(stdout: TextIO) -> None:
    """The reader of a pipe has gone, or the disk is full; what is still buffered has nowhere to go."""
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), stdout.fileno())
