"""Kinds of values: reading what was written gives the value again, and nothing is read that would lose something."""

from __future__ import annotations

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hemplit.core import kinds
from hemplit.core.kinds.calendar import DATE_FORMS, TIME_FORMS
from hemplit.core.model.relation import Kind

WHOLE = st.integers(-(10**15) + 1, 10**15 - 1)
CENTS = st.integers(-(10**12), 10**12)
DAYS = st.dates()


def written(values: list[object], kind: Kind) -> pa.Array:
    return pa.array([kinds.show(value, kind) for value in values], pa.string())


def returns(values: list[object], kind: Kind) -> bool:
    return kinds.parse(written(values, kind), kind).to_pylist() == values


@given(st.lists(WHOLE, min_size=1))
def test_whole_numbers_return(values: list[int]) -> None:
    assert returns(values, Kind("whole number"))
    assert kinds.recognise(written(values, Kind("whole number"))) == Kind("whole number")


@given(st.lists(CENTS.map(lambda cents: cents / 100), min_size=1), st.sampled_from(["", "0.00"]))
def test_decimals_return(values: list[float], form: str) -> None:
    assert returns([value + 0.0 for value in values], Kind("decimal", form))


@given(st.lists(st.floats(-1e12, 1e12).filter(lambda value: "." in repr(value) and "e" not in repr(value)), min_size=1))
def test_what_a_program_calculates_returns(values: list[float]) -> None:
    """As 6 times 1.2 does, which it writes with more digits than people do."""
    texts = [repr(value) for value in values if not value.is_integer()]
    kind = kinds.recognise(pa.array([*texts, "7.25"], pa.string()))
    assert kind.word == "decimal"
    parsed = kinds.parse(pa.array(texts, pa.string()), Kind("decimal")).to_pylist()
    assert [kinds.show(value, Kind("decimal")) for value in parsed] == texts


@given(st.lists(DAYS.filter(lambda day: day.year >= 1000), min_size=1), st.sampled_from(DATE_FORMS))
def test_dates_return_in_every_form(values: list[object], form: str) -> None:
    kind = Kind("date", form)
    assert returns(values, kind)
    recognised = kinds.recognise(written(values, kind))
    assert recognised.word in ("date", "text")  # text only if day and month could change places
    if recognised.word == "date":
        assert kinds.parse(written(values, kind), recognised).to_pylist() == values


@given(st.lists(st.times().map(lambda moment: moment.replace(microsecond=0)), min_size=1))
def test_times_return(values: list[object]) -> None:
    assert returns(values, Kind("time", TIME_FORMS[1]))


@given(st.lists(st.text(min_size=1), min_size=1, unique=True))
def test_whatever_kind_is_recognised_nothing_is_lost(texts: list[str]) -> None:
    kind = kinds.recognise(pa.array(texts, pa.string()))
    values = kinds.parse(pa.array(texts, pa.string()), kind)
    assert values.null_count == 0
    if kind != Kind("decimal"):  # 1.5 and 1.50 are one number
        assert [kinds.show(value, kind) for value in values.to_pylist()] == texts


@pytest.mark.parametrize(
    ("texts", "word"),
    [
        (["007", "12"], "text"),
        (["+4915112345678"], "text"),
        (["12345678901234567890"], "text"),
        (["1e5", "2e5"], "text"),
        (["7.199999999999999", "14"], "decimal"),
        (["7.1999999999999991", "14.5"], "text"),
        (["-0"], "text"),
        (["2026-02-30"], "text"),
        (["03/04/2026", "05/06/2026"], "text"),
        (["13/04/2026", "05/06/2026"], "date"),
        (["24:00"], "text"),
        (["Yes", "No"], "yes/no"),
        (["Yes", "no"], "yes/no"),
        (["Yes", "No", "yes"], "text"),
        (["yes"], "text"),
        (["1", "0"], "whole number"),
        (["2026-01-01 10:00", "2026-01-02 11:30"], "date and time"),
    ],
)
def test_borderline_texts(texts: list[str], word: str) -> None:
    assert kinds.recognise(pa.array(texts)).word == word


def test_a_number_that_no_double_holds_is_no_decimal() -> None:
    assert kinds.parse(pa.array(["14.5", "14.1234567890123456789"]), Kind("decimal")).to_pylist() == [14.5, None]
