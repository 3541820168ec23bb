"""Several values in one cell become rows of a relation of their own, with the key of the row they stood in.

    Job   Crew                Job   Crew         Position
    17    Ann, Ben       →    17    Ann          1
    18    Ben                 17    Ben          2
                              18    Ben          1

A comma does not make a list. The values of a list come again: alone, in other cells, in other places of the cell.
``Ostend, Belgium`` always has two parts, of which the first never stands second; ``1,250.00`` is a number; and in a
remark the parts are said once. What is said with each value, as in ``2x rope, 4x cleat`` and ``Ann (skipper), Ben
(mate)``, is a column of its own, or two, as in ``2x rope @ 4.50``; and so are the values of further columns that hold
as many in each row, one for each:

    Job   Parts         Amounts       Job   Parts   Amounts   Position
    17    rope, cleat   2, 4      →   17    rope    2         1
    18    rope          1             17    cleat   4         2
                                      18    rope    1         1
"""

from __future__ import annotations

import re
from collections import Counter
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import distinct
from hemplit.core.model.account import Cells, Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.relation import POSITION, Doubt, Step
from hemplit.core.shape.alongside import alongside, and_further
from hemplit.core.shape.children import copied, from_codes, key_of, shared, told_once, with_key
from hemplit.core.shape.headed import made_as
from hemplit.core.shape.looks import is_date, is_number
from hemplit.core.shape.said_with import AGAIN, LOOKED_AT, MOST_SAID, names_of_said, separator_with
from hemplit.core.shape.working import Working, WorkingColumn, of_texts
from hemplit.core.texts.listed import (
    ANY,
    FOR_NOTHING_ELSE,
    MIXED,
    PLAIN,
    SEPARATORS,
    made_of,
    parts_of,
    values_of,
    with_said,
)
from hemplit.core.texts.vocabulary import FREE_TEXT
from hemplit.core.texts.words import is_measure, is_of_keywords, is_plural, words
from hemplit.dataclasses import replace
from hemplit.errors import CellError

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Setting

ACT = Act.LISTS
SETTINGS = {
    "column": "column",
    "into": "text",
    "by": "separator",
    "with": "text or texts?",
    "sign": "text?",
    "alongside": "columns?",
    "key": "key",
    "once": "flag?",
}
#: Names have so many words of letters, and remarks more.
FEW_WORDS = 4
#: At least this share of the filled cells holds more than one value, ...
SEVERAL = 0.05
#: ... and this share of the values that stand first somewhere stand elsewhere, too.
EXCHANGED = 0.3
#: Longer values are sentences.
LONGEST = 40
#: First and last name.
FULL_NAME = re.compile(r"[^\W\d_][\w'’.-]*(?: [^\W\d_][\w'’.-]*)+")
#: One word for several people.
GROUP = frozenset("crew team staff party cast squad panel committee".split())
#: One word that is no name: what a thing is made of. A town and its county have capitals.
COMMON = re.compile(r"[^\W\d_]{2,}")
#: A last name behind initials.
INITIALED = re.compile(r"(?:[^\W\d_]\.[ -]?)+[^\W\d_][^\W\d_'’-]+(?:-[^\W\d_]+)?")


def find(working: Working) -> Iterator[Step | Doubt]:
    """A step for each column that holds lists, and the cells that keep another from going alongside."""
    taken = shared(working)
    free = [one for one in working.columns if one.name not in taken and not made_as(one.name, one.cells.texts)]
    told_with = [(column, *separator_with(column)) for column in free]
    lists = [(column, many, by) for column, by_with, many in told_with if (by := by_with or separator(column))]
    others = [
        column for column, by_with, _ in told_with if not by_with and all(column is not one for one, _, _ in lists)
    ]
    lists += _of_known(others, [(column, by) for column, many, by in lists if not many])
    plain = [column for column, _, many in told_with if not many]
    beside: dict[str, dict[str, npt.NDArray[np.int64]]] = {}
    joined: set[str] = set()
    for column, _, by in lists:
        if column.name not in joined:
            others = [one for one in plain if one.name not in {*beside, *joined}]
            beside[column.name] = alongside(column, by, others)
            joined.update(name for name, odd in beside[column.name].items() if not len(odd))
    without = {*joined, *(column.name for column, _, _ in lists)}
    for column, many, by in lists:
        if column.name in joined:
            continue
        texts = [str(text) for text in column.cells.texts.to_pylist()]
        several = sum(len(parts_of(text, by)) > 1 for text in texts)
        why = f"{several:,} of {len(texts):,} distinct texts hold several values"
        said: list[tuple[str, Setting]] = []
        if many:
            names, sign = names_of_said(working, column, by, many)
            said.append(("with", names if many > 1 else names[0]))
            said += [("sign", sign)] if sign else []
            why += f", each with its {' and '.join(names)}" + (f" in {sign}" if sign else "")
        further = tuple(name for name, odd in beside[column.name].items() if not len(odd))
        if further:
            said.append(("alongside", further))
            why += and_further(further)
        key = key_of(working, without)
        yield Step(ACT, (("column", column.name), ("into", column.name), ("by", by), *said, ("key", key)), why)
        for name, odd in beside[column.name].items():
            other = working.named(name)
            if other is not None and len(odd) and name not in joined:
                what = f"'{name}' holds as many values as '{column.name}' in each row but for some"
                hint = "write as many in both and draft again: then each stands beside its own"
                yield Doubt(what, working.places(other, odd), hint, len(odd))


def _of_known(
    columns: Iterable[WorkingColumn], lists: Sequence[tuple[WorkingColumn, str]]
) -> list[tuple[WorkingColumn, int, str]]:
    """The columns with several values in a cell, and no others than ``lists`` beside them have: who was absent."""
    known: dict[str, set[str]] = {}
    for column, by in lists:
        known.setdefault(by, set()).update(part for parts in _parted(column, by) for part in parts)
    found = []
    for column in columns:
        for by, values in known.items():
            cells = _parted(column, by)
            if any(len(parts) > 1 for parts in cells) and values.issuperset(part for parts in cells for part in parts):
                found.append((column, 0, by))
                break
    return found


def _parted(column: WorkingColumn, by: str) -> list[list[str]]:
    """The values of each different text of a column, a separator between them."""
    return [[*parts_of(str(text), by)] for text in column.cells.texts.slice(0, LOOKED_AT).to_pylist()]


def separator(column: WorkingColumn) -> str | None:
    """What separates the values of a list, in words; None if the column holds none."""
    some = column.cells.texts.slice(0, LOOKED_AT)
    if is_plural(column.name) and _are_numbers_of_things(column.name, [str(text) for text in some.to_pylist()]):
        return "comma"
    if all(is_number(str(text)) or is_date(str(text)) for text in some.slice(0, kinds.PROBE).to_pylist()):
        return None
    if not pc.any(pc.match_substring_regex(some, ANY)).as_py():
        return None
    texts = [str(text) for text in some.to_pylist()]
    for by, pattern in SEPARATORS.items():
        parted = pc.sum(pc.match_substring_regex(some, pattern)).as_py() or 0
        if parted == 1 and _stand_alone(column.name, texts, by):
            return by
        if parted > 1 and _is_list(column.name, texts, column.cells.counts[: len(texts)].tolist(), by):
            return MIXED if by == "comma" and _is_mixed(texts) else by
    return None


def _is_mixed(texts: Sequence[str]) -> bool:
    """Whether semicolons part values in some cells, each with one that other cells have between commas.

    >>> _is_mixed(["Ann, Ben", "Cas; Ann"]), _is_mixed(["Ann, Ben", "Ann (am; pm)"]), _is_mixed(["Ann, Ben"])
    (True, False, False)
    """
    others = {part for text in texts if ";" not in text for part in parts_of(text, "comma")}
    mixed = [parts_of(text, MIXED) for text in texts if ";" in text]
    return bool(mixed) and all("" not in parts and not others.isdisjoint(parts) for parts in mixed)


def _is_list(header: str, texts: Sequence[str], counts: Sequence[int], by: str) -> bool:
    parted = [(parts_of(text, by), count) for text, count in zip(texts, counts, strict=True)]
    several = [(parts, count) for parts, count in parted if len(parts) > 1]
    plain = by in FOR_NOTHING_ELSE
    if len(several) < 2 or (not plain and sum(count for _, count in several) < SEVERAL * sum(counts)):
        return False
    values = Counter(part for parts, _ in parted for part in set(parts))
    if "" in values or max(map(len, values)) > LONGEST or (not plain and all(is_number(part) for part in values)):
        return False
    first = {parts[0].casefold() for parts, _ in several}
    later = {part.casefold() for parts, _ in several for part in parts[1:]}
    alone = {parts[0].casefold() for parts, _ in parted if len(parts) == 1}
    exchanged = len(first & later) >= EXCHANGED * min(len(first), len(later))
    lengths = {len(parts) for parts, _ in parted}
    both = first | later
    by_themselves = len(lengths) > 1 and len(both & alone) >= EXCHANGED * len(both)
    remark, again = not FREE_TEXT.isdisjoint(words(header)), values.total() > len(values)
    plain |= not remark and all(value.islower() and COMMON.fullmatch(value) for value in values)
    names = plain and len(lengths) > 1 and _words_in(values) <= FEW_WORDS
    if names and (by_themselves or (again and not remark and not both.isdisjoint(alone))):
        return True
    # A header that speaks of several says what they are; then that one of them comes again is enough, or that two names
    # stand in one cell and three in another, or that both is so.
    said = (is_plural(header) or _are_of_a_group(header, values)) and not remark and _words_in(values) <= FEW_WORDS
    said = said and not any(map(with_said, values))
    varied = len({len(parts) for parts, _ in several}) > 1
    listed = bool(both & alone) or exchanged or (is_of_keywords(header) and lengths != {2})
    if said and ((again and (listed or varied)) or (varied and _have_capitals(values))):
        return True
    # Each different text counts once: a remark that is copied from row to row says its parts only once. No place has
    # three parts of two words each, of which one stands first somewhere and later elsewhere.
    people = exchanged and again and not remark and min(lengths) > 2 and all(map(FULL_NAME.fullmatch, values))
    if not people and sum(values.values()) < AGAIN * len(values):
        return False
    # Where each has initials before it, none is the first name of another.
    apart = exchanged or all(map(INITIALED.fullmatch, values))
    return apart or (names and bool(both & alone)) or (by_themselves and (bool(first & later) or both <= alone))


def _are_numbers_of_things(header: str, texts: Sequence[str]) -> bool:
    """Whether whole numbers between commas, each with a space behind it, are of things, one of them twice: of the docks
    at which something is used. What is measured is not, and a thousand has no space.

    >>> _are_numbers_of_things("Docks", ["1, 3", "3", "2, 3"]), _are_numbers_of_things("Docks", ["1,250", "2,250"])
    (True, False)
    """
    values = Counter(part for text in texts for part in {*parts_of(text, "comma")})
    several = [text for text in texts if "," in text]
    spaced = len(several) > 1 and all(text.count(",") == text.count(PLAIN["comma"]) for text in several)
    numbers = not is_measure(words(header)) and all(map(str.isdecimal, values))
    return spaced and numbers and values.total() > len(values)


def _stand_alone(header: str, texts: Sequence[str], by: str) -> bool:
    """Whether all values of the one cell that holds several are said alone in other cells, and are no remark."""
    whole = next((text for text in texts if len(parts_of(text, by)) > 1), "")
    if not FREE_TEXT.isdisjoint(words(header)) or not (by in FOR_NOTHING_ELSE or (by == "comma" and "," in whole)):
        return False
    parts = parts_of(whole, by)
    alone = {*map(str.casefold, texts)}.issuperset(map(str.casefold, parts))
    return len(parts) > 1 and alone and not any(map(is_number, parts))


def _are_of_a_group(header: str, values: Iterable[str]) -> bool:
    """Whether a header says one word for several people, and all values are whole names."""
    return not GROUP.isdisjoint(words(header)[-1:]) and all(map(FULL_NAME.fullmatch, values))


def _have_capitals(values: Iterable[str]) -> bool:
    """Whether each word of all values has one."""
    return all(word[:1].isupper() for value in values for word in value.split())


def _words_in(values: Iterable[str]) -> int:
    """How many words of letters the longest of the values has."""
    return max(sum(map(str.isalpha, value.split())) for value in values)


def told(working: Working, step: Step) -> Iterator[Doubt]:
    """The cells in which values of the list stand together in another way than in the others, and are taken as one."""
    column, by = working.named(step.text("column")), step.text("by")
    if column is None:
        return
    lists = [parts_of(str(text), by) for text in column.cells.texts.to_pylist()]
    values = {part for parts in lists for part in parts}
    mixed = {value for value in values if made_of(value, values, by)}
    if mixed:
        codes = [code for code, parts in enumerate(lists) if not mixed.isdisjoint(parts)]
        rows = np.flatnonzero(np.isin(column.cells.codes, codes))
        what = f"'{column.name}' has cells in which several values stand as one"
        hint = f"write a {by} between them in the sheet, as in the others, and load again"
        yield Doubt(what, working.places(column, rows), hint, len(rows))


def fault(step: Step) -> str:
    """What is wrong with what is said with each value; empty if nothing."""
    more = len(step.texts("with")) > MOST_SAID
    return f"with each value {MOST_SAID} things can be said, and each needs a name" if more else ""


def misfits(working: Working, step: Step) -> Iterator[tuple[WorkingColumn, int]]:
    """The column and each of its texts, by code, with a value with which nothing is said, if something is with each."""
    column = working.named(step.text("column"))
    many = len(step.texts("with"))
    if column is not None and many:
        for code, text in enumerate(column.cells.texts.to_pylist()):
            if not all(with_said(part, many) for part in values_of(str(text), step.text("by"))):
                yield column, code


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the columns, which become a child with a row for each value.

    Raises ``CellError`` where columns that go alongside hold more values in a row than the list, or fewer.
    """
    working = with_key(working, step.texts("key"))
    column = working.named(step.text("column"))
    if column is None:
        return working
    by, said = step.text("by"), step.texts("with")
    taken = [one for one in working.columns if one is column or one.name in step.texts("alongside")]
    held = {one.name: _lists(one, by) for one in taken}
    counts = {one.name: np.array([*map(len, held[one.name]), 0])[one.cells.codes] for one in taken}
    for other in taken:
        _check_alongside(working, (column, other), (counts[column.name], counts[other.name]), by)
    once = told_once(working, step, {one.name for one in taken})
    kept = np.flatnonzero(np.isin(working.grid_rows, once.grid_rows))
    many = counts[column.name][kept]
    rows = np.repeat(np.arange(once.row_count), many)
    within = np.arange(len(rows)) - np.repeat(np.cumsum(many) - many, many)
    values: list[WorkingColumn] = []
    account: list[Cells] = []
    for one in taken:
        named = said if one is column else ()
        values += _values(one, held[one.name], named, step.text("sign"), (kept[rows], within))
        account += _account(working, one, None if named else [PLAIN[by].join(parts) for parts in held[one.name]])
    child = Working(
        working.source,
        (
            *copied(once, step.texts("key"), rows),
            *values,
            from_codes(POSITION, column.position, within, [str(one + 1) for one in range(int(many.max(initial=0)))]),
        ),
        once.grid_rows[rows],
        name=step.text("into"),
        of=step.texts("key"),
        account=tuple(account),
        again=once.again,
    )
    left = replace(working, columns=tuple(one for one in working.columns if one not in taken))
    return replace(left, children=(*left.children, child))


def _check_alongside(
    working: Working,
    columns: tuple[WorkingColumn, WorkingColumn],
    counts: tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]],
    by: str,
) -> None:
    odd = np.flatnonzero(counts[0] != counts[1])
    if len(odd):
        row = int(odd[0])
        said = [
            f"{working.address(row, one)} '{working.text(row, one)}' has {many[row]} of '{one.name}'"
            for one, many in zip(columns, counts, strict=True)
        ]
        more = f", and so in {len(odd) - 1:,} more rows" if len(odd) > 1 else ""
        hint = f"write as many in both, with a {by} between them"
        raise CellError(
            working.source.title, f"{', and '.join(said)}{more}", hint, tuple(working.grid_rows[odd].tolist())
        )


def _values(
    column: WorkingColumn,
    lists: Sequence[Sequence[str]],
    said: Sequence[str],
    sign: str,
    places: tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]],
) -> list[WorkingColumn]:
    """The column of the values at those ``places``, the rows and the places in their lists, and those of what is
    ``said`` with each, without the ``sign`` of a currency."""
    rows, within = places
    starts = np.cumsum([0, *map(len, lists)])[column.cells.codes[rows]]

    def made(name: str, texts: Iterable[str]) -> WorkingColumn:
        cells = of_texts([*texts])
        cells = GridColumn(cells.codes[starts + within], cells.texts)
        return replace(column, name=name, cells=cells, own=False, changed=None)

    parts = [part for parts in lists for part in parts]
    blank = [""] * len(said)
    if not said:
        return [made(column.name, parts)]
    told = [with_said(part, len(said)) or (part, *blank) for part in parts]
    without = [(*one[:-1], one[-1].replace(sign, "").strip() if sign else one[-1]) for one in told]
    return [made(name, (one[place] for one in without)) for place, name in enumerate((column.name, *said))]


def _lists(column: WorkingColumn, by: str) -> list[list[str]]:
    """The values that each distinct text of a column holds."""
    return [values_of(str(text), by) for text in column.cells.texts.to_pylist()]


def _account(working: Working, column: WorkingColumn, written: Sequence[str] | None) -> tuple[Cells, ...]:
    """The cells that the lists ``written`` again give back, those that they give otherwise, and the empty ones; none is
    given back where something is said with each value.

    What an earlier step changed stays under its name.
    """
    codes = column.cells.codes
    texts = column.cells.texts.to_pylist()
    same_texts = [one == text for one, text in zip(written, texts, strict=True)] if written else [False] * len(texts)
    exact = np.array([*same_texts, False])
    changed = np.zeros(len(codes), dtype=np.int8) if column.changed is None else column.changed
    same = exact[codes] & (codes != EMPTY) & (changed == 0)
    rewritten = ~exact[codes] & (codes != EMPTY) & (changed == 0)
    parts = [
        Cells(Fate.STORED, column.name, working.grid_rows[same], (column.position,), column=column.name),
        Cells(Fate.CHANGED, ACT, working.grid_rows[rewritten], (column.position,), column=column.name),
        Cells(
            Fate.LEFT_OUT,
            f"empty cells of {column.name}",
            working.grid_rows[(codes == EMPTY) & (changed == 0)],
            (column.position,),
        ),
    ]
    for number in distinct(changed[changed != 0]).tolist():
        rows = working.grid_rows[changed == number]
        parts.append(Cells(Fate.CHANGED, Act.of(number), rows, (column.position,), column=column.name))
    return tuple(one for one in parts if len(one.rows))
