"""What is written as TOML is read as it was."""

from __future__ import annotations

import tomllib
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from hemplit.design_file import toml

TEXTS = st.text(st.characters(exclude_categories=["Cs"]))  # halves of signs are no text of a file
VALUES = st.recursive(
    TEXTS | st.booleans() | st.integers(-(2**63), 2**63 - 1) | st.floats(allow_nan=False, allow_infinity=False),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(TEXTS, inner, max_size=3),
    max_leaves=6,
)


@given(TEXTS, TEXTS, VALUES)
def test_keys_and_values_are_read_as_they_were(table: str, name: str, value: Any) -> None:
    line = f"{toml.key(table, name)} = {toml.value(value)}"
    assert tomllib.loads(line) == {table: {name: value}}
