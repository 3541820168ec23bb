"""``hemplit load``: splits, loads and proves."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.cli import options
from hemplit.errors import DONE, LOOK_AT_IT, InputError, without_password

if TYPE_CHECKING:
    import argparse
    from typing import Any

    from hemplit.cli.screen import Screen
    from hemplit.flow.loading import Loaded
    from hemplit.flow.reading import Sheets

NAME = "load"
HELP = "split the sheets into tables, load them into a database, and verify that nothing was lost"
EXAMPLE = "hemplit load demo/jobs.csv --into demo/boatyard.sqlite"


#: So many questions that can be asked now are shown.
MOST_ASKED = 3


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument(
        "inputs", nargs="+", metavar="DESIGN|SHEET", help="one design file, or sheets for which one is drafted"
    )
    options.into(parser, f"where the tables go: {options.TARGETS}")
    parser.add_argument(
        "--replace",
        action="store_true",
        help="replace the tables that Hemplit made in a database that is there already; others stay",
    )
    parser.add_argument(
        "--dialect",
        default="",
        metavar="DATABASE",
        help="for which database a script is: sqlite (as if not given), postgresql or mariadb",
    )
    parser.add_argument("--schema-only", action="store_true", help="a script that makes the tables, without their rows")
    parser.add_argument("--parquet", action="store_true", help="a folder of Parquet files, not of CSV")
    parser.add_argument(
        "--engine",
        default="",
        metavar="NAME",
        help="for sheets larger than memory: duckdb or spark for files, postgresql or mariadb for tables",
    )
    parser.add_argument("--memory", default="", metavar="AMOUNT", help="how much an engine may take, such as 4GB")
    parser.add_argument("--sql", action="store_true", help="print the statements by which an engine made the tables")
    options.skip_broken(parser)
    options.area(parser)
    parser.add_argument("--dry-run", action="store_true", help="say what would be loaded, and write nothing")
    options.details(parser)
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Loads and shows the tables and the proof."""
    from hemplit.flow import loading, reading

    if given.engine:
        return _in_engine(given, screen)
    if given.memory:
        raise InputError(f"--memory {given.memory}", "only an engine keeps to it", "name one with --engine")
    if given.sql:
        raise InputError("--sql", "only an engine splits a sheet by statements", "name one with --engine")
    into = options.target(given)
    shown = without_password(into if "://" in into else given.into)
    _say_replaced(given, into, shown, screen)
    designs = [] if _is_drafted(given) else given.inputs
    if designs and given.area:
        raise InputError(f"--area {given.area}", "a design says itself which cells it takes", "leave it out")
    if designs:
        loaded = loading.load_design(
            Path(designs[0]),
            into,
            screen.progress,
            replace_target=given.replace,
            skip_broken=given.skip_broken,
            dry_run=given.dry_run,
        )
    else:
        sheets = reading.read(given.inputs, screen.progress, skip_broken=given.skip_broken, area=given.area)
        for note in sheets.notes:
            screen.note(note)
        loaded = loading.load_sheets(sheets, into, screen.progress, replace_target=given.replace, dry_run=given.dry_run)
    screen.close()
    unproven = (f"Not checked: {why}." for why in loaded.unproven)
    for note in (*(loaded.sheets.notes if designs else ()), *unproven):
        screen.note(note)
    if screen.as_json:
        _write_json(loaded, shown, screen)
    else:
        design = str(loaded.design_path or (designs or [""])[0])
        _show(loaded, shown, design, given, screen)
    return LOOK_AT_IT if loaded.needs_a_look else DONE


def _is_drafted(given: argparse.Namespace) -> bool:
    """Whether a design is to be drafted. Raises ``InputError`` for one that is given with other files."""
    from hemplit.flow import opening

    designs = [path for path in given.inputs if opening.is_design(path)]
    if designs and len(given.inputs) > 1:
        raise InputError(designs[0], "a design names its sheets itself", "give the design alone")
    return not designs


def _say_replaced(given: argparse.Namespace, into: str, shown: str, screen: Screen) -> None:
    """What will be gone, before it is."""
    from hemplit.flow import loading

    gone = loading.replaced(into) if given.replace and not given.dry_run else ()
    if gone:
        screen.note(f"Replacing what Hemplit made in {shown}: {', '.join(gone)}.")


def _in_engine(given: argparse.Namespace, screen: Screen) -> int:
    """Loads files that are larger than memory inside an engine."""
    from hemplit.flow import drawing, in_engine
    from hemplit.views import document
    from hemplit.views.loads import show_proof, show_tables, show_told
    from hemplit.views.style import following, title

    for name in ("area", "schema", "dialect", "schema_only", "skip_broken", "dry_run"):
        if getattr(given, name):
            raise InputError(f"--{name.replace('_', '-')}", "an engine does not take it", "leave it out, or --engine")
    is_drafted = _is_drafted(given)
    shown = without_password(given.into)
    _say_replaced(given, given.into, shown, screen)
    made = in_engine.load(
        given.inputs, given.into, given.engine, screen.progress, memory=given.memory, over=given.replace
    )
    screen.close()
    for note in made.notes:
        screen.note(note)
    if screen.as_json:
        told = document.told(made.told)
        tables = document.loaded(made.tables, made.proof)
        further = {"drafted_from_rows": made.sampled, "sql": list(made.statements)}
        screen.write_json({"target": shown, **tables, "told": told, "sheets": _changes(made.sheets), **further})
        return LOOK_AT_IT if made.needs_a_look else DONE
    show_proof(screen.console, made.proof, str(made.left_out or ""), details=given.details)
    show_told(screen.console, made.told)
    show_tables(screen.console, made.tables, shown)
    if given.sql:
        title(screen.console, "statements", "each sheet is staged under hemplit_staged_…, with a number for each row")
        screen.stdout.write("\n" + "\n\n".join(made.statements) + "\n\n")
    if is_drafted:
        if made.sampled < made.proof.rows:
            screen.note(f"Drafted from {made.sampled:,} of {made.proof.rows:,} rows, and verified on all of them.")
        screen.note(f"The design is in {made.design_path}.")
    following(screen.console, f"hemplit draw {made.design_path} --out {drawing.title_of(made.design_path)}.svg")
    return LOOK_AT_IT if made.needs_a_look else DONE


def _write_json(loaded: Loaded, shown: str, screen: Screen) -> None:
    from hemplit.views import document

    told, changed = document.told(loaded.told), _changes(loaded.sheets)
    tables = document.loaded(loaded.tables, loaded.proof)
    exceptions = document.exceptions(loaded.exceptions)
    further = {"told": told, "exceptions": exceptions, "sheets": changed}
    screen.write_json({"target": shown, "news": document.news(loaded.news), **tables, **further})


def _changes(sheets: Sheets) -> list[dict[str, Any]]:
    """Every cell that a step changed, sheet by sheet."""
    from hemplit.flow import looking
    from hemplit.views import document

    return [{"sheet": name, **document.changes(looking.changes_of(sheets, name), ())} for name in sheets.grids]


def _show(loaded: Loaded, shown: str, design: str, given: argparse.Namespace, screen: Screen) -> None:
    """The verdict first, then what is to be looked at, then the tables."""
    from hemplit.flow import drawing, tallying
    from hemplit.views.exceptions import show_exceptions
    from hemplit.views.loads import show_news, show_proof, show_tables, show_told
    from hemplit.views.style import following

    show_proof(screen.console, loaded.proof, str(loaded.left_out or ""), details=given.details)
    show_news(screen.console, loaded.news)
    show_told(screen.console, loaded.told)
    show_exceptions(screen.console, loaded.exceptions)
    show_tables(screen.console, loaded.tables, shown)
    if given.dry_run:
        screen.note(f"Nothing was written to {shown}, as asked.")
        return
    if loaded.design_path is not None:
        screen.note(f"The design is in {design}.")
    asked = tallying.questions_of(loaded, options.target(given))[:MOST_ASKED]
    asking = (options.asking(one, design, given) for one in asked)
    following(screen.console, f"hemplit draw {design} --out {drawing.title_of(Path(design))}.svg", *asking)
