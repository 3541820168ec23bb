"""Questions that a design answers well: what its amounts come to by the things that rows name, and over time."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.model.tally import Ask
from hemplit.core.texts.vocabulary import CONTACT, MOMENT
from hemplit.core.texts.words import is_identifier, is_measure, words

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.design import Design
    from hemplit.core.model.tables import Table, Tables, View, ViewColumn

#: So many questions are enough to begin with, so many of one sheet.
MOST, OF_ONE = 5, 3
#: By fewer groups nothing is told apart, and more do not fit on a screen; so many go across at most.
FEWEST_GROUPS, MOST_GROUPS, MOST_ACROSS = 2, 40, 6


def questions(design: Design, tables: Tables) -> tuple[Ask, ...]:
    """Up to five questions, those to the largest sheets first, and to lists in their cells last."""
    own = {sheet.name for sheet in design.sheets if sheet.of is None}
    views = sorted(
        (view for view in tables.views if not view.lists),
        key=lambda view: (view.sheet not in own, -tables.by_name[view.base].row_count),
    )
    asked = [ask for view in views for ask in [*_of_view(design, tables, view)][:OF_ONE]]
    return tuple(asked[:MOST])


def _of_view(design: Design, tables: Tables, view: View) -> Iterator[Ask]:
    base = tables.by_name[view.base]
    numbering = {
        one.gathered.order
        for other in tables.views
        for one in other.columns
        if one.gathered and one.gathered.view == view.name
    }
    amounts = (one for one in view.columns if _is_amount(one, base) and one.header not in numbering)
    measures = sorted(amounts, key=_order)
    groups = [one.header for one in view.columns if _is_name(design, tables, one)]
    across = [one.header for one in view.columns if _is_name(design, tables, one, MOST_ACROSS)]
    days = [one.header for one in view.columns if not one.path and one.kind.word == "date"]
    first = measures[0].header if measures else f"number of {base.name}"
    if groups:
        yield Ask((first,), (groups[0],))
    if days:
        yield Ask((first,), (f"month of {days[0]}",), across=next((one for one in across if one not in groups[:1]), ""))
    if measures and len(groups) > 1:
        yield Ask((f"number of {base.name}", f"average of {first}"), (groups[1],))


def _is_amount(column: ViewColumn, base: Table) -> bool:
    """Whether a column is a number of the rows themselves that can be added up: no year, telephone or number of a
    thing."""
    said = words(column.header)
    numbers_things = is_identifier(said) or not CONTACT.isdisjoint(said)
    if not MOMENT.isdisjoint(said[-1:]) or (numbers_things and not is_measure(said)):
        return False
    if column.formula is not None:
        return column.kind.word == "decimal"
    if column.path or column.column is None or not column.kind.is_number:
        return False
    named = {name for names in (base.key, *base.unique) for name in names}
    return column.column not in named | {name for one in base.references for name in one.columns}


def _order(column: ViewColumn) -> tuple[bool, bool]:
    """Calculated amounts first, then those with decimal places."""
    return column.formula is None, column.kind.word != "decimal"


def _is_name(design: Design, tables: Tables, column: ViewColumn, most: int = MOST_GROUPS) -> bool:
    """Whether a column says which of a few things of another table a row names."""
    if not column.path or column.kind.word != "text":
        return False
    home = tables.by_name[column.path[-1].table]
    identity = resolve.identity(design.by_name[home.name])
    return identity == (column.column,) and FEWEST_GROUPS <= home.row_count <= most
