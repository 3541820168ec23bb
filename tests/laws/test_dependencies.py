"""The dependency search against a brute force that shares nothing with it, and the laws of closure."""

from __future__ import annotations

from collections import Counter
from itertools import combinations, product
from math import prod

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hemplit.core.columns.codes import Grouping, combine, first_conflict
from hemplit.core.study import dependencies as search
from hemplit.core.study.dependencies import Decided, TimeLimitError, decide
from hemplit.core.study.evidence import evidence
from hemplit.core.theory.closure import Rules

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


#: The ways to the answer, by the limits that choose between them: pairs few enough to compare, pairs enough for all
#: left sides, columns for a lattice, columns on the left that are searched level by level.
WAYS = {
    "as it comes": {},
    "all pairs, then the lattice": {"SHALLOW": 0},
    "all pairs, then transversals": {"SHALLOW": 0, "MOST_COLUMNS": 0, "PAIRS_FOR_TRANSVERSALS": 10**9},
    "drawn pairs, then levels": {"FEW_PAIRS": 0, "SHALLOW": 9},
    "drawn pairs, then the lattice": {"FEW_PAIRS": 0, "MANY_PAIRS": 0, "SHALLOW": 0},
    "drawn pairs, then transversals": {"SHALLOW": 0, "MOST_COLUMNS": 0, "PAIRS_FOR_TRANSVERSALS": -1},
}


def found_by(way: str, rows: list[list[int]], depth: int | None) -> Decided:
    columns = [grouping([row[index] for row in rows]) for index in range(len(rows[0]))]
    with pytest.MonkeyPatch.context() as patch:
        for limit, value in WAYS[way].items():
            patch.setattr(search, limit, value)
        return decide(columns, len(rows), depth)


@pytest.mark.parametrize("way", WAYS)
@given(tables, st.integers(1, 6))
def test_finds_exactly_what_brute_force_finds(way: str, rows: list[list[int]], depth: int) -> None:
    decided = found_by(way, rows, depth)
    dependencies, keys = brute_force(rows, depth)
    assert [(found.left, found.right) for found in decided.dependencies] == sorted(
        dependencies, key=lambda one: (len(one[0]), one)
    )
    assert list(decided.keys) == sorted(keys, key=lambda key: (len(key), key))


@pytest.mark.parametrize("seed", range(6))
def test_all_ways_agree_on_larger_tables(seed: int) -> None:
    random = np.random.default_rng(seed)
    base = random.integers(0, [3, 40, 6, 200, 2, 15, 9], size=(400, 7))
    extra = np.stack([base[:, 1] // 5, base[:, 3] % 7, base[:, 0] * 7 + base[:, 2], base[:, 3]], axis=1)
    rows = np.concatenate([base, extra], axis=1).tolist()
    answers = [found_by(way, rows, None if "level" not in way else 11) for way in WAYS]
    assert all(answer == answers[0] for answer in answers)
    assert answers[0].dependencies


def test_a_wide_table_with_more_columns_than_a_word() -> None:
    random = np.random.default_rng(1)
    rows = random.integers(0, 4, size=(60, 70))
    rows[:, 69] = rows[:, 3] * 4 + rows[:, 65]
    answers = [
        found_by(way, rows.tolist(), 2)
        for way in ("as it comes", "drawn pairs, then levels", "all pairs, then transversals")
    ]
    assert answers[0] == answers[1] == answers[2]
    assert ((3, 65), 69) in {(found.left, found.right) for found in answers[0].dependencies}


def test_a_time_limit_is_said_and_what_was_found_holds() -> None:
    random = np.random.default_rng(2)
    rows = random.integers(0, 3, size=(120, 26)).tolist()
    columns = [grouping([row[index] for row in rows]) for index in range(26)]
    calls = 0

    def impatient(what: str, done: int, of: int) -> None:
        nonlocal calls
        calls += 1
        if calls > 40:
            raise TimeLimitError(f"stopped while {what}")

    part = decide(columns, 120, None, impatient)
    assert part.unfinished.startswith("stopped while")
    for found in part.dependencies[:200]:
        assert holds(rows, found.left, (found.right,))


@given(tables)
def test_evidence_counts_groups_and_pairs(rows: list[list[int]]) -> None:
    columns = [grouping([row[index] for row in rows]) for index in range(len(rows[0]))]
    decided = decide(columns, len(rows), 2)
    for found, proof in evidence(columns, len(rows), decided.dependencies).items():
        lefts = [tuple(row[index] for index in found.left) for row in rows]
        assert proof.groups == len(set(lefts))
        assert proof.repeats == len(rows) - proof.groups
        assert proof.pairs == sum(one == two for one, two in combinations(lefts, 2))
        shares = [count / len(rows) for count in Counter(row[found.right] for row in rows).values()]
        chance = prod(sum(share**size for share in shares) for size in Counter(lefts).values())
        assert 10**proof.chance == pytest.approx(chance)


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
    closed = Rules(given_rules).closure(columns)
    fixed = set(columns)
    while more := {right for left, right in given_rules if fixed.issuperset(left)} - fixed:
        fixed |= more
    assert closed == fixed
    assert Rules(given_rules).closure(closed) == closed
