"""The relation: a grid that has become columns of atomic values, each row knowing the grid row it came from."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.account import Cells, Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY, Source
from hemplit.dataclasses import dataclass, field, replace

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    import numpy.typing as npt
    import pyarrow as pa

    from hemplit.core.model.grid import Codes

    Setting = str | int | bool | tuple[str, ...] | tuple[int, ...] | tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Kind:
    """What the values of a column are, in the word the design uses, and the form in which the sheet writes them.

    The form makes the way back exact: a text belongs to a kind only if writing its value in the form gives the text.
    """

    word: str
    form: str = ""

    def __str__(self) -> str:
        return self.word

    @property
    def is_number(self) -> bool:
        return self.word in ("whole number", "decimal")


TEXT = Kind("text")
#: Kinds of values that tell when.
TIMES = frozenset(("date", "date and time", "time"))
#: The header under which rows are numbered that nothing else tells apart; no cell says these numbers.
ROW_NUMBER = "Row No"
#: The column with the place of an entry among others of its row, and the one with the header over a mark.
POSITION, KIND = "Position", "Kind"


@dataclass(frozen=True)
class Step:
    """One recorded, replayable act that turned grid into relation; a ``proposed`` one waits for a person's word.

    ``strength`` tells which of several proposals is the better one; a design does not keep it.
    """

    act: str
    settings: tuple[tuple[str, Setting], ...] = ()
    why: str = ""
    proposed: bool = False
    strength: float = field(default=0.0, compare=False)

    def setting(self, name: str) -> Setting | None:
        return dict(self.settings).get(name)

    def text(self, name: str) -> str:
        """A text; empty where the step does not say it."""
        given = self.setting(name)
        return "" if given is None else str(given)

    def texts(self, name: str) -> tuple[str, ...]:
        """Texts; none where the step does not say them."""
        given = self.setting(name)
        if isinstance(given, tuple):
            return tuple(str(one) for one in given)
        return () if given is None else (str(given),)

    @property
    def blocks(self) -> tuple[tuple[str, ...], ...]:
        """The headers of each block that stands beside others."""
        given = self.setting("blocks")
        return tuple(one for one in given if isinstance(one, tuple)) if isinstance(given, tuple) else ()

    @property
    def takes(self) -> frozenset[str]:
        """The headers whose columns are no more once the step is done, as others came in their place."""
        own = (self.text("column"), *self.texts("alongside")) if self.act in (Act.LISTS, Act.PARTS) else ()
        return frozenset((*own, *(name for block in self.blocks for name in block)))

    def number(self, name: str, otherwise: int = 0) -> int:
        given = self.setting(name)
        return given if isinstance(given, int) else otherwise

    def flag(self, name: str) -> bool:
        return self.setting(name) is True


@dataclass(frozen=True)
class Doubt:
    """Something that shaping left as it is because it could be meant in more than one way.

    One that is ``settled`` has its place in the tables, whichever way it is meant; a person need not look at it.
    """

    what: str
    places: tuple[str, ...] = ()
    hint: str = ""
    count: int = 1
    settled: bool = False


def are_open(told: Iterable[tuple[str, Doubt]]) -> bool:
    """Whether there is one among the doubts, each with the title of its sheet, that is not settled."""
    return any(not one.settled for _, one in told)


@dataclass(frozen=True)
class Column:
    """One column: ``codes`` of shape (rows,), each an index into the distinct ``values`` or ``EMPTY``.

    ``position`` is its column in the grid. ``changed`` of shape (rows,) tells which cells a step changed (None for
    none); a column is not ``own`` if its values stand in no cells of its own: copied, taken from a file name, a part.
    ``part_of`` is the grid column of whose cells it holds a further part; ``headers`` are those over its ``places``.
    """

    name: str
    position: int
    kind: Kind
    codes: Codes
    values: pa.Array
    own: bool = True
    changed: npt.NDArray[np.int8] | None = None
    places: tuple[int, ...] = ()
    part_of: int | None = None
    headers: tuple[str, ...] = ()

    @cached_property
    def filled(self) -> int:
        return int((self.codes != EMPTY).sum())

    @property
    def blanks(self) -> int:
        return len(self.codes) - self.filled


@dataclass(frozen=True)
class Relation:
    """Columns of equal length; ``grid_rows`` of shape (rows,) gives each row's place in the grid, counted from 0.

    Where several blocks of columns were stood up into rows, ``block`` of shape (rows,) tells the block of each row, and
    a column's ``places`` its grid column in each block. ``of`` are the columns that this relation shares with the one
    it was taken from, and is empty for a sheet's own relation. ``account`` holds the cells that stand in no column;
    ``told`` is what recorded steps found otherwise than they did when they were drafted. ``again`` of shape (n, 2) has
    the rows of the grid that say again what is told of their ``of``, each with the one that tells it.
    """

    source: Source
    columns: tuple[Column, ...]
    grid_rows: npt.NDArray[np.int64]
    steps: tuple[Step, ...] = ()
    block: npt.NDArray[np.int16] | None = None
    of: tuple[str, ...] = ()
    account: tuple[Cells, ...] = ()
    doubts: tuple[Doubt, ...] = ()
    told: tuple[Doubt, ...] = ()
    again: npt.NDArray[np.int64] | None = None

    @property
    def row_count(self) -> int:
        return len(self.grid_rows)

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(column.name for column in self.columns)

    @cached_property
    def by_name(self) -> dict[str, Column]:
        return {column.name: column for column in self.columns}

    @cached_property
    def beside(self) -> dict[int, Column]:
        """The columns in which slips are kept beside, each by the place in the grid of the cells that it holds."""
        made = {step.text("into") for step in self.steps if step.act == Act.BESIDE and not step.proposed}
        return {one.part_of: one for one in self.columns if one.part_of is not None and one.name in made}

    def is_beside(self, column: Column) -> npt.NDArray[np.bool_]:
        """Which cells of a column are kept beside, shape (rows,)."""
        beside = self.beside.get(column.position) if column.own else None
        return np.zeros(self.row_count, dtype=bool) if beside is None else np.not_equal(beside.codes, EMPTY)

    def without(self, rows: npt.NDArray[np.int64], aside: Cells | None = None) -> Relation:
        """The relation without the rows that came from those of the grid; ``aside`` says what became of their cells."""
        if self.again is not None:
            return self._told_by_others(rows)._without(rows, aside)
        return self._without(rows, aside)

    def _told_by_others(self, rows: npt.NDArray[np.int64]) -> Relation:
        """The relation told of, as far as any are left, by other rows of the grid than those."""
        assert self.again is not None
        left = self.again[~np.isin(self.again[:, 0], rows)]
        moved = left[np.isin(left[:, 1], rows)]
        teller = {first: row for row, first in moved.tolist()}

        def told(places: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
            return np.array([teller.get(place, place) for place in places.tolist()], dtype=np.int64)

        after = replace(self, grid_rows=told(self.grid_rows))
        own = (place for column in self.columns if column.own for place in self.blocks_of(column))
        marked = {position: after.grid_rows[rows] for position, rows in own}
        account = tuple(
            replace(part, rows=part.rows[~np.isin(part.rows, marked.get(part.positions[0], ()))])
            for part in self.account
        )
        again = np.stack([left[:, 0], told(left[:, 1])], axis=1)
        return replace(after, account=account, again=again[again[:, 0] != again[:, 1]])

    def with_changed(self, instead: Column, cells: npt.NDArray[np.bool_], act: Act) -> Relation:
        """The relation with a column of which an act changed some ``cells``, shape (rows,), and so their account."""
        earlier = np.zeros(self.row_count, dtype=np.int8) if instead.changed is None else instead.changed
        instead = replace(instead, changed=np.where(cells, np.int8(act.number), earlier))
        columns = tuple(instead if one.name == instead.name else one for one in self.columns)
        account = list(self.account)
        told, places = self.told_in()
        for position, rows in self.blocks_of(instead) if self.of else ():
            here = np.isin(told, rows[cells[rows]])
            # The cells of its own that the relation holds are no part of the account.
            here[: self.row_count] &= not instead.own
            parts = [(position in part.positions) & np.isin(part.rows, places[here]) for part in account]
            account = [replace(part, rows=part.rows[~gone]) for part, gone in zip(account, parts, strict=True)]
            account.append(Cells(Fate.CHANGED, act, places[here], (position,), column=instead.name))
        return replace(self, columns=columns, account=tuple(account))

    def told_in(self) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
        """Each row of the relation with each of the rows of the grid that tell of it, both of shape (n,)."""
        rows = np.arange(self.row_count)
        if self.again is None:
            return rows, self.grid_rows
        again, first = self.again.T
        order = np.argsort(self.grid_rows, kind="stable")
        start, end = (np.searchsorted(self.grid_rows[order], first, side) for side in ("left", "right"))
        counts = end - start
        within = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
        more = order[np.repeat(start, counts) + within]
        return np.concatenate([rows, more]), np.concatenate([self.grid_rows, np.repeat(again, counts)])

    def said_again(self) -> Iterator[tuple[int, npt.NDArray[np.int64]]]:
        """The places in the grid, with its rows, of the cells that say again what another row tells."""
        again = np.zeros(0, dtype=np.int64) if self.again is None else self.again[:, 0]
        for part in (part for part in self.account if part.column):
            for position in part.positions:
                yield position, part.rows[np.isin(part.rows, again)]

    def blocks_of(self, column: Column) -> Iterator[tuple[int, npt.NDArray[np.int64]]]:
        """The places in the grid at which the cells of a column stand, each with the rows of the relation."""
        if self.block is None or not column.places:
            yield column.position, np.arange(self.row_count)
            return
        for block, position in enumerate(column.places):
            if position >= 0:
                yield position, np.flatnonzero(self.block == block)

    def _without(self, rows: npt.NDArray[np.int64], aside: Cells | None) -> Relation:
        kept = np.flatnonzero(~np.isin(self.grid_rows, rows))
        columns = tuple(
            replace(one, codes=one.codes[kept], changed=None if one.changed is None else one.changed[kept])
            for one in self.columns
        )
        account = [replace(part, rows=part.rows[~np.isin(part.rows, rows)]) for part in self.account]
        return replace(
            self,
            columns=columns,
            grid_rows=self.grid_rows[kept],
            block=None if self.block is None else self.block[kept],
            account=(*account, *([aside] if aside is not None else [])),
        )

    def address(self, row: int, column: Column) -> str:
        """The address of the cell in the sheet from which a value came."""
        position = column.position
        if self.block is not None and column.places:
            position = column.places[int(self.block[row])]
        return self.source.address(int(self.grid_rows[row]), position)

    def row(self, row: int) -> str:
        """The row of the sheet from which a row came, in words."""
        file, within = self.source.row(int(self.grid_rows[row]))
        return f"{file}row {within + 1}"
