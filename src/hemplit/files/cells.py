"""What all readers share: a column of values becomes a column of codes, and a value becomes a plain text."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from itertools import groupby
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.kinds.reader import only
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.shape.working import stacked

if TYPE_CHECKING:
    from collections.abc import Sequence

#: Of a type, so that Arrow need not look for it at every call.
NOTHING, ZERO, BLANK = pa.scalar("", pa.string()), pa.scalar(0.0, pa.float64()), pa.scalar(EMPTY, pa.int32())
#: Below this every whole number has a double of its own.
EXACT = float(1 << 53)
#: What follows a day where it is the midnight among moments.
MIDNIGHT = " 00:00:00"


def from_texts(texts: Sequence[str | None] | pa.StringArray) -> GridColumn:
    """The grid column of these texts; None and the empty text are cells without content.

    >>> from_texts(["Kittiwake", "", "Kittiwake"]).codes.tolist()
    [0, -1, 0]
    """
    array = texts if isinstance(texts, pa.Array) else pa.array(texts, pa.string())
    encoded = array.dictionary_encode()
    if pc.index(encoded.dictionary, NOTHING).as_py() >= 0:
        encoded = only(array, pc.not_equal(array, NOTHING)).dictionary_encode()
    return from_encoded(encoded)


def from_encoded(encoded: pa.DictionaryArray) -> GridColumn:
    """The grid column of a dictionary-encoded array."""
    codes = pc.fill_null(encoded.indices, BLANK).to_numpy(zero_copy_only=False).astype(np.int32, copy=False)
    return GridColumn(codes, encoded.dictionary)


def from_pieces(pieces: Sequence[pa.Array]) -> GridColumn:
    """The grid column of pieces one below the other, each as ``piece`` makes them; each value is written once.

    >>> from_pieces([piece(["Length"]), piece([1.0, 1.5]), piece([1.0, "", True])]).texts.to_pylist()
    ['Length', '1', '1.5', 'TRUE']
    """
    runs = [pa.concat_arrays(list(run)) for _, run in groupby(pieces, key=lambda one: one.type)]
    timed = any(pc.any(run.field("timed")).as_py() for run in runs if pa.types.is_struct(run.type))
    parts = [_from_run(run, timed=timed) for run in runs]
    return parts[0] if len(parts) == 1 else stacked([(part, len(part.codes)) for part in parts])


def _from_run(run: pa.Array, *, timed: bool) -> GridColumn:
    """The cells of pieces of one sort; ``timed`` is whether the column has moments with a time of day."""
    if pa.types.is_floating(run.type):
        return _from_numbers(run)
    return from_texts(run.field("among moments" if timed else "plain") if pa.types.is_struct(run.type) else run)


def from_few(values: Sequence[object]) -> GridColumn:
    """The grid column of a few values; so ``from_pieces`` has it, too, but each call to Arrow takes its time.

    >>> from_few(["Length", 1.0, 1.5, "", True, 1.0]).codes.tolist()
    [0, 1, 2, -1, 3, 1]
    >>> from_few([datetime(2026, 5, 1, 7), datetime(2026, 5, 2)]).texts.to_pylist()
    ['2026-05-01 07:00:00', '2026-05-02 00:00:00']
    """
    known = {"": EMPTY}
    timed = any(map(_is_timed, values))
    texts = (value if type(value) is str else plain_text(value, timed=timed) for value in values)
    codes = np.array([known.setdefault(text, len(known) - 1) for text in texts], np.int32)
    return GridColumn(codes, pa.array([*known][1:], pa.string()))


def piece(values: Sequence[object]) -> pa.Array:
    """The cells of one column in some rows: as texts or as numbers if all are that, and else as plain texts.

    Where days are among them, another piece may tell that the column holds moments, of which these are the midnights:
    beside each text stands what it is then, and whether it is a moment with a time of day.

    >>> piece([4.0, ""]).type, piece([4.0, "m"]).type
    (DataType(double), DataType(string))
    """
    for attempt in (_texts, _numbers, _numbers_and_blanks):
        try:
            array = attempt(values)
        except (pa.ArrowInvalid, pa.ArrowTypeError):
            continue  # the values are of several types
        if array is not None:
            return array
    texts = pa.array([plain_text(value) for value in values], pa.string())
    if not any(isinstance(value, date) for value in values):
        return texts
    among_moments = pa.array([plain_text(value, timed=True) for value in values], pa.string())
    return pa.StructArray.from_arrays(
        [texts, among_moments, pa.array(map(_is_timed, values), pa.bool_())], ["plain", "among moments", "timed"]
    )


def _is_timed(value: object) -> bool:
    """Whether a value is a moment with a time of day."""
    return isinstance(value, datetime) and " " in _moment(value)


def _texts(values: Sequence[object]) -> pa.StringArray:
    return pa.array(values, pa.string())


def _numbers(values: Sequence[object]) -> pa.DoubleArray | None:
    """None if yes or no is among them, which Arrow takes for 1 and 0."""
    array = pa.array(values, pa.float64())
    numbers = array.to_numpy(zero_copy_only=False)
    alike = ((numbers == 0) | (numbers == 1)).any()
    return None if alike and bool in set(map(type, values)) else array


def _numbers_and_blanks(values: Sequence[object]) -> pa.DoubleArray | None:
    return _numbers([None if value == "" else value for value in values])


def _from_numbers(values: pa.DoubleArray) -> GridColumn:
    encoded = pc.add(values, ZERO).dictionary_encode()  # which makes 0 of -0
    numbers = encoded.dictionary.to_numpy()
    if (np.abs(numbers) < EXACT).all() and (np.mod(numbers, 1) == 0).all():
        texts = pa.array(numbers.astype(np.int64)).cast(pa.string())
    else:
        texts = pa.array([plain_text(number) for number in numbers.tolist()], pa.string())
    return from_encoded(pa.DictionaryArray.from_arrays(encoded.indices, texts))


def _moment(value: datetime, *, timed: bool = False) -> str:
    """A date, with its time if it has one; a spreadsheet keeps a moment to the millisecond and not further.

    Where others of the column are ``timed``, midnight is a time, too.
    """
    near = value + timedelta(microseconds=500)
    rounded = near.replace(microsecond=near.microsecond // 1000 * 1000)
    if rounded.time() == time() and not timed:
        return rounded.date().isoformat()
    return rounded.isoformat(" ", "milliseconds" if rounded.microsecond else "seconds")


def _duration(value: timedelta) -> str:
    """Hours, minutes and seconds, as many hours as there are.

    >>> _duration(timedelta(hours=26, minutes=5)), _duration(timedelta(minutes=-90))
    ('26:05:00', '-1:30:00')
    """
    thousandths = round(abs(value) / timedelta(milliseconds=1))
    seconds, rest = divmod(thousandths, 1000)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    sign = "-" if value < timedelta() else ""
    return f"{sign}{hours}:{minutes:02}:{seconds:02}" + (f".{rest:03}" if rest else "")


def _text_of(value: bytes) -> str:
    """Bytes that are a text as that, others by their hexadecimal digits."""
    try:
        return value.decode()
    except UnicodeDecodeError:
        return f"0x{value.hex()}"


def plain_text(value: object, *, timed: bool = False) -> str:
    """A value as plainly as it can be written without loss: dates in the ISO form, whole numbers without a point.

    In a column with moments of a day, which are ``timed``, a day is a midnight, as spreadsheets keep it.
    """
    match value:
        case None:
            text = ""
        case bool():
            text = "TRUE" if value else "FALSE"
        case float():
            value += 0.0  # which makes 0 of -0
            text = f"{value:.0f}" if value.is_integer() else repr(value)
        case datetime():
            text = _moment(value, timed=timed)
        case time():
            text = value.isoformat("milliseconds" if value.microsecond else "seconds")
        case date():
            text = value.isoformat() + (MIDNIGHT if timed else "")
        case timedelta():
            text = _duration(value)
        case bytes():
            text = _text_of(value)
        case _:
            text = str(value)
    return text
