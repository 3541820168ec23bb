"""The contract that every kind of value fulfils, and what several kinds share."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Protocol

import pyarrow as pa
import pyarrow.compute as pc

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.relation import Kind

#: So many texts are tried first; a column that is of another kind nearly always shows it within them.
PROBE = 64


class KindReader(Protocol):
    """Reads the distinct texts of a column as values of one kind."""

    @property
    def word(self) -> str:
        """The word that names the kind in a design."""

    def fit(self, texts: pa.StringArray) -> Kind | None:
        """The kind with its form if every text is of it, else None."""

    def parse(self, texts: pa.StringArray, form: str) -> pa.Array:
        """The values, null where a text is not of this kind and form."""

    def show(self, value: Any, form: str) -> str:
        """One value as the sheet writes it."""


def all_match(texts: pa.StringArray, pattern: str) -> bool:
    """Whether each text matches the pattern from end to end.

    >>> import pyarrow as pa
    >>> all_match(pa.array(["1", "22"]), "[0-9]+"), all_match(pa.array(["1", "b"]), "[0-9]+")
    (True, False)
    """
    whole = f"^(?:{pattern})$"
    probe = texts.slice(0, PROBE)
    if not pc.all(pc.match_substring_regex(probe, whole)).as_py():
        return False
    return bool(pc.all(pc.match_substring_regex(texts, whole)).as_py())


def only(values: pa.Array, fits: pa.BooleanArray) -> pa.Array:
    """The values where they fit, null elsewhere; a null without a type would be looked up again every time."""
    return pc.if_else(fits, values, pa.scalar(None, values.type))


def only_form(fitting: Sequence[tuple[Kind, pa.Array]]) -> Kind | None:
    """The one form that fits, or any of several that read every value alike; None when the forms contradict."""
    if not fitting:
        return None
    first_kind, first_values = fitting[0]
    return first_kind if all(values.equals(first_values) for _, values in fitting[1:]) else None
