"""Whole numbers: digits without leading zeros, at most 15 of them so that no program in between rounds them.

``007``, a phone number and a 20-digit account number are texts: as numbers they would lose something.
"""

from __future__ import annotations

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.kinds.reader import all_match, only
from hemplit.core.model.relation import Kind

PATTERN = r"0|-?[1-9][0-9]{0,14}"


class WholeReader:
    """Reads ``42`` as 42.

    >>> reader = WholeReader()
    >>> reader.fit(pa.array(["42", "-7", "0"])), reader.fit(pa.array(["007"]))
    (Kind(word='whole number', form=''), None)
    """

    word = "whole number"

    def fit(self, texts: pa.StringArray) -> Kind | None:
        return Kind(self.word) if all_match(texts, PATTERN) else None

    def parse(self, texts: pa.StringArray, form: str) -> pa.Array:
        fits = pc.match_substring_regex(texts, f"^(?:{PATTERN})$")
        return pc.cast(only(texts, fits), pa.int64())

    def show(self, value: int, form: str) -> str:
        return str(value)
