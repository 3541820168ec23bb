"""Several values in one cell become rows of a relation of their own, with the key of the row they stood in.

    Job   Crew                Job   Crew         Position
    17    Ann, Ben       →    17    Ann          1
    18    Ben                 17    Ben          2
                              18    Ben          1

A comma does not make a list. The values of a list come again: alone, in other cells, in other places of the cell.
``Ostend, Belgium`` always has two parts, of which the first never stands second; ``1,250.00`` is a number; and in a
remark the parts are said once.
"""

from __future__ import annotations

import re
from collections import Counter
from itertools import takewhile
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import distinct
from hemplit.core.model.account import Cells, Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.relation import POSITION, Doubt, Step
from hemplit.core.shape.children import copied, from_codes, key_of, shared, with_key
from hemplit.core.shape.looks import is_date, is_number
from hemplit.core.shape.working import Working, WorkingColumn
from hemplit.core.texts.words import FREE_TEXT, is_of_keywords, is_plural, words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from hemplit.core.shape.working import Flags

ACT = Act.LISTS
SETTINGS = {"column": "column", "into": "text", "by": "separator", "key": "key"}
COMMA = r"\s*,\s*(?:(?:and|und|et|y)\s+)?|\s+(?:and|&|und|et)\s+"
#: Where commas part the values of a list, semicolons in some cells do so, too.
MIXED = "comma or semicolon"
#: The separators in words, with what parts the values; the clearer ones come first.
SEPARATORS = {
    "line break": r"\s*\n\s*",
    "semicolon": r"\s*;\s*",
    "bar": r"\s*\|\s*",
    "slash": r"\s*/\s*",
    "comma": COMMA,
    "and": r"\s+(?:and|und|et|y)\s+|\s*&\s*|\s*\+\s*",
    MIXED: rf"\s*;\s*|{COMMA}",
}
#: What stands between values and seldom for anything else: that some of these stand alone as well is enough, if they
#: are names and no remarks, which have more words.
FOR_NOTHING_ELSE = ("line break", "semicolon", "bar")
FEW_WORDS = 4
#: Something of which each separator has at least one.
ANY = r"[\n;|/,&+]|\s(?:and|und|et|y)\s"
SEVERAL_SIGNS = re.compile(ANY)
#: A value with a number: "cleat (2)", "cleat x2", "2 x cleat", "2 cleats".
NUMBER_BEFORE, NUMBER_BEHIND = r"\d+ ?[x×]? ?", r" ?(?:\(\d+\)|[x×] ?\d+)"
WHAT = r"[^\W\d][^\d()]*?"
NUMBERED = re.compile(
    rf"(?={NUMBER_BEFORE}|.*{NUMBER_BEHIND}$)(?:{NUMBER_BEFORE})?(?P<what>{WHAT})(?:{NUMBER_BEHIND})?"
)
WITH_NUMBERS = r"\(\d+\)|[x×] ?\d|\d ?[x×]? ?[[:alpha:]]"
PLAIN = {"line break": "\n", "semicolon": "; ", "bar": " | ", "slash": "/", "comma": ", ", "and": " and ", MIXED: ", "}
#: At least this share of the filled cells holds more than one value, ...
SEVERAL = 0.05
#: ... a value stands in so many cells on average, ...
AGAIN = 1.6
#: ... and this share of the values that stand first somewhere stand elsewhere, too.
EXCHANGED = 0.3
#: Longer values are sentences.
LONGEST = 40
#: Of so many different texts the decision is made.
LOOKED_AT = 5_000


def find(working: Working) -> Iterator[Step | Doubt]:
    """A step for each column that holds lists, and a doubt for one whose values have a number each."""
    taken = shared(working)
    free = [column for column in working.columns if column.name not in taken]
    lists = [(column, by) for column in free if (by := separator(column)) is not None]
    for column in free:
        codes = _with_numbers(column) if all(column is not one for one, _ in lists) else []
        if codes:
            rows = np.flatnonzero(np.isin(column.cells.codes, codes))
            what = f"'{column.name}' has several values in a cell, each with a number"
            hint = "give each a row of its own in the sheet, and the number a column, to have them in tables"
            yield Doubt(what, working.places(column, rows), hint, len(rows))
    without = [column.name for column, _ in lists]
    for column, by in lists:
        several = sum(len(_parts(str(text), by)) > 1 for text in column.cells.texts.to_pylist())
        yield Step(
            ACT,
            (("column", column.name), ("into", column.name), ("by", by), ("key", key_of(working, without))),
            f"{several:,} of {len(column.cells.texts):,} distinct texts hold several values",
        )


def separator(column: WorkingColumn) -> str | None:
    """What separates the values of a list, in words; None if the column holds none."""
    some = column.cells.texts.slice(0, LOOKED_AT)
    if all(is_number(str(text)) or is_date(str(text)) for text in some.slice(0, kinds.PROBE).to_pylist()):
        return None
    if not pc.any(pc.match_substring_regex(some, ANY)).as_py():
        return None
    texts = [str(text) for text in some.to_pylist()]
    for by, pattern in SEPARATORS.items():
        parted = pc.sum(pc.match_substring_regex(some, pattern)).as_py() or 0
        if parted > 1 and _is_list(column.name, texts, column.cells.counts[: len(texts)].tolist(), by):
            return MIXED if by == "comma" and _is_mixed(texts) else by
    return None


def _is_mixed(texts: Sequence[str]) -> bool:
    """Whether semicolons part values in some cells, each with one that other cells have between commas.

    >>> _is_mixed(["Ann, Ben", "Cas; Ann"]), _is_mixed(["Ann, Ben", "Ann (am; pm)"]), _is_mixed(["Ann, Ben"])
    (True, False, False)
    """
    others = {part for text in texts if ";" not in text for part in _parts(text, "comma")}
    mixed = [_parts(text, MIXED) for text in texts if ";" in text]
    return bool(mixed) and all("" not in parts and not others.isdisjoint(parts) for parts in mixed)


def _is_list(header: str, texts: Sequence[str], counts: Sequence[int], by: str) -> bool:
    parted = [(_parts(text, by), count) for text, count in zip(texts, counts, strict=True)]
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
    names = plain and len(lengths) > 1 and _words_in(values) <= FEW_WORDS
    if names and by_themselves:
        return True
    # A header that speaks of several says what they are; then that one of them comes again is enough, or that two names
    # stand in one cell and three in another.
    said = is_plural(header) and FREE_TEXT.isdisjoint(words(header)) and _words_in(values) <= FEW_WORDS
    said = said and not any(NUMBERED.fullmatch(value) for value in values)
    again = values.total() > len(values)
    varied = len({len(parts) for parts, _ in several}) > 1
    listed = names or by_themselves or exchanged or (is_of_keywords(header) and lengths != {2})
    if said and ((again and listed) or (varied and _have_capitals(values))):
        return True
    # Each different text counts once: a remark that is copied from row to row says its parts only once.
    if sum(values.values()) < AGAIN * len(values):
        return False
    return exchanged or (names and bool(both & alone)) or (by_themselves and bool(first & later))


def _with_numbers(column: WorkingColumn) -> list[int]:
    """The codes of the texts of a column in which several values have a number each, such as "cleat (2), rope (5)"."""
    some = column.cells.texts.slice(0, LOOKED_AT)
    if not pc.any(pc.match_substring_regex(some, WITH_NUMBERS)).as_py():
        return []
    texts = [str(text) for text in some.to_pylist()]
    for by, pattern in SEPARATORS.items():
        if (pc.sum(pc.match_substring_regex(some, pattern)).as_py() or 0) < 2:
            continue
        parted = [_parts(text, by) for text in texts]
        found = [*takewhile(bool, (NUMBERED.fullmatch(part) for parts in parted for part in parts))]
        named = {one["what"].casefold() for one in found if one is not None}
        if len(found) == sum(map(len, parted)) >= AGAIN * len(named):
            return [code for code, parts in enumerate(parted) if len(parts) > 1]
    return []


def _have_capitals(values: Iterable[str]) -> bool:
    """Whether each word of all values has one."""
    return all(word[:1].isupper() for value in values for word in value.split())


def _words_in(values: Iterable[str]) -> int:
    """How many words of letters the longest of the values has."""
    return max(sum(map(str.isalpha, value.split())) for value in values)


def _parts(text: str, by: str) -> list[str]:
    return [part for part in re.split(SEPARATORS[by], text.strip()) if part or by == "comma"]


def told(working: Working, step: Step) -> Iterator[Doubt]:
    """The cells in which values of the list stand together in another way than in the others, and are taken as one."""
    column, by = working.named(step.text("column")), step.text("by")
    if column is None:
        return
    lists = [_parts(str(text), by) for text in column.cells.texts.to_pylist()]
    values = {part for parts in lists for part in parts}
    mixed = {value for value in values if made_of(value, values, by)}
    if mixed:
        codes = [code for code, parts in enumerate(lists) if not mixed.isdisjoint(parts)]
        rows = np.flatnonzero(np.isin(column.cells.codes, codes))
        what = f"'{column.name}' has cells in which several values stand as one"
        hint = f"write a {by} between them in the sheet, as in the others, and load again"
        yield Doubt(what, working.places(column, rows), hint, len(rows))


def made_of(value: str, values: set[str], but: str = "") -> list[str]:
    """The values of which one is made, with a separator between them, ``but`` one; none if it is one by itself.

    >>> made_of("Aas; Berg", {"Aas", "Berg"}), made_of("Aas; Berg", {"Aas"})
    (['Aas', 'Berg'], [])
    """
    if SEVERAL_SIGNS.search(value):
        for parts in (_parts(value, by) for by in SEPARATORS if by != but):
            if len(parts) > 1 and values.issuperset(parts):
                return parts
    return []


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the column, which becomes a child with a row for each value."""
    working = with_key(working, step.texts("key"))
    column = working.named(step.text("column"))
    if column is None:
        return working
    by = step.text("by")
    lists = [[part for part in _parts(str(text), by) if part] for text in column.cells.texts.to_pylist()]
    exact = np.array(
        [PLAIN[by].join(parts) == text for parts, text in zip(lists, column.cells.texts.to_pylist(), strict=True)]
        + [False]
    )
    values = list(dict.fromkeys(part for parts in lists for part in parts))
    place = {value: code for code, value in enumerate(values)}
    lengths = np.array([len(parts) for parts in lists] + [0])
    flat = np.array([place[part] for parts in lists for part in parts], dtype=np.int32)
    starts = np.concatenate([[0], np.cumsum(lengths[:-1])]).astype(np.int64)
    codes = column.cells.codes
    many = lengths[codes]
    rows = np.repeat(np.arange(working.row_count), many)
    within = np.arange(len(rows)) - np.repeat(np.cumsum(many) - many, many)
    cells = flat[starts[codes[rows]] + within] if len(flat) else np.zeros(0, dtype=np.int32)
    child = Working(
        working.source,
        (
            *copied(working, step.texts("key"), rows),
            replace(column, cells=GridColumn(cells, pa.array(values, pa.string())), own=False, changed=None),
            from_codes(POSITION, column.position, within, [str(one + 1) for one in range(int(many.max(initial=0)))]),
        ),
        working.grid_rows[rows],
        name=step.text("into"),
        of=step.texts("key"),
        account=_account(working, column, exact),
    )
    left = replace(working, columns=tuple(one for one in working.columns if one is not column))
    return replace(left, children=(*left.children, child))


def _account(working: Working, column: WorkingColumn, exact: Flags) -> tuple[Cells, ...]:
    """The cells that the list written again gives back, those that it gives otherwise, and the empty ones.

    What an earlier step changed stays under its name.
    """
    codes = column.cells.codes
    by = np.zeros(len(codes), dtype=np.int8) if column.changed is None else column.changed
    same = exact[codes] & (codes != EMPTY) & (by == 0)
    rewritten = ~exact[codes] & (codes != EMPTY) & (by == 0)
    parts = [
        Cells(Fate.STORED, column.name, working.grid_rows[same], (column.position,)),
        Cells(Fate.CHANGED, ACT, working.grid_rows[rewritten], (column.position,)),
        Cells(
            Fate.LEFT_OUT,
            f"empty cells of {column.name}",
            working.grid_rows[(codes == EMPTY) & (by == 0)],
            (column.position,),
        ),
    ]
    for number in distinct(by[by != 0]).tolist():
        parts.append(Cells(Fate.CHANGED, Act.of(number), working.grid_rows[by == number], (column.position,)))
    return tuple(one for one in parts if len(one.rows))
