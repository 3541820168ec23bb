"""The acts that shape a sheet, in the order in which they are done, under the words that a design has for them."""

from __future__ import annotations

from enum import StrEnum


class Act(StrEnum):
    """One sort of step.

    >>> Act.HEADER.number, Act.of(5)
    (5, <Act.HEADER: 'read the header'>)
    """

    TURNED = "turn the sheet"
    AREA = "read these cells"
    BLANK_ROWS = "skip blank rows"
    LABELS = "add columns from labels"
    HEADER = "read the header"
    TIDY = "trim spaces"
    REPEATED_HEADER = "skip repeated headers"
    LONG_ROWS = "skip lines that are too long"
    NOTES = "skip notes"
    TOTALS = "skip total rows"
    ONE_ROW = "skip this row"
    SECTIONS = "read headings of rows"
    MERGED_CELLS = "fill merged cells"
    HEADS = "fill down"
    DITTO = "read ditto marks"
    BLANK_WORDS = "treat as blank"
    READ_NUMBERS = "read numbers"
    READ_DATES = "read dates"
    SPELLING = "correct typos"
    SIBLINGS = "correct from other rows"
    GAPS = "fill blanks"
    BESIDE = "keep beside"
    DUPLICATES = "skip duplicate rows"
    FILE_NAME = "add column from file name"
    SIDEWAYS = "turn columns into rows"
    LISTS = "split lists into rows"
    PARTS = "split into columns"
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
