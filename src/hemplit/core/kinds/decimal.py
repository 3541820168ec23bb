"""Decimal numbers with a point, of so many digits that a double holds them: 15, or more as programs write a double.

What a program calculates, such as 6 times 1.2, it writes with the digits that tell its double from all others:
7.199999999999999. Other numbers of so many digits would not come back as they were, and are texts.

The form counts the decimal places (``0.00``) where all texts have the same number of them; where they differ the form
is empty, and ``12.5`` and ``12.50`` are one value.
"""

from __future__ import annotations

import re

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.kinds.reader import PROBE, all_match, only
from hemplit.core.model.relation import Kind

PATTERN = r"-?(?:0|[1-9][0-9]*)(?:\.[0-9]+)?"
LONGEST = 15


class DecimalReader:
    """Reads ``12.50`` as 12.5.

    >>> reader = DecimalReader()
    >>> reader.fit(pa.array(["12.50", "3.10"])), reader.fit(pa.array(["12.5", "3"]))
    (Kind(word='decimal', form='0.00'), Kind(word='decimal', form=''))
    >>> reader.parse(pa.array(["12.50", "1,2"]), "").to_pylist()
    [12.5, None]
    >>> reader.fit(pa.array(["7.199999999999999", "14"])), reader.fit(pa.array(["0.1234567890123456789"]))
    (Kind(word='decimal', form=''), None)
    """

    word = "decimal"

    def fit(self, texts: pa.StringArray) -> Kind | None:
        if not all_match(texts, PATTERN):
            return None
        if not pc.any(pc.match_substring(texts, ".")).as_py() or not pc.all(_is_held(texts)).as_py():
            return None
        places = _places(texts.slice(0, PROBE))
        if len(places) == 1 and 0 not in places and len(_places(texts)) == 1:
            return Kind(self.word, "0." + "0" * places.pop())
        return Kind(self.word)

    def parse(self, texts: pa.StringArray, form: str) -> pa.Array:
        fits = pc.and_(pc.match_substring_regex(texts, f"^(?:{PATTERN})$"), _is_held(texts))
        return pc.cast(only(texts, fits), pa.float64())

    def show(self, value: float, form: str) -> str:
        if form:
            return f"{value:.{len(form) - 2}f}"
        short = f"{value:.{LONGEST}g}"
        return short if float(short) == value else repr(value)


def _is_held(texts: pa.StringArray) -> pa.BooleanArray:
    """Whether a double gives each number back as it is written."""
    held = pc.less_equal(pc.utf8_length(pc.replace_substring_regex(texts, r"[-.]", "")), LONGEST)
    if pc.all(held).as_py():
        return held
    return pc.or_(held, pa.array([_is_of_double(text) for text in texts.to_pylist()], pa.bool_()))


def _is_of_double(text: str) -> bool:
    """Whether a number is written with the digits that tell a double from all others.

    >>> [_is_of_double(text) for text in ("7.199999999999999", "7.1999999999999991", "about 7")]
    [True, False, False]
    """
    return re.fullmatch(PATTERN, text) is not None and repr(float(text)) == text


def _places(texts: pa.StringArray) -> set[int]:
    after = pc.utf8_length(pc.replace_substring_regex(texts, r"^[^.]*\.?", ""))
    return set(pc.unique(after).to_pylist())
