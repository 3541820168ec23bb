"""What a tally says: its groups as a table, with totals; and whether the flat sheets say the same."""

from __future__ import annotations

from decimal import Decimal
from functools import reduce
from typing import TYPE_CHECKING, Any

from hemplit.core.model.tally import EXACT, Aggregate, Groups, Summed
from hemplit.core.tally.labels import label_of_answer, place
from hemplit.core.tally.sums import MOST_PLACES
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from hemplit.core.model.tally import Part, Tally

#: What a group is called that is blank, and the line of all groups.
NONE, TOTAL = "(none)", "total"
#: So many decimal places are shown of numbers that have no last one.
SHOWN_PLACES = 4
#: Sums of doubles that have no last decimal place are as near to each other as this share of them.
NEARLY = Decimal("1e-9")
#: An average has so many decimal places more than what it is of.
FINER = 2


@dataclass(frozen=True)
class Answer:
    """A table: ``heads`` are the first columns, that name the groups, and then one for each number.

    ``rows`` are the names of each group, as many as the tally has columns that go down, with its numbers; ``totals``
    the numbers of all of them. Numbers have their decimal places; None where no cell is filled.
    """

    names: tuple[str, ...]
    numbers: tuple[str, ...]
    rows: tuple[tuple[tuple[str, ...], tuple[Decimal | int | None, ...]], ...]
    totals: tuple[Decimal | int | None, ...]
    across: tuple[str, ...] = ()
    """The groups that go across, the last of them the total, if some do."""


@dataclass(frozen=True)
class Tallied:
    """An answer with the statements that gave it, where the flat sheets say otherwise, and why they were not asked."""

    tally: Tally
    answer: Answer
    statements: tuple[str, ...]
    differences: tuple[tuple[str, ...], ...]
    unchecked: str = ""
    changed: int = 0
    """So many cells of the columns that were asked for were changed by the steps of the design."""
    left_out: int = 0
    """So many rows of their sheets were left out on purpose."""


def groups_of_rows(part: Part, rows: Iterable[Sequence[Any]], places: Mapping[str, int]) -> Groups:
    """The groups of a part out of the rows that a database gave; ``places`` are those of each measure, by its title."""
    by_header = {column.header: column.kind for column in part.view.columns}
    found: Groups = {}
    for row in rows:
        cells = list(row)
        key = tuple(label_of_answer(cells.pop(0), by_header[one.header], one.part) for one in part.by)
        sums = []
        for measure in part.measures:
            unit = Decimal(1).scaleb(-places[measure.title])
            match measure.aggregate:
                case Aggregate.NUMBER:
                    sums.append(Summed(count=int(cells.pop(0))))
                case Aggregate.AVERAGE:
                    total, count = cells.pop(0), int(cells.pop(0))
                    sums.append(Summed(count, _exact(total, unit) or Decimal(0)))
                case aggregate:
                    value = _exact(cells.pop(0), unit)
                    sums.append(_known(aggregate, value))
        found[key] = tuple(map(Summed.__add__, found[key], sums)) if key in found else tuple(sums)
    return found


def _exact(value: Any, unit: Decimal) -> Decimal | None:
    """A number that a database calculated with doubles, as what it is."""
    return None if value is None else Decimal(str(value)).quantize(unit, context=EXACT)


def _known(aggregate: Aggregate, value: Decimal | None) -> Summed:
    if value is None:
        return Summed()
    if aggregate is Aggregate.SUM:
        return Summed(1, value)
    return Summed(1, least=value) if aggregate is Aggregate.SMALLEST else Summed(1, most=value)


def differing(
    tally: Tally, one: Sequence[Groups], two: Sequence[Groups], places: Mapping[str, int]
) -> list[tuple[str, ...]]:
    """Where two ways do not come to the same: what of which group, and both numbers as texts."""
    found = []
    for part, first, second in zip(tally.parts, one, two, strict=True):
        none = tuple(Summed() for _ in part.measures)
        for key in {**first, **second}:
            pairs = zip(part.measures, first.get(key, none), second.get(key, none), strict=True)
            for measure, left, right in pairs:
                values = left.value(measure.aggregate), right.value(measure.aggregate)
                if not _same(*values, exact=places[measure.title] < MOST_PLACES):
                    where = ", ".join(name or NONE for name in key)
                    of = f"{measure.title}, {where}" if where else measure.title
                    found.append((of, *map(_said, values)))
    return found


def _same(one: Decimal | int | None, other: Decimal | int | None, *, exact: bool) -> bool:
    """Whether two numbers are one; of those that no decimal places hold exactly, as far as doubles can say."""
    if exact or one is None or other is None:
        return one == other
    left, right = Decimal(one), Decimal(other)
    return abs(left - right) <= NEARLY * max(abs(left), Decimal(1))


def _said(value: Decimal | int | None) -> str:
    return "nothing" if value is None else f"{value:,}"


def answer_of(tally: Tally, groups: Sequence[Groups], places: Mapping[str, int]) -> Answer:
    """The groups of all parts as one table with totals."""
    measures = [
        (number, place_, measure)
        for number, part in enumerate(tally.parts)
        for place_, measure in enumerate(part.measures)
    ]
    keys = _sorted(tally, {key for part in groups for key in part})
    down = tally.by[:-1] if tally.across else tally.by
    beside = list(dict.fromkeys(key[-1] for key in _sorted(tally, keys, last=True))) if tally.across else []
    rows = list(dict.fromkeys(key[: len(down)] for key in keys))

    def numbers(held: Iterable[tuple[str | None, ...]]) -> list[Decimal | int | None]:
        some = list(held)
        found = []
        for number, at, measure in measures:
            sums = (groups[number][key][at] for key in some if key in groups[number])
            found.append(_shown(reduce(Summed.__add__, sums, Summed()).value(measure.aggregate), measure, places))
        return found

    def line(fits: Iterable[tuple[str | None, ...]]) -> tuple[Decimal | int | None, ...]:
        some = list(fits)
        parts = [[key for key in some if key[-1] == name] for name in beside] if tally.across else []
        return tuple(value for held in (*parts, some) for value in numbers(held))

    titles = [measure.title for _, _, measure in measures]
    heads = [name or NONE for name in beside]
    across = (*heads, TOTAL) if tally.across else ()
    named = (
        titles
        if not across
        else [head if len(titles) == 1 else f"{title}, {head}" for head in across for title in titles]
    )
    by_row: dict[tuple[str | None, ...], list[tuple[str | None, ...]]] = {row: [] for row in rows}
    for key in keys:
        by_row[key[: len(down)]].append(key)
    return Answer(
        tuple(one.title for one in down),
        tuple(named),
        tuple((tuple(name or NONE for name in row), line(by_row[row])) for row in rows),
        line(keys),
        across,
    )


def _shown(value: Decimal | int | None, measure: Any, places: Mapping[str, int]) -> Decimal | int | None:
    if not isinstance(value, Decimal):
        return value
    more = FINER if measure.aggregate is Aggregate.AVERAGE else 0
    given = places[measure.title] if places[measure.title] < MOST_PLACES else SHOWN_PLACES
    return value.quantize(Decimal(1).scaleb(-given - more), context=EXACT)


def _sorted(
    tally: Tally, keys: Iterable[tuple[str | None, ...]], *, last: bool = False
) -> list[tuple[str | None, ...]]:
    """The groups in the order of their names, or of their last ones."""
    kinds_ = {column.header: column.kind for column in tally.parts[0].view.columns}

    def order(key: tuple[str | None, ...]) -> list[tuple[int, float, str]]:
        places = [place(name, kinds_[one.header], one.part) for name, one in zip(key, tally.by, strict=True)]
        return places[-1:] if last else places

    return sorted(keys, key=order)
