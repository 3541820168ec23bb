"""The rules of a table that a person may want kept, and the rows that break them."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.model.design import RuleKind
from hemplit.core.model.grid import EMPTY

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt
    import pyarrow as pa

    from hemplit.core.model.design import Rule
    from hemplit.core.model.tables import TableColumn


def form_of(text: str) -> str:
    """A code with 9 for every digit and A for every capital letter.

    >>> form_of("N-104"), form_of("b7")
    ('A-999', 'b9')
    """
    return re.sub("[0-9]", "9", re.sub("[A-Z]", "A", text))


def of_form(texts: pa.StringArray, form: str) -> pa.BooleanArray:
    """Whether each text is of a form.

    >>> import pyarrow as pa
    >>> of_form(pa.array(["N-104", "N-1", "n-104"]), "A-999").to_pylist()
    [True, False, False]
    """
    signs = ({"9": "[0-9]", "A": "[A-Z]"}.get(sign, re.escape(sign)) for sign in form)
    return pc.match_substring_regex(texts, f"^(?:{''.join(signs)})$")


def breaking(rule: Rule, columns: Mapping[str, TableColumn]) -> npt.NDArray[np.bool_]:
    """Whether each row breaks the rule, shape (rows,)."""
    one = columns[rule.columns[0]]
    filled = one.codes != EMPTY
    match rule.kind:
        case RuleKind.MIN:
            low = pc.less(pc.cast(one.values, "float64"), float(rule.values[0]))
            return filled & _at(low.to_numpy(zero_copy_only=False), one)
        case RuleKind.ALLOWED:
            return filled & ~_among(one, rule.values)
        case RuleKind.PATTERN:
            unlike = pc.invert(of_form(pc.cast(one.values, "string"), rule.values[0]))
            return filled & _at(unlike.to_numpy(zero_copy_only=False), one)
        case RuleKind.ONE_FILLED:
            other = columns[rule.columns[1]].codes != EMPTY
            return ~(filled ^ other)
        case _:
            return filled ^ _among(columns[rule.columns[1]], rule.values)


def broken_in_words(rule: Rule, headers: Sequence[str], cells: Sequence[str]) -> str:
    """What is wrong with a row that breaks a rule; ``cells`` say what stands under the headers.

    >>> from hemplit.core.model.design import Rule, RuleKind
    >>> broken_in_words(Rule(RuleKind.MIN, ("hours",), ("0",)), ["Hours"], ["'-2'"])
    "Hours '-2' is less than 0"
    """
    one, cell = headers[0], cells[0]
    match rule.kind:
        case RuleKind.MIN:
            return f"{one} {cell} is less than {rule.values[0]}"
        case RuleKind.ALLOWED:
            return f"{one} {cell} is not one of {', '.join(rule.values)}"
        case RuleKind.PATTERN:
            return f"{one} {cell} does not look like {rule.values[0]}"
        case RuleKind.ONE_FILLED:
            return f"one of {one} and {headers[1]} must be filled, and not both: they say {cell} and {cells[1]}"
        case _:
            where = f"{headers[1]} is {' or '.join(rule.values)}"
            return f"{one} must be filled exactly where {where}: they say {cell} and {cells[1]}"


def _among(column: TableColumn, values: tuple[str, ...]) -> npt.NDArray[np.bool_]:
    texts = [kinds.show(value, column.kind) in values for value in column.values.to_pylist()]
    return _at(np.array(texts, dtype=bool), column)


def _at(flags: npt.NDArray[np.bool_], column: TableColumn) -> npt.NDArray[np.bool_]:
    return np.append(flags, False)[column.codes]
