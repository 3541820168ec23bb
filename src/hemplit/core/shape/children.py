"""Relations that are taken out of another: the columns that tell where they belong, and how they are put together."""

from __future__ import annotations

import re
from functools import reduce
from itertools import chain, combinations, product
from math import prod
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core.columns.codes import Grouping, combine, first_rows, with_blank
from hemplit.core.columns.given import COLLISIONS, are_crossed, are_given_out
from hemplit.core.model.account import Fate
from hemplit.core.model.grid import GridColumn
from hemplit.core.model.relation import ROW_NUMBER
from hemplit.core.shape.deciding import holds_codes, tells_when
from hemplit.core.shape.looks import is_date
from hemplit.core.shape.values import is_numbering
from hemplit.core.shape.working import Working, WorkingColumn, keep_rows, tell_apart
from hemplit.core.texts.moments import is_called_period, is_of_period, is_of_rows
from hemplit.core.texts.nouns import singular
from hemplit.core.texts.vocabulary import ADDRESS, CONTACT, DOCUMENT, FREE_TEXT, NAME, SPOT
from hemplit.core.texts.words import (
    has_codes_of,
    is_identifier,
    is_measure,
    is_of_kind,
    is_part,
    numbers_document,
    numbers_lines,
    with_names,
    words,
)
from hemplit.dataclasses import replace
from hemplit.errors import CellError

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Step

#: So many columns together may tell the rows apart; only the first of the sheet are looked at.
FIRST_COLUMNS = 8
#: Where a thing is told of time and again, each of both comes so many times on average.
MET_AGAIN = 1.5
#: One row alone, or two, say everything again.
FEWEST_ROWS = 3
#: Signs between the entries of a list. Where all texts hold one, it may belong to a name: "Falk, Ben".
LISTING = frozenset(",;|")
NUMBER = re.compile(r"\d+(?:\.\d+)?")


def key_of(working: Working, without: Collection[str]) -> tuple[str, ...]:
    """The column or two of the sheet that tell its rows apart, with the month or the document that heads all of them;
    the number of the row if there are none."""
    left = [column for column in working.columns if column.name not in without]
    return _under_head(_own_key(working, left), left, working.row_count)


def _own_key(working: Working, left: Sequence[WorkingColumn]) -> tuple[str, ...]:
    names = [column.name for column in working.columns]
    coded = with_names(names) & {*map(words, names)}
    titled = {(singular(word),) for word in words(working.source.title)}
    columns = [column for column in left if _may_be_key(column, coded, titled)]
    alone = [column for column in columns if tell_apart((column,)) and ADDRESS.isdisjoint(words(column.name))]
    for column in alone:
        if not _may_come_again(column, left):
            return ((column if holds_codes(column) else _code_of(column, columns)).name,)
    first = [column for column in columns[:FIRST_COLUMNS] if column not in alone and not _is_kind(column)]
    moments = list(filter(_is_moment, left))
    crossed = [pair for pair in product(first, moments) if _crossed(*pair, working.row_count)]
    of_things = (pair for pair in combinations(first, 2) if not _may_meet_again(pair, moments, working.row_count))
    pairs = chain(of_things, crossed)
    pair = next((pair for pair in pairs if not _goes_further(pair, first) and tell_apart(pair)), ())
    found = _counted_anew(pair, first) or pair
    return tuple(_code_of(column, columns).name for column in found) or (ROW_NUMBER,)


def _counted_anew(pair: Sequence[WorkingColumn], first: Sequence[WorkingColumn]) -> tuple[WorkingColumn, ...]:
    """Two columns, and the number behind them that counts anew under what both say, as of trees in each row of a plot;
    none where it stands in the pair that tells the rows apart, or where two tell them apart as well."""
    counts = [column for column in first if column not in pair and _counts(column)]
    triples = ((one, two, last) for last in counts for one, two in combinations(first[: first.index(last)], 2))
    return next((some for some in triples if tell_apart(some) and not any(map(tell_apart, combinations(some, 2)))), ())


def _counts(column: WorkingColumn) -> bool:
    """Whether a column has numbers of things or lines, from the first on."""
    said, texts = words(column.name), column.cells.texts.to_pylist()
    numbers = (is_identifier(said) or numbers_lines(said)) and all(map(str.isdecimal, texts))
    return numbers and "1" in texts


def _under_head(key: tuple[str, ...], left: Sequence[WorkingColumn], rows: int) -> tuple[str, ...]:
    """A key together with what every row says again: a document, or a period, within which alone it tells them apart.

    Documents are numbered for good, and so are their lines, unless the rows begin with the period and say no day.
    """
    same = [column for column in left if len(column.cells.texts) == 1 and column.cells.full]
    if rows < FEWEST_ROWS or ROW_NUMBER in key:
        return key
    documents = [column.name for column in same if numbers_document(column.name)]
    periods = [column.name for column in same if is_called_period(column.name) or _says_day(column)]
    names = [column.name for column in left]
    if not documents and any(numbers_document(name) or numbers_lines(words(name)) for name in key):
        dated = any(_is_moment(column) for column in left if column not in same)
        periods = [] if dated or names.index(key[0]) == 0 else periods
    return tuple(name for name in names if name in (*(documents[:1] or periods), *key))


def _says_day(column: WorkingColumn) -> bool:
    """Whether a column that never varies says on which day all was counted, read or closed."""
    return is_of_period(column.name) and is_date(str(column.cells.texts[0]))


def _is_kind(column: WorkingColumn) -> bool:
    """Whether a column says of what kind something is or which task was done, of which several may be at one time."""
    said = words(column.name)
    return is_of_kind(column.name) and DOCUMENT.isdisjoint(said) and not holds_codes(column)


def _may_come_again(column: WorkingColumn, left: Sequence[WorkingColumn]) -> bool:
    """Whether a column has what rows that begin with a day speak of, as washes of boats, and no numbers of theirs; or
    stands behind what tells them apart together with a number that comes again, as a boat does in each race."""
    first = left[0]
    day = is_of_rows(first.name) and len(first.cells.texts) > 1 and _is_moment(first)
    between = left[1 : left.index(column)] if len(first.cells.texts) < len(first.cells.codes) else []
    entries = is_identifier(words(first.name)) and any(tell_apart((first, one)) for one in between)
    if column is first or numbers_document(column.name) or numbers_lines(words(column.name)):
        return False
    if not day:
        return entries and not holds_codes(column)
    texts = column.cells.texts.to_pylist()
    named = any(has_codes_of(column.name, other.name) for other in left if other is not column)
    return named or texts != sorted(texts)


def _goes_further(pair: Sequence[WorkingColumn], others: Sequence[WorkingColumn]) -> bool:
    """Whether the rows speak of another thing, too, that is named between the two and that neither decides, nor is it
    finer, as the engine that a boat has at each check.

    Of hours of a week for a person, a project and a task no week has a task twice so far, and yet it may have.
    """
    first, last = sorted(column.position for column in pair)
    between = [other for other in others if first < other.position < last]
    finer = [other for other in between if any(_decides(other, one) for one in pair)]
    return any(not any(_decides(one, other) for one in (*pair, *finer)) for other in between)


def _may_meet_again(pair: Sequence[WorkingColumn], moments: Sequence[WorkingColumn], rows: int) -> bool:
    """Whether rows say a day of two things of which chance alone may have kept any from meeting twice."""
    met = rows * rows / 2 / prod(len(one.cells.texts) for one in pair)
    return met < COLLISIONS and any(not any(_decides(one, moment) for one in pair) for moment in moments)


def _decides(one: WorkingColumn, other: WorkingColumn) -> bool:
    names = Grouping(one.cells.codes, len(one.cells.texts))
    return combine(names, Grouping(other.cells.codes, len(other.cells.texts))).size == names.size


def _code_of(column: WorkingColumn, others: Sequence[WorkingColumn]) -> WorkingColumn:
    """The column of codes of what a column names, if there is one; of people who are but named, that of their mails."""
    named = NAME.issuperset(words(column.name))
    coded = (one for one in others if is_identifier(words(one.name)) or (named and "email" in words(one.name)))
    return next((one for one in coded if _decides(one, column) and _decides(column, one)), column)


def _may_be_key(column: WorkingColumn, coded: Collection[tuple[str, ...]], titled: Collection[tuple[str, ...]]) -> bool:
    """Whether a column could name its rows: filled, no amount or moment, no remark or telephone, no part of a name, and
    no list here and there.

    Numbers do where they come first, or were given out by what the headers or they themselves say, or are of what the
    sheet is ``titled`` after; the name of what is ``coded``, such as a Cost Centre Name, has the code beside it.
    """
    said = words(column.name)
    noted = bool(FREE_TEXT.intersection(said)) and not holds_codes(column)
    reaches = bool(CONTACT.intersection(said)) and "email" not in said
    measured = is_measure(said) and not _begins_with_letters(column)
    if not column.cells.full or measured or noted or reaches:
        return False
    if is_part(column.name) or (NAME.issuperset(said[-1:]) and said[:-1] in coded):
        return False
    probe = [str(text) for text in column.cells.texts.slice(0, 20).to_pylist()]
    listed = sum(not LISTING.isdisjoint(text) for text in probe)
    pointed = any("." in text and text.replace(".", "").isdigit() for text in probe)
    if all(map(is_date, probe)) or (pointed and not _counts_parts(column)):
        return False
    numbered = is_identifier(said) or numbers_lines(said) or not SPOT.isdisjoint(said[-1:])
    if all(map(str.isdecimal, probe)) and not (column.position == 0 or numbered):
        return _are_given_out(column) or said in coded or said in titled
    return listed in (0, len(probe))


def _begins_with_letters(column: WorkingColumn) -> bool:
    """Whether a column holds codes that begin with letters, as of a meter that is no metre."""
    return holds_codes(column) and all(str(text)[:1].isalpha() for text in column.cells.texts.to_pylist())


def _counts_parts(column: WorkingColumn) -> bool:
    """Whether numbers with a point are those of parts, as of an accession, and measure nothing."""
    texts = [str(text) for text in column.cells.texts.to_pylist()]
    return all(map(NUMBER.fullmatch, texts)) and is_numbering(column.name, texts)


def _are_given_out(column: WorkingColumn) -> bool:
    """Whether of the numbers from the first to the last few are missing, as of those that count nothing else."""
    numbers = [int(text) for text in column.cells.texts.to_pylist() if str(text).isdecimal()]
    return are_given_out(min(numbers), max(numbers), len(numbers))


def _crossed(one: WorkingColumn, two: WorkingColumn, rows: int) -> bool:
    """Whether rows tell of every thing at every time, each of several, and not of some that never met again so far."""
    things, times = len(one.cells.texts), len(two.cells.texts)
    return are_crossed((things, times), rows) and rows >= MET_AGAIN * max(things, times)


def _is_moment(column: WorkingColumn) -> bool:
    """Whether a column tells of each row when."""
    return column.cells.full and tells_when(column)


def shared(working: Working) -> set[str]:
    """The columns by which relations that were taken out already hang on this one, and which must stay."""
    return {name for child in working.children for name in child.of}


def with_key(working: Working, key: Sequence[str]) -> Working:
    """The sheet with its rows numbered, if that is the key and they are not yet."""
    if ROW_NUMBER not in key or working.named(ROW_NUMBER) is not None:
        return working
    numbers = pa.array([str(row) for row in range(1, working.row_count + 1)], pa.string())
    column = WorkingColumn(0, ROW_NUMBER, GridColumn(np.arange(working.row_count, dtype=np.int32), numbers), own=False)
    return replace(working, columns=(column, *working.columns))


def told_once(working: Working, step: Step, taken: Collection[str]) -> Working:
    """The rows out of which a step takes what stands under ``taken``, and those that only say that again.

    All, or, if it takes that once for each value of its key, the first of each. Raises ``CellError`` where another of
    them says something else.
    """
    if not step.flag("once"):
        return replace(working, account=())
    columns = [column for column in working.columns if column.name in step.texts("key")]
    whole = reduce(combine, (with_blank(column.cells.codes, len(column.cells.texts)) for column in columns))
    first = first_rows(whole)[whole.codes]
    again = first != np.arange(working.row_count)
    for column in working.columns:
        if column.name in taken:
            _check_same(working, column, first, columns, step)
    rows = np.stack([working.grid_rows[again], working.grid_rows[first[again]]], axis=1)
    return replace(keep_rows(working, ~again, Fate.STORED, ""), account=(), again=rows)


def _check_same(
    working: Working,
    column: WorkingColumn,
    first: npt.NDArray[np.int64],
    key: Sequence[WorkingColumn],
    step: Step,
) -> None:
    odd = np.flatnonzero(column.cells.codes != column.cells.codes[first])
    if not len(odd):
        return
    row = int(odd[0])
    of = ", ".join(f"{one.name} '{working.text(row, one)}'" for one in key)
    cells = [f"{working.address(at, column)} '{working.text(at, column)}'" for at in (int(first[row]), row)]
    more = f", and {len(odd) - 1:,} more" if len(odd) > 1 else ""
    what = f"'{column.name}' of {of} is {cells[0]}, and then {cells[1]}{more}"
    hint = f"correct one of them, or let the step '{step.act}' have the key of the rows, without once = true"
    rows, against = (tuple(working.grid_rows[some].tolist()) for some in (odd, first[odd]))
    raise CellError(working.source.title, what, hint, rows, against)


def copied(working: Working, key: Sequence[str], rows: npt.NDArray[np.int64]) -> tuple[WorkingColumn, ...]:
    """The columns of the key, with the values of those rows."""
    columns = [column for column in working.columns if column.name in key]
    return tuple(
        WorkingColumn(column.position, column.name, GridColumn(column.cells.codes[rows], column.cells.texts), own=False)
        for column in columns
    )


def from_codes(name: str, position: int, codes: npt.NDArray[np.integer], texts: Sequence[str]) -> WorkingColumn:
    """A column whose values stand in no cells of the sheet."""
    return WorkingColumn(
        position, name, GridColumn(codes.astype(np.int32), pa.array(list(texts), pa.string())), own=False
    )
