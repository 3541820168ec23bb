"""What the top rows of a sheet are: titles, labels with what they say of all rows below, and the header.

    Mole Quay Boatyard                       a title
    Job No       J-1001                      labels
    Owner        Ann Barlow   Date   3 May
    Part         Qty          Price          the header

Labels end with a colon; or each stands beside one cell, in rows narrower than the table, and what stands beside them is
of several sorts, as no column is.
"""

from __future__ import annotations

import re
from enum import Enum
from itertools import pairwise
from typing import TYPE_CHECKING

from hemplit.core.shape.looks import is_date, is_number, is_word

if TYPE_CHECKING:
    from collections.abc import Collection, Iterator, Sequence

    Pair = tuple[str, str]

#: A header stands within so many rows of the top, ...
DEEPEST = 40
#: ... and names at least this share of the columns that are filled below it.
NAMED = 0.6
#: So many years, days or numbers that follow each other stand in a header, beside words.
SEVERAL_LABELS = 3
#: A title has so many lines at most: what it is, whose, and of which day.
TITLE_LINES = 3
#: Labels without a colon stand in so many rows at least, each with one cell beside it, above a table that is wider.
FEWEST = 2
#: A label and what it says in one cell; the time 7:30 and an address on the web are none.
IN_ONE = re.compile(r"([^\W\d_][^:]{0,30}):\s+(\S.*)", re.DOTALL)


def pairs(texts: Sequence[str], known: Collection[str] = ()) -> tuple[Pair, ...]:
    """The labels of a row with what each says, if it holds nothing else; ``known`` labels need no colon.

    Of several in a row that have none, each begins behind a gap.

    >>> pairs(["Owner", "Ann Barlow", ""]), pairs(["Dock: North", "", "Keeper:", "Quill"])
    ((('Owner', 'Ann Barlow'),), (('Dock', 'North'), ('Keeper', 'Quill')))
    >>> pairs(["Job", "J-17", "", "Fee", "90"]), pairs(["Job", "Boat", "Hours", "Fee"]), pairs(["A list of boats", ""])
    ((('Job', 'J-17'), ('Fee', '90')), (), ())
    """
    found: list[list[str]] = []
    waiting, last, plain, close = False, -2, False, False
    for place, text in ((place, tidy(text)) for place, text in enumerate(texts) if text.strip()):
        both = IN_ONE.fullmatch(text)
        if both is not None and (both[1] in known if known else True) and not (waiting and known):
            found.append([both[1], both[2]])
            waiting = False
        elif (label := text.removesuffix(":").rstrip()) in known or (text.endswith(":") and len(text) > 1):
            found.append([label, ""])
            waiting = True
        elif waiting:
            found[-1][1] = text
            waiting = False
        elif known or not is_word(text):
            return ()
        else:
            close |= plain and place == last + 1
            found.append([text, ""])
            waiting = plain = True
        last = place
    told = tuple((label, value) for label, value in found)
    return () if close or not (known or any(value for _, value in told)) else told


def bare(text: str) -> str:
    """A label without its colon."""
    return tidy(text).removesuffix(":").rstrip()


def tidy(text: str) -> str:
    """A header without line breaks, doubled and outer blanks."""
    return re.sub(r"[\s\u00a0\u200b\ufeff]+", " ", text).strip()


def labelled(top: Sequence[Sequence[str]]) -> range:
    """The rows that hold labels, if the rows of the top alone tell so.

    >>> form = [["Job", "J-17"], ["Owner", "Ann"], ["Part", "Qty", "Fee"], ["Cleat", "4", "2"], ["Rope", "1", "9"]]
    >>> labelled(form), labelled([["Dock: North", ""], ["Berth", "Boat"], ["W1", "Teal"]]), labelled(form[2:])
    (range(0, 2), range(0, 1), range(0, 0))
    """
    first = next((row for row, texts in enumerate(top[: TITLE_LINES + 1]) if pairs(texts)), 0)
    if any(_width(texts) != 1 for texts in top[:first]):
        return range(0)
    known: list[str] = []
    stop, colons = first, True
    for texts in top[first:]:
        told = pairs(texts)
        colons = _all_with_colons(texts) if stop == first else colons
        again = not {label for label, _ in told}.isdisjoint(known)
        if not told or again or not (_all_with_colons(texts) if colons else all(value for _, value in told)):
            break
        known += [label for label, _ in told]
        stop += 1
    rows = range(first, stop)
    if len({*known}) < len(known):
        return range(0)
    return rows if colons or _is_form(top, rows) or _comes_again(top, rows, known) else range(0)


def further_labels(top: Sequence[Sequence[str]], rows: range) -> Iterator[str]:
    """The labels with a colon that stand below those of other forms, though not in the first, whose ``rows`` these are.

    >>> top = [["Boat:", "Teal"], ["Job", "Fee"], ["1", "9"], ["Boat:", "Smew"], ["Keeper:", "Bo"], ["Job", "Fee"]]
    >>> [*further_labels(top, range(1))]
    ['Keeper']
    """
    known = {label for row in rows for label, _ in pairs(top[row])}
    below = False
    for texts in top:
        told = [label for label, _ in pairs(texts, known)]
        below = bool(told) and (below or not known.isdisjoint(told))
        yield from (label for label in told if below and label not in known)
        known.update(told if below else ())


def _all_with_colons(texts: Sequence[str]) -> bool:
    """Whether all labels of a row say with a colon that they are labels."""
    filled = [tidy(text) for text in texts if text.strip()]
    marked = sum(text.endswith(":") or IN_ONE.fullmatch(text) is not None for text in filled)
    return marked == len(pairs(texts)) > 0


def _is_form(top: Sequence[Sequence[str]], rows: range) -> bool:
    """Whether rows are labels with what they say above a wider table, and no table themselves."""
    rest = [texts for texts in top[rows.stop :] if _width(texts) > 1][:FEWEST]
    said = [value for row in rows for _, value in pairs(top[row])]
    if len(said) < FEWEST or len(rest) < FEWEST or any(_width(texts) <= FEWEST for texts in rest):
        return False
    return sort_of(said[0]) in (Sort.CODE, Sort.DATE) or are_of_sorts(said[1:])


def _comes_again(top: Sequence[Sequence[str]], rows: range, known: Sequence[str]) -> bool:
    """Whether nothing but further forms with these labels follows, each of which says several sorts of things."""
    said = [pair for row in rows for pair in pairs(top[row])]
    rest = top[rows.stop :]
    if not rest or not are_of_sorts([value for _, value in said[1:]]):
        return False
    again = pairs(rest[0], known)[:1]
    # Where the same stands again it is a header, and no label.
    return bool(again) and again[0][0] == said[0][0] and again[0] != said[0] and all(pairs(row, known) for row in rest)


def are_of_sorts(texts: Sequence[str]) -> bool:
    """Whether cells are numbers, dates, codes or words, and not all of them one of these.

    >>> are_of_sorts(["Teal", "7.5"]), are_of_sorts(["7.5", "8"])
    (True, False)
    """
    return len({*map(sort_of, texts)}) > 1


def _width(texts: Sequence[str]) -> int:
    return sum(bool(text.strip()) for text in texts)


class Sort(Enum):
    """What a cell holds."""

    NUMBER, DATE, CODE, WORDS = range(4)


def sort_of(text: str) -> Sort:
    """What sort of thing a cell says.

    >>> [sort_of(text).name for text in ("3 May 2026", "7.5", "M-17", "Teal")]
    ['DATE', 'NUMBER', 'CODE', 'WORDS']
    """
    if is_date(text):
        return Sort.DATE
    if is_number(text):
        return Sort.NUMBER
    return Sort.CODE if any(map(str.isdigit, text)) else Sort.WORDS


def header_row(top: Sequence[Sequence[str]]) -> int | None:
    """The first row that could be a header, None if none could; the last row has nothing below it and is none."""
    labels = labelled(top)
    widths = [*map(_width, top)]
    for row, texts in enumerate(top[:-1]):
        if row < labels.stop:
            continue
        below = sorted(widths[row + 1 : row + 12])
        typical = below[len(below) // 2]
        words = sum(is_word(text) for text in texts)
        if widths[row] < max(min(2, typical), NAMED * typical):
            continue
        numbers = [text.strip() for text in texts if text.strip() and not is_word(text)]
        if len(numbers) >= SEVERAL_LABELS and are_labels(numbers) and (words > 1 or _are_days(texts, top[row + 1 :])):
            words += len(numbers)
        if words == widths[row] or (widths[row] >= typical and 2 * words >= widths[row]):
            return row
    return None


def _are_days(texts: Sequence[str], below: Sequence[Sequence[str]]) -> bool:
    """Whether days stand over what was told of each of them, beside one word over what it is told of."""
    days = [place for place, text in enumerate(texts) if is_date(text)]
    told = [row[place] for row in below for place in days if place < len(row) and row[place].strip()]
    return is_word(texts[0]) and len(days) == _width(texts) - 1 and bool(told) and not any(map(is_date, told))


def are_labels(numbers: Sequence[str]) -> bool:
    """Whether numbers in a row may well stand over columns: years, days, or numbers that follow each other.

    >>> are_labels(["2024", "2026"]), are_labels(["1", "2", "3"]), are_labels(["9", "4.5"])
    (True, True, False)
    >>> are_labels(["2026-03-02", "2026-03-03", "2026-03-04"])
    True
    """
    if len(numbers) >= SEVERAL_LABELS and all(map(is_date, numbers)):
        return len(set(numbers)) == len(numbers)
    if all(re.fullmatch(r"(?:19|20)\d{2}", text) for text in numbers):
        return True
    whole = [int(text) for text in numbers if text.isdecimal()]
    return len(whole) == len(numbers) > 1 and all(two == one + 1 for one, two in pairwise(whole))
