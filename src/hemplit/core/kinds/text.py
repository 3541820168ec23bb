"""Text: whatever no other kind holds without loss, exactly as it stands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.relation import TEXT, Kind

if TYPE_CHECKING:
    import pyarrow as pa


class TextReader:
    """Takes every text as it is."""

    word = TEXT.word

    def fit(self, texts: pa.StringArray) -> Kind:
        return TEXT

    def parse(self, texts: pa.StringArray, form: str) -> pa.Array:
        return texts

    def show(self, value: str, form: str) -> str:
        return value
