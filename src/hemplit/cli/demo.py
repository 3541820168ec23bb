"""``hemplit demo``: writes the demo sheets and runs the whole way on them."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.errors import DONE, LOOK_AT_IT, InputError

if TYPE_CHECKING:
    import argparse

    from hemplit.cli.screen import Screen

NAME = "demo"
HELP = "write the sheets of a made-up boatyard, and look, draft, load and prove them"
EXAMPLE = "hemplit demo demo"


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("folder", nargs="?", default="demo", metavar="FOLDER", help="where the files go (demo)")


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Shows each command as it would be typed, and what it says."""
    from hemplit.demo.sheets import HAUL_OUTS, JOBS, PARTS, ROSTER, write_sheets
    from hemplit.flow import designs, loading, reading, studying
    from hemplit.views.designs import show_design
    from hemplit.views.loads import show_proof, show_tables, show_told
    from hemplit.views.previews import show_overview, show_together
    from hemplit.views.sheets import show_sheet
    from hemplit.views.style import heading

    folder = Path(given.folder)
    try:
        names = write_sheets(folder)
    except FileExistsError as error:
        raise InputError(
            str(error), "this file is not the demo's, and it stays as it is", "name another folder"
        ) from error
    except OSError as error:
        raise InputError(given.folder, f"it cannot be written ({error.strerror})", "name another folder") from error
    screen.note(f"{len(names)} sheets are in {folder}: {', '.join(names[:3])} and {len(names) - 3} more.")
    paths = [str(folder / name) for name in (JOBS, PARTS, ROSTER, HAUL_OUTS)]
    typed = " ".join(paths)
    out, target = folder / "boatyard.design.toml", str(folder / "boatyard.sqlite")

    heading(screen.console, f"hemplit look {typed}")
    sheets = reading.read(paths, screen.progress)
    found = studying.findings(sheets, screen.progress)
    together = studying.together(sheets, found)
    screen.close()
    show_overview(screen.console, found)
    show_together(screen.console, together, found)
    for one in found.values():
        show_sheet(screen.console, one)
    heading(screen.console, f"hemplit draft {typed} --out {out}")
    design = designs.save_design(studying.draft(sheets, screen.progress), out, over_edited=False)
    screen.close()
    show_design(screen.console, design, designs.row_counts(design, sheets))
    heading(screen.console, f"hemplit load {out} --into {target} --replace")
    loaded = loading.load_design(out, target, replace_target=True, progress=screen.progress)
    screen.close()
    show_proof(screen.console, loaded.proof, str(loaded.left_out or ""))
    show_told(screen.console, loaded.told)
    show_tables(screen.console, loaded.tables, target)
    heading(screen.console, f"hemplit prove {out} --into {target}")
    proven = loading.prove_design(out, target, screen.progress)
    screen.close()
    show_proof(screen.console, proven.proof)
    show_told(screen.console, proven.told)
    screen.note(
        f"\nOpen {out} in an editor to see the design and its reasons,\nand {target} in any database browser."
        f"\nTry a sheet of your own next: hemplit look FILE"
    )
    return DONE if loaded.proof.holds and proven.proof.holds else LOOK_AT_IT
