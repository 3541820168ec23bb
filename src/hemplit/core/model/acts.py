"""The acts that shape a sheet, in the order in which they are done, under the words that a design has for them."""

from __future__ import annotations

from enum import StrEnum


class Act(StrEnum):
    """One sort of step.

    >>> Act.HEADER.number, Act.of(3)
    (3, <Act.HEADER: 'take names from the header'>)
    """

    AREA = "take the cells"
    BLANK_ROWS = "set aside blank rows"
    HEADER = "take names from the header"
    TIDY = "tidy blanks"
    REPEATED_HEADER = "set aside repeated headers"
    LONG_ROWS = "set aside lines that are too long"
    NOTES = "set aside notes below"
    TOTALS = "set aside totals"
    ONE_ROW = "set aside this row"
    MERGED_CELLS = "spread merged cells"
    HEADS = "repeat the heads"
    DITTO = "read ditto marks"
    BLANK_WORDS = "take as blank"
    READ_NUMBERS = "read numbers"
    READ_DATES = "read dates"
    SPELLING = "correct spelling"
    SIBLINGS = "correct by siblings"
    GAPS = "fill gaps"
    DUPLICATES = "set aside doubled rows"
    FILE_NAME = "take from the file name"
    SIDEWAYS = "stand up"
    LISTS = "take lists apart"
    PARTS = "take into parts"
    HELD = "keep what is held"

    @property
    def number(self) -> int:
        """The number by which a cell remembers the act that changed it, from 1."""
        return _NUMBERS[self]

    @classmethod
    def of(cls, number: int) -> Act:
        """The act of that number."""
        return _ACTS[number - 1]


_ACTS = tuple(Act)
_NUMBERS = {act: number for number, act in enumerate(_ACTS, 1)}
