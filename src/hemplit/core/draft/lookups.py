"""Texts that repeat and name a kind of thing, such as a status, a category or a place, become lookup tables.

Numbers, dates, codes, lists and free text that repeat do not: a quantity that occurs twice names nothing.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.draft.sorts import PLACE_REPEATS, is_code
from hemplit.core.draft.weighing import LISTS
from hemplit.core.texts.vocabulary import ADDRESS, CONTACT, FREE_TEXT, PLACE
from hemplit.core.texts.words import is_part_of_name, is_value, subject, words

if TYPE_CHECKING:
    from hemplit.core.model.findings import ColumnFacts

#: Each value must stand in so many rows of its table on average; fewer, and the table says nothing new.
LEAST_REPEATS = 2.0
#: Where the rows say which of one sort goes with which of another, both are things, and fewer are enough.
LEAST_OF_PAIRS = 1.25
#: Such columns are lists of nothing, however often they repeat.
NEVER = ADDRESS | CONTACT | FREE_TEXT
#: A list that a person can overlook.
MOST_VALUES = 500
#: Names of kinds are short.
LONGEST = 40
MEAN_LENGTH = 25.0
#: In a column of codes, the code itself is the name.
MOST_CODES = 0.5


def is_lookup(facts: ColumnFacts, rows: int, wanted: str = "some", *, paired: bool = False) -> bool:
    """Whether a text column of a table with so many rows names a kind of thing; none, some or many are wanted.

    The rows of the table may pair it with others.
    """
    return not why_no_lookup(facts, rows, wanted, paired=paired)


def why_no_lookup(facts: ColumnFacts, rows: int, wanted: str = "some", *, paired: bool = False) -> str:
    """Why a column gets no lookup table; empty if it does."""
    few = PLACE_REPEATS if wanted == "some" and PLACE.intersection(words(facts.name)) else LEAST_REPEATS
    few = LEAST_OF_PAIRS if paired else few
    said = words(facts.name)
    reasons = {
        "none are wanted": wanted == "none",
        f"repeated {facts.kind.word}s are measures, not names": facts.kind.word != "text" or facts.amounts,
        "its header names no category": not NEVER.isdisjoint(subject(said))
        or is_part_of_name(said)
        or is_value(facts.name),
        "it keeps the typos of another column": facts.beside,
        "it has one value only": facts.distinct < 2,
        "none of its values comes again": facts.blanks > 0 and not facts.repeats,
        f"{facts.distinct:,} distinct texts in {rows:,} rows repeat too little": rows < facts.distinct * few,
        f"a list of {facts.distinct:,} is too long to overlook": wanted == "some" and facts.distinct > MOST_VALUES,
        "its texts are too long for names": facts.longest > LONGEST
        or (wanted == "some" and facts.mean_length > MEAN_LENGTH),
        "its texts are codes, and a code is the name already": wanted == "some"
        and (facts.code_like > MOST_CODES or is_code(facts)),
        "its cells hold several values": wanted == "some" and facts.list_like >= LISTS,
    }
    return next((reason for reason, holds in reasons.items() if holds), "")
