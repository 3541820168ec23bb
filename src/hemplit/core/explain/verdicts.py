"""What was decided of a dependency, in words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.draft.bands import is_in_ranges
from hemplit.core.draft.judge import judge
from hemplit.core.draft.keys import base_key
from hemplit.core.draft.sorts import why_never
from hemplit.core.draft.verdict import weight

if TYPE_CHECKING:
    from hemplit.core.draft.verdict import Verdict
    from hemplit.core.model.design import Design
    from hemplit.core.model.findings import Findings


def verdicts_of(design: Design, sheet: str, found: Findings) -> tuple[Verdict, ...]:
    """What was decided of each candidate of a sheet, the best first."""
    computed = {
        column.source or ""
        for table in design.tables_of(sheet)
        for column in table.columns
        if column.formula is not None
    }
    listed = {
        frozenset(table.headers_in(sheet, column)): [name for one in pointed.table.columns for name in one.all_headers]
        for table in design.tables_of(sheet)
        for column in table.columns
        for pointed in [resolve.target(design, table, column)]
        if pointed is not None and resolve.is_across(table, column, pointed, sheet)
    }
    verdicts = judge(found, base_key(found, computed), computed, listed)
    return tuple(sorted(verdicts, key=lambda one: (-weight((*one.of_thing, *one.of_pair)), one.left, one.right)))


def said_of(left: tuple[str, ...], right: str, decided: Verdict | None, found: Findings) -> str:
    """Why a dependency that holds was not followed."""
    if left in found.keys:
        return "it identifies every row, so it determines everything"
    if any((band.by, band.name) == (left[0], right) and is_in_ranges(found.by_name[band.by]) for band in found.bands):
        return "it depends on ranges of a number"
    if any(other.left == (right,) and other.right == left[0] for other in found.dependencies):
        return "the two determine each other"
    if decided is not None:
        return decided.why_not or "something nearer determines both"
    return why_never(found.by_name[left[0]]) or f"no row repeats a '{left[0]}', so no row could contradict it"
