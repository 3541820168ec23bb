"""Whatever is put together out of terms of SQL means what it was put together as."""

from __future__ import annotations

import operator
import sqlite3
from contextlib import closing
from functools import reduce

from hypothesis import given
from hypothesis import strategies as st

from hemplit.targets.sql.terms import Term, all_of, any_of, case, whole

Told = tuple[Term, int]

SIGNS = {"+": operator.add, "-": operator.sub, "*": operator.mul}
COMPARED = {"=": operator.eq, "!=": operator.ne, "<": operator.lt, "<=": operator.le, ">": operator.gt}


def _calculated(sign: str, one: Told, other: Told) -> Told:
    return SIGNS[sign](one[0], other[0]), SIGNS[sign](one[1], other[1])


def _compared(sign: str, one: Told, other: Told) -> Told:
    return one[0].compared(sign, other[0]), int(COMPARED[sign](one[1], other[1]))


def _of_all(some: list[Told]) -> Told:
    return all_of([term for term, _ in some]), int(all(value for _, value in some))


def _of_any(some: list[Told]) -> Told:
    return any_of([term for term, _ in some]), int(any(value for _, value in some))


def _chosen(condition: Told, one: Told, other: Told) -> Told:
    return case([(condition[0], one[0])], other[0]), one[1] if condition[1] else other[1]


def _listed(one: Told, others: list[Told]) -> Told:
    return one[0].among([term for term, _ in others]), int(one[1] in [value for _, value in others])


numbers = st.integers(0, 9).map(lambda number: (whole(number), number))


def _deeper(inner: st.SearchStrategy[Told]) -> st.SearchStrategy[Told]:
    some = st.lists(inner, min_size=2, max_size=3)
    return st.one_of(
        st.builds(_calculated, st.sampled_from([*SIGNS]), inner, inner),
        st.builds(_compared, st.sampled_from([*COMPARED]), inner, inner),
        st.builds(_of_all, some),
        st.builds(_of_any, some),
        st.builds(_chosen, inner, inner, inner),
        st.builds(_listed, inner, some),
    )


@given(st.recursive(numbers, _deeper, max_leaves=12))
def test_parentheses_stand_where_they_must(told: Told) -> None:
    term, value = told
    with closing(sqlite3.connect(":memory:")) as database:
        assert database.execute(f"SELECT {term.text}").fetchone() == (value,)


@given(st.sampled_from([Term.__add__, Term.__mul__]), st.integers(2, 5))
def test_and_nowhere_else(joined: object, count: int) -> None:
    assert "(" not in reduce(joined, [whole(1)] * count).text  # type: ignore[arg-type]
