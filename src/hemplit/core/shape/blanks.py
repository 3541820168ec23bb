"""Blanks before, after and doubled inside a text, and blanks of odd kinds, are no part of what somebody meant."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core.model.acts import Act
from hemplit.core.model.relation import Step
from hemplit.core.shape.working import Working, rewritten, with_column

if TYPE_CHECKING:
    from collections.abc import Iterator

    import pyarrow as pa

    from hemplit.core.shape.working import WorkingColumn

ACT = Act.TIDY
SETTINGS = {"columns": "columns"}
#: No-break and thin spaces and tabs are blanks; marks of no width are nothing.
ODD = "\u00a0\u1680\u2000-\u200a\u202f\u205f\u3000\t"
NOTHING = "\u200b\u2060\ufeff"
#: Joiners belong to words of some languages and to pictures made of several; only at an end they are nothing.
JOINERS = "\u200c\u200d"
UNTIDY = rf"^\s|\s$|  |[{ODD}{NOTHING}]|\r|^[{JOINERS}]|[{JOINERS}]$|[{JOINERS}]\s|\s[{JOINERS}]"


def find(working: Working) -> Iterator[Step]:
    """The step if some columns have such blanks."""
    named = {}
    for column in working.columns:
        if not _could_be(column.cells.texts):
            continue
        untidy = pc.match_substring_regex(column.cells.texts, UNTIDY).to_numpy(zero_copy_only=False)
        if untidy.any():
            named[column.name] = int(np.append(untidy, False)[column.cells.codes].sum())
    if named:
        why = ", ".join(f"{count:,} in '{name}'" for name, count in named.items())
        yield Step(ACT, (("columns", tuple(named)),), why)


def _could_be(texts: pa.StringArray) -> bool:
    """Whether some text may have such blanks, by tests that cost a tenth of the pattern."""
    if not pc.all(pc.string_is_ascii(texts)).as_py() or not texts.equals(pc.ascii_trim_whitespace(texts)):
        return True
    return any(pc.any(pc.match_substring(texts, sign)).as_py() for sign in ("  ", "\t", "\r"))


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with tidy texts in the columns of the step."""
    for name in step.texts("columns"):
        column = working.named(name)
        if column is not None:
            working = with_column(working, column, tidied(column, number))
    return working


def tidied(column: WorkingColumn, number: int) -> WorkingColumn:
    """The column with its texts tidied; one of nothing but blanks becomes a blank cell."""
    return rewritten(column, tidy(column.cells.texts), number)


def tidy(texts: pa.StringArray) -> pa.StringArray:
    """The texts without outer, doubled and odd blanks.

    >>> import pyarrow as pa
    >>> tidy(pa.array([" Marlow  Boats", "W1\u00a0"])).to_pylist()
    ['Marlow Boats', 'W1']
    """
    plain = pc.replace_substring_regex(texts, f"[{NOTHING}]", "")
    plain = pc.replace_substring_regex(plain, rf"(^|\s)[{JOINERS}]+|[{JOINERS}]+($|\s)", r"\1\2")
    plain = pc.replace_substring_regex(plain, f"[{ODD}]", " ")
    plain = pc.replace_substring_regex(plain, r"\r\n?", "\n")
    plain = pc.replace_substring_regex(plain, " {2,}", " ")
    plain = pc.replace_substring_regex(plain, r"^\s+|\s+$", "")
    return pc.if_else(pc.equal(plain, ""), None, plain)
