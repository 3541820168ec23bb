"""What ``look`` shows beside the findings: what the steps change in a sheet, and what a target holds already."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit import files
from hemplit.core.proof.changes import changes, proposals

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.proof import Change
    from hemplit.core.model.tables import Peek
    from hemplit.flow.reading import Sheets


def changes_of(sheets: Sheets, name: str) -> Iterator[Change]:
    """Every cell of a sheet that a step changed."""
    own, *children = (sheets.relations[one] for one in sheets.family(name))
    return changes(sheets.grids[name], own, children)


def proposals_of(sheets: Sheets, name: str) -> Iterator[tuple[str, list[Change]]]:
    """What each proposed step of a sheet would change."""
    return proposals(sheets.grids[name], sheets.relations[name])


def peek(text: str, rows: int, *, schema: str = "") -> tuple[Peek, ...] | None:
    """What Hemplit made in a target; None if the text means sheets, or a database into which it has loaded nothing."""
    address = files.is_address(text)
    if "#" in text or not (address or (Path(text).is_file() and files.is_database(text))):
        return None
    # The libraries of databases, which a look at sheets needs none of.
    from hemplit.targets import target_for

    place = target_for(f"{text}#{schema}" if schema else text)
    if address:
        place.check_held()
    return place.peek(rows) or None
