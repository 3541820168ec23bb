"""Words that stand for a blank (``n/a``, ``-``, ``none``) become blanks, where the column shows that they mean it.

In a column of numbers, dates or codes any of them does. Among other texts only signs and abbreviations that can mean
nothing else do: ``None`` may be an answer, and ``NA`` among codes of two letters is Namibia. In doubt it stays.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.acts import Act
from hemplit.core.model.relation import Doubt, Step
from hemplit.core.shape.looks import SIGNS, TOO_LITTLE, WORDS, is_date, is_number
from hemplit.core.shape.working import Working, first_places, rewritten, with_column

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.shape.working import WorkingColumn

ACT = Act.BLANK_WORDS
SETTINGS = {"column": "column", "texts": "texts"}
#: Words that people may answer with.
ANSWERS = frozenset({"x", "xx", "pending"})
#: So many of the other different texts of a column are looked at.
LOOKED_AT = 200


def find(working: Working) -> Iterator[Step | Doubt]:
    """A step for each column that has such words."""
    known = pa.array(sorted(SIGNS | WORDS | TOO_LITTLE), pa.string())
    for column in working.columns:
        texts = column.cells.texts
        folded = pc.utf8_lower(pc.utf8_trim_whitespace(texts))
        hits = np.flatnonzero(pc.is_in(folded, known).to_numpy(zero_copy_only=False))
        if not len(hits) or len(hits) == len(texts):
            continue
        words = {str(texts[int(hit)].as_py()): str(folded[int(hit)].as_py()) for hit in hits}
        others = [str(text) for text in texts.slice(0, LOOKED_AT + len(hits)).to_pylist() if text not in words]
        little = tuple(text for text, word in words.items() if word in TOO_LITTLE and _are_numbers(others))
        blank = tuple(text for text, word in words.items() if text not in little and _means_blank(word, others))
        counts = column.cells.counts
        if little:
            why = "too little to be measured, in a column of numbers; or write the limit into the sheet"
            yield Step(ACT, (("column", column.name), ("texts", little)), why, proposed=True)
        if blank:
            total = int(sum(counts[int(hit)] for hit in hits if str(texts[int(hit)].as_py()) in blank))
            yield Step(ACT, (("column", column.name), ("texts", blank)), f"{total:,} in a column of {_what(others)}")
        left = [hit for hit in hits if str(texts[int(hit)].as_py()) not in (*blank, *little)]
        if left and all(len(text) > 2 for text in others[:20]):
            rows = first_places(column)[left]
            yield Doubt(
                f"'{column.name}' has words that may stand for a blank",
                working.places(column, rows),
                "left as they are, since they may be values here",
                int(counts[left].sum()),
            )


def _are_numbers(others: list[str]) -> bool:
    return bool(others) and all(is_number(text) for text in others)


def _means_blank(word: str, others: list[str]) -> bool:
    if not others:
        return False
    if len(word) == 1 and word.isalpha() and all(len(text) == 1 for text in others):
        return False  # of nine grades and an X none is a blank
    if _what(others) != "texts":
        return word not in ANSWERS or all(is_number(text) for text in others)
    # Among signs and single letters a sign is one of them.
    return word in SIGNS and not any(len(text) == 1 or not any(map(str.isalnum, text)) for text in others)


def _what(others: list[str]) -> str:
    if all(is_number(text) or is_date(text) for text in others):
        return "numbers or dates"
    coded = all(any(map(str.isdigit, text)) and " " not in text.strip() for text in others)
    return "codes" if coded else "texts"


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with blanks instead of the words."""
    column: WorkingColumn | None = working.named(step.text("column"))
    if column is None:
        return working
    blank = pc.is_in(column.cells.texts, pa.array(step.texts("texts"), pa.string()))
    return with_column(working, column, rewritten(column, pc.if_else(blank, None, column.cells.texts), number))
