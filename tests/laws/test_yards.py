"""Boatyards that are written as several sheets become one design: every reference, contradiction and stranger."""

from __future__ import annotations

import pytest

from together import result, yard


@pytest.mark.parametrize("seed", range(900, 912))
def test_sheets_of_a_boatyard_become_one_design(seed: int) -> None:
    made = yard(seed)
    found = result(made)
    assert (found.wrong, found.missed, found.invented) == ((), (), ())
    assert (found.united, found.told) == (len(made.same), len(made.lost) + len(made.contradicting))
    assert found.lossless
