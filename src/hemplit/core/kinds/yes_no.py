"""Yes or no: two words of a known pair, always written alike; the form is ``Yes/No``."""

from __future__ import annotations

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.relation import Kind

#: In lower case, the word for yes first.
PAIRS = (
    ("yes", "no"),
    ("y", "n"),
    ("true", "false"),
    ("ja", "nein"),
    ("oui", "non"),
    ("sí", "no"),
    ("si", "no"),
)


class YesNoReader:
    """Reads ``Yes`` as true where ``No`` occurs, too.

    >>> reader = YesNoReader()
    >>> reader.fit(pa.array(["No", "Yes"])), reader.fit(pa.array(["Yes"])), reader.fit(pa.array(["Yes", "no", "No"]))
    (Kind(word='yes/no', form='Yes/No'), None, None)
    """

    word = "yes/no"

    def fit(self, texts: pa.StringArray) -> Kind | None:
        if len(texts) != 2:
            return None
        words = [str(text) for text in texts.to_pylist()]
        for yes, no in PAIRS:
            for first, second in (words, words[::-1]):
                if (first.lower(), second.lower()) == (yes, no):
                    return Kind(self.word, f"{first}/{second}")
        return None

    def parse(self, texts: pa.StringArray, form: str) -> pa.Array:
        yes, _, no = form.partition("/")
        known = pc.or_(pc.equal(texts, yes), pc.equal(texts, no))
        return pc.if_else(known, pc.equal(texts, yes), pa.scalar(None, pa.bool_()))

    def show(self, value: bool, form: str) -> str:
        yes, _, no = form.partition("/")
        return yes if value else no
