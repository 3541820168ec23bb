"""Texts that repeat and name a kind of thing, such as a status, a category or a place, become lookup tables.

Numbers, dates, codes, lists and free text that repeat do not: a quantity that occurs twice names nothing.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.draft.judge import LISTS
from hemplit.core.words import ADDRESS, CONTACT, FREE_TEXT, PART_OF_NAME, words

if TYPE_CHECKING:
    from hemplit.core.model.findings import ColumnFacts

#: Each value must stand in so many rows of its table on average; fewer, and the table says nothing new.
LEAST_REPEATS = 4.0
#: A list that a person can overlook.
MOST_VALUES = 500
#: Names of kinds are short.
LONGEST = 40
MEAN_LENGTH = 25.0
#: In a column of codes, the code itself is the name.
MOST_CODES = 0.5


def is_lookup(facts: ColumnFacts, rows: int) -> bool:
    """Whether a text column of a table with so many rows names a kind of thing."""
    return (
        facts.kind.word == "text"
        and 2 <= facts.distinct <= MOST_VALUES
        and rows >= facts.distinct * LEAST_REPEATS
        and facts.longest <= LONGEST
        and facts.mean_length <= MEAN_LENGTH
        and facts.code_like <= MOST_CODES
        and facts.list_like < LISTS
        and not set(words(facts.name)) & (CONTACT | ADDRESS | FREE_TEXT | PART_OF_NAME)
    )
