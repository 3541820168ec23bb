"""What is drawn of the tables of a design or of a database."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from hemplit.core.model.diagram import Diagram, DrawnColumn, DrawnTable, Mark, Tie

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hemplit.core.model.tables import Outline, OutlineColumn, Reference

#: Of a longer table only so many columns are drawn, keys and references before others.
MOST_COLUMNS = 16


def diagram_of(title: str, outlines: Sequence[Outline]) -> Diagram:
    """The diagram of tables."""
    names = {one.name for one in outlines}
    drawn, ties = [], []
    for one in outlines:
        columns = _columns(one)
        places = {column.name: min(place, MOST_COLUMNS) for place, column in enumerate(columns)}
        shown = tuple(
            DrawnColumn(column.name, _type(column), _mark(one, column), column.required) for column in columns
        )
        drawn.append(DrawnTable(one.name, one.purpose or "", shown[:MOST_COLUMNS], len(shown[MOST_COLUMNS:])))
        references = [reference for reference in one.references if reference.table in names]
        seen = Counter(reference.table for reference in references)
        for reference in references:
            role = ", ".join(reference.columns) if seen[reference.table] > 1 or reference.table == one.name else ""
            ties.append(_tie(one, reference, places, role))
        ties += [
            Tie(one.name, (places[column.of],), column.ranges, is_range=True)
            for column in columns
            if column.ranges in names and column.of in places
        ]
    return Diagram(title, tuple(drawn), tuple(ties))


def _columns(outline: Outline) -> list[OutlineColumn]:
    """All columns; where they are too many, those that tie the tables together come first."""
    if len(outline.columns) <= MOST_COLUMNS:
        return list(outline.columns)
    telling = (Mark.KEY, Mark.KEY_AND_REFERENCE, Mark.REFERENCE)
    return sorted(outline.columns, key=lambda column: _mark(outline, column) not in telling)


def _type(column: OutlineColumn) -> str:
    return column.type.lower()


def _mark(outline: Outline, column: OutlineColumn) -> Mark:
    refers = any(column.name in reference.columns for reference in outline.references)
    if column.name in outline.key:
        return Mark.KEY_AND_REFERENCE if refers else Mark.KEY
    if column.calculated:
        return Mark.CALCULATED
    return Mark.REFERENCE if refers else Mark.UNIQUE if (column.name,) in outline.unique else Mark.PLAIN


def _tie(outline: Outline, reference: Reference, places: Mapping[str, int], role: str) -> Tie:
    own = set(reference.columns)
    return Tie(
        outline.name,
        tuple(places[name] for name in reference.columns),
        reference.table,
        optional=not all(outline.by_name[name].required for name in reference.columns),
        single=own == set(outline.key) or any(own == set(names) for names in outline.unique),
        role=role,
    )
