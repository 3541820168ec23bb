"""Classes that follow from ranges of a number: a table of their lower limits, by which the view finds them again."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.draft.naming import without
from hemplit.core.draft.sorts import is_unbroken
from hemplit.core.model.design import ColumnPlan, Purpose, TablePlan
from hemplit.core.model.relation import TEXT
from hemplit.core.texts.words import is_identifier, is_measure, snake, words

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping, Sequence

    from hemplit.core.draft.entities import Entity
    from hemplit.core.model.findings import Band, ColumnFacts, Findings

#: So many limits of a table of bands are told in its reason.
FEW = 5
#: Whatever is numbered begins so.
FIRST = (0, 1)


def usable_bands(findings: Findings, home: Mapping[str, Entity], taken: Collection[str]) -> dict[str, Band]:
    """The classes that follow from a number which stands in the same table; ``taken`` columns have another part."""
    found: dict[str, Band] = {}
    for band in findings.bands:
        measured = is_in_ranges(findings.by_name[band.by])
        beside = home.get(band.name) is home.get(band.by)
        free = band.name not in taken and band.by not in taken
        # What was measured stands behind where and of what, and in each place it may have been another so far.
        behind = findings.by_name[band.by] in findings.before(band.name)
        if measured and beside and free and behind and findings.by_name[band.name].kind == TEXT:
            found.setdefault(band.name, band)
    return found


def is_in_ranges(number: ColumnFacts) -> bool:
    """Whether a column is of the sort whose ranges make classes: measured, and not numbered as trees 1 to 79 are."""
    said = words(number.name)
    numbered = is_unbroken(number) and number.lowest in FIRST and not is_measure(said)
    return number.kind.is_number and not is_identifier(said) and not numbered


def band_table(band: Band, name: str, sheet: str, about: Sequence[str], findings: Findings) -> TablePlan:
    """The table of the lower limits; ``about`` are the words for the thing whose class it is."""
    limit = f"from_{snake(without(words(band.by), about))}"
    columns = (
        ColumnPlan(limit, findings.by_name[band.by].kind, lowest=band.by, required=True),
        ColumnPlan("name", TEXT, (band.name,), required=True),
    )
    limits = ", ".join(f"{shown} from {lowest}" for lowest, shown in band.limits[:FEW])
    more = ", …" if len(band.limits) > FEW else ""
    why = f"'{band.name}' depends on ranges of '{band.by}' in all {band.values} values: {limits}{more}"
    return TablePlan(name, sheet, Purpose.RANGE, (limit,), columns, unique=(("name",),), why=why)
