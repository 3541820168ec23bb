"""What a table of dates says of each of them."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.relation import TEXT, Kind

if TYPE_CHECKING:
    from collections.abc import Callable

WHOLE = Kind("whole number")
CALENDAR: dict[str, tuple[Kind, Callable[[pa.Array], pa.Array]]] = {
    "year": (WHOLE, pc.year),
    "quarter": (WHOLE, pc.quarter),
    "month": (WHOLE, pc.month),
    "week": (WHOLE, pc.iso_week),
    "weekday": (TEXT, lambda dates: pc.strftime(dates, format="%A", locale="C")),
}
