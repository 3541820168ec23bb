"""Options that several commands have."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import argparse


def skip_broken(parser: argparse.ArgumentParser) -> None:
    """Whether to go on without the files of a folder that cannot be read."""
    parser.add_argument(
        "--skip-broken", action="store_true", help="go on without the files of a folder that cannot be read, and say so"
    )


def area(parser: argparse.ArgumentParser) -> None:
    """Which cells of a sheet are the table."""
    parser.add_argument(
        "--area", default="", metavar="RANGE", help="the cells that are the table, such as A4:M177; else it is found"
    )
