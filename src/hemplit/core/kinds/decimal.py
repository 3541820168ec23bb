"""Decimal numbers with a point, at most 15 significant digits so that a double holds them exactly enough.

The form counts the decimal places (``0.00``) where all texts have the same number of them; where they differ the form
is empty, and ``12.5`` and ``12.50`` are one value.
"""

from __future__ import annotations

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
    """

    word = "decimal"

    def fit(self, texts: pa.StringArray) -> Kind | None:
        if not all_match(texts, PATTERN):
            return None
        digits = pc.utf8_length(pc.replace_substring_regex(texts, r"[-.]", ""))
        pointed = pc.match_substring(texts, ".")
        if pc.max(digits).as_py() > LONGEST or not pc.any(pointed).as_py():
            return None
        places = _places(texts.slice(0, PROBE))
        if len(places) == 1 and 0 not in places and len(_places(texts)) == 1:
            return Kind(self.word, "0." + "0" * places.pop())
        return Kind(self.word)

    def parse(self, texts: pa.StringArray, form: str) -> pa.Array:
        fits = pc.match_substring_regex(texts, f"^(?:{PATTERN})$")
        return pc.cast(only(texts, fits), pa.float64())

    def show(self, value: float, form: str) -> str:
        return f"{value:.{len(form) - 2}f}" if form else f"{value:.15g}"


def _places(texts: pa.StringArray) -> set[int]:
    after = pc.utf8_length(pc.replace_substring_regex(texts, r"^[^.]*\.?", ""))
    return set(pc.unique(after).to_pylist())
