"""The dependency search against a brute force that shares nothing with it, and the laws of closure."""

from __future__ import annotations

from itertools import combinations, product

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from hemplit.core.codes import Grouping, combine, first_conflict
from hemplit.core.study.dependencies import decide
from hemplit.core.theory.closure import closure, minimal_cover

tables = st.integers(1, 5).flatmap(
    lambda width: st.lists(st.lists(st.integers(0, 3), min_size=width, max_size=width), min_size=1, max_size=14)
)
rules = st.lists(
    st.tuples(st.lists(st.sampled_from("ABCD"), max_size=2).map(tuple), st.sampled_from("ABCD")), max_size=8
)


def grouping(values: list[int]) -> Grouping:
    distinct, codes = np.unique(values, return_inverse=True)
    return Grouping(codes.astype(np.int32), len(distinct))


def holds(rows: list[list[int]], left: tuple[int, ...], right: tuple[int, ...]) -> bool:
    seen: dict[tuple[int, ...], tuple[int, ...]] = {}
    return all(seen.setdefault(tuple(r[i] for i in left), w) == w for r in rows for w in [tuple(r[i] for i in right)])


def brute_force(rows: list[list[int]], depth: int) -> tuple[set[tuple[tuple[int, ...], int]], set[tuple[int, ...]]]:
    width = len(rows[0])
    sets = [left for size in range(depth + 1) for left in combinations(range(width), size)]
    dependencies = {
        (left, right)
        for left, right in product(sets, range(width))
        if right not in left
        and holds(rows, left, (right,))
        and not any(set(less) < set(left) and holds(rows, less, (right,)) for less in sets)
    }
    unique = [left for left in sets if len({tuple(row[i] for i in left) for row in rows}) == len(rows)]
    return dependencies, {key for key in unique if not any(set(less) < set(key) for less in unique)}


@given(tables, st.integers(1, 5))
def test_finds_exactly_what_brute_force_finds(rows: list[list[int]], depth: int) -> None:
    columns = [grouping([row[index] for row in rows]) for index in range(len(rows[0]))]
    decided = decide(columns, len(rows), depth)
    dependencies, keys = brute_force(rows, depth)
    assert {(found.left, found.right) for found in decided.dependencies} == dependencies
    assert set(decided.keys) == keys
    for found in decided.dependencies:
        assert found.groups == len({tuple(row[index] for index in found.left) for row in rows})


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), min_size=1))
def test_combining_groups_by_both(pairs: list[tuple[int, int]]) -> None:
    both = combine(grouping([one for one, _ in pairs]), grouping([two for _, two in pairs]))
    assert both.size == len(set(pairs))
    assert len(set(zip(pairs, both.codes.tolist(), strict=True))) == len(set(pairs))


@given(st.lists(st.tuples(st.integers(0, 3), st.integers(0, 2)), min_size=1))
def test_first_conflict_is_a_conflict(pairs: list[tuple[int, int]]) -> None:
    conflict = first_conflict(grouping([one for one, _ in pairs]), np.array([two for _, two in pairs]))
    if conflict is None:
        assert len(dict(pairs)) == len(set(pairs))
    else:
        first, second = (pairs[row] for row in conflict)
        assert first[0] == second[0]
        assert first[1] != second[1]


@given(st.sets(st.sampled_from("ABCD")), rules)
def test_closure_holds_its_columns_and_is_closed(
    columns: set[str], given_rules: list[tuple[tuple[str, ...], str]]
) -> None:
    closed = closure(columns, given_rules)
    assert closed >= columns
    assert closure(closed, given_rules) == closed


@given(st.sets(st.sampled_from("ABCD")), rules)
def test_a_cover_decides_the_same(columns: set[str], given_rules: list[tuple[tuple[str, ...], str]]) -> None:
    cover = minimal_cover(given_rules)
    assert closure(columns, cover) == closure(columns, given_rules)
    for rule in cover:
        assert rule[1] not in closure(rule[0], [other for other in cover if other != rule])
