"""A question → a tally: which table each measure counts once, and how every other column is reached from its rows.

A measure counts at its own grain: a row of the table that holds it counts once, however many rows of other tables
refer to it. A column tells its rows apart only if each of them has one value of it, which is so if references lead
there. Where they do not there is no honest answer, and the error says what to ask instead.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import pyarrow as pa

from hemplit.core import kinds
from hemplit.core.design import resolve
from hemplit.core.model.tables import View, ViewColumn
from hemplit.core.model.tally import Aggregate, Condition, Flat, Grouped, Measure, Part, Sign, Tally
from hemplit.core.tables.views import moved
from hemplit.core.tally.asked import aggregate_in, condition_in, names_in, part_in
from hemplit.core.tally.known import Held, Known
from hemplit.core.tally.labels import DAY
from hemplit.dataclasses import replace
from hemplit.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from hemplit.core.model.design import Design
    from hemplit.core.model.tables import Tables
    from hemplit.core.model.tally import Ask
    from hemplit.core.tally.known import Path

DATES = ("date", "date and time")
#: So many columns are named in place of one by which nothing can be told apart.
SUGGESTED = 5


def tally_of(ask: Ask, design: Design, tables: Tables) -> Tally:
    """What a question means. Raises ``InputError`` for a column that is not there, or an answer that would be wrong."""
    return _Resolver(design, tables).tally(ask)


class _Resolver:
    """Puts a tally together out of the columns that are known."""

    def __init__(self, design: Design, tables: Tables) -> None:
        self.known, self.tables = Known(design, tables), tables

    # What is asked ----------------------------------------------------------------------------------------------------

    def tally(self, ask: Ask) -> Tally:
        known = {*self.known.by_name, *(table.casefold() for table in self.tables.by_name)}
        by = names_in(ask.by, known) + ((ask.across,) if ask.across else ())
        grains: dict[tuple[str, str, Path], list[tuple[Measure, Held | None]]] = {}
        for text in names_in(ask.of, known):
            measure, held, base, path = self._measure(text)
            grains.setdefault((held.view.name if held is not None else "", base, path), []).append((measure, held))
        parts = [self._part(base, path, measures, by, ask.where) for (_, base, path), measures in grains.items()]
        return Tally(tuple(parts), across=bool(ask.across))

    def _measure(self, text: str) -> tuple[Measure, Held | None, str, Path]:
        """A measure, where it is held, and the path from a base table to the one with a row for each that counts."""
        aggregate, name = aggregate_in(text)
        if text.casefold() in self.known.by_name:
            aggregate, name = None, text
        table = next((one for one in self.tables.by_name if one.casefold() == name.casefold()), None)
        if table is not None and name.casefold() not in self.known.by_name and aggregate in (None, Aggregate.NUMBER):
            rows = self.known.of_rows(table)
            base, path = (rows.base, rows.path) if rows is not None else (table, ())
            return Measure(f"number of {table}", Aggregate.NUMBER), rows, base, path
        helds = [held for held in self.known.held(name) if held.column.gathered is None]
        if aggregate is not Aggregate.NUMBER:
            numbers = [held for held in helds if held.column.kind.is_number]
            if helds and not numbers:
                kind = helds[0].column.kind.word
                hint = f'ask for "number of {name}", or add up another column'
                raise InputError(f"--of {text}", f"'{name}' holds {kind}s, which cannot be added up", hint)
            helds = numbers
        if helds and aggregate in (None, Aggregate.SUM, Aggregate.AVERAGE):
            amounts = [held for held in helds if not self.known.is_name(held)]
            if not amounts:
                home = helds[0].home
                what = f"'{name}' names a row of {home}, and is no amount"
                raise InputError(f"--of {text}", what, f'ask for "number of {home}"')
            helds = amounts
        if not helds:
            raise InputError(f"--of {text}", f"'{name}' is a list in its cells", "ask for the column of its table")
        nearest_ = min(len(held.path) for held in helds)
        best = [held for held in helds if len(held.path) == nearest_]
        if len({(held.base, held.path, held.column.column) for held in best}) > 1:
            said = " or ".join(f"{held.home}.{held.column.column or held.column.header}" for held in best)
            raise InputError(f"--of {text}", f"several sheets have a column '{name}'", f"say which: {said}")
        held = best[0]
        title = name if aggregate in (None, Aggregate.SUM) else f"{aggregate} of {name}"
        measure = Measure(title, aggregate or Aggregate.SUM, held.column.header)
        return measure, held, held.base, self.known.grain(held)

    # How the parts are put together -----------------------------------------------------------------------------------

    def _part(
        self,
        base: str,
        path: Path,
        measures: Sequence[tuple[Measure, Held | None]],
        by: Sequence[str],
        where: Sequence[str],
    ) -> Part:
        columns: list[ViewColumn] = []
        home = path[-1].table if path else base
        view = next((held.view for _, held in measures if held is not None), None)
        # A list in a view has rows of its own, which the view does not give one by one.
        here = _Here(self.known, view if view is not None and view.base == base else None, home, path)
        shown = []
        for number, (measure, held) in enumerate(measures):
            if measure.header is None or held is None:
                shown.append(measure)
                continue
            name = f"measure {number}"
            columns += moved(held.view, held.column, name, (), len(path))
            flat = Flat(held.view.sheet, measure.header) if held.view.sheet else None
            shown.append(replace(measure, header=name, flat=flat))
        title = measures[0][0].title
        groups = []
        for number, text in enumerate(by):
            name = f"group {number}"
            part, header = part_in(text) if text.casefold() not in self.known.by_name else (None, text)
            reached, way, cut, flat = here.reach(header, title, "--by")
            if part is not None and reached.column.kind.word not in DATES:
                what = f"'{header}' holds no dates, so it has no {part}"
                raise InputError(f"--by {text}", what, "leave it out")
            columns += moved(reached.view, reached.column, name, way, cut)
            groups.append(Grouped(text, name, part, flat))
        conditions = []
        for number, text in enumerate(where):
            name = f"condition {number}"
            asked = condition_in(text)
            if asked is None:
                raise InputError(
                    f"--where {text}", "this is no condition", 'write "COLUMN = VALUE", or "COLUMN is blank"'
                )
            header, sign, value = asked
            reached, way, cut, flat = here.reach(header, title, "--where")
            columns += moved(reached.view, reached.column, name, way, cut)
            conditions.append(Condition(name, sign, self._values(text, reached, sign, value), flat))
        sheet, each, unnamed = here.each()
        made = View("tally", sheet, home, tuple(columns))
        return Part(made, sheet, each, unnamed, tuple(groups), tuple(shown), tuple(conditions))

    def _values(self, text: str, held: Held, sign: Sign, value: str) -> tuple[str, ...]:
        """The values of a condition as the sheet writes them; days may be given as 2026-03-31, too."""
        if sign in (Sign.BLANK, Sign.FILLED):
            return ()
        several = value.split(" or ") if sign in (Sign.IS, Sign.IS_NOT) else [value]
        found = []
        for one in (part.strip() for part in several):
            kind = held.column.kind
            forms = [kind, DAY] if kind.word == "date" else [kind]
            read = (kinds.parse(pa.array([one]), form)[0].as_py() for form in forms)
            known = next((given for given in read if given is not None), None)
            if known is None:
                form = f" like {kind.form}" if kind.form else ""
                hint = f"write a {kind.word}{form}" if one else "write a value behind the sign, or 'is blank'"
                raise InputError(f"--where {text}", f"'{one}' is no {kind.word}", hint)
            found.append(kinds.show(known, kind))
        return tuple(found)


class _Here:
    """The rows of one table, as one view reaches them along a path; what each of them has one value of."""

    def __init__(self, known: Known, view: View | None, home: str, path: Path) -> None:
        self.known, self.view, self.home, self.path = known, view, home, path

    def each(self) -> tuple[str, tuple[str, ...], tuple[str, ...]]:
        """The flat sheet in which the rows stand, the headers that tell them apart, and the others of what has no name.

        No sheet if none has them all.
        """
        if self.view is None or not self.view.sheet or self.known.is_united(self.home):
            return "", (), ()
        if not self.path and self.view.base == self.home and not self.view.lists:
            return self.view.sheet, (), ()
        headers = self.known.naming(self.view, self.path, self.home)
        plan = self.known.design.by_name[self.home]
        if not headers or len(plan.feeds) > len(plan.sheets):  # a row of the sheet names several of them
            return "", (), ()
        if plan.key == resolve.identity(plan):
            return self.view.sheet, headers, ()
        reach = len(self.path)
        others = [
            one.header
            for one in self.view.columns
            if one.path[:reach] == self.path and len(one.path) <= reach + 1 and one.header not in headers
        ]
        return self.view.sheet, headers, tuple(others)

    def reach(self, header: str, measure: str, option: str) -> tuple[Held, Path, int, Flat | None]:
        """A column of which each row has one value: where it is held, and the way there in place of ``cut`` steps."""
        found = []
        for held in self.known.held(header, option):
            if held.column.gathered is None:
                found += list(self._ways_to(held))
        if not found:
            raise self._no_answer(header, measure, option)
        least = min(found, key=lambda one: one[0])[0]
        best = [one[1:] for one in found if one[0] == least]
        ends = {(way + held.path[cut:], held.column.column) for held, way, cut, _ in best}
        if len(ends) > 1:
            said = " or ".join(sorted({way[0].columns[0] for _, way, _, _ in best if way}))
            what = f"there are several ways from {self.home} to '{header}' ({said})"
            raise InputError(f"{option} {header}", what, "name a header that means one of them")
        held, way, cut, flat = best[0]
        return held, way, cut, flat or self._here_as_well(held, way, cut)

    def _here_as_well(self, held: Held, way: Path, cut: int) -> Flat | None:
        """The header under which the sheet of the measure says the same as another, or as a table."""
        if self.view is None or not self.view.sheet:
            return None
        end = ((*self.path, *way, *held.path[cut:]), held.column.column)
        header = next((one.header for one in self.view.columns if (one.path, one.column) == end), None)
        return Flat(self.view.sheet, header) if header is not None and held.column.column is not None else None

    def _ways_to(self, held: Held) -> Iterator[tuple[tuple[bool, int, int], Held, Path, int, Flat | None]]:
        """How a column is reached, the best first in order: in the same sheet, over few references."""
        whole = self.known.grain(held)
        if self.view is not None and held.view is self.view and held.base == self.view.base:
            if whole[: len(self.path)] == self.path:
                flat = Flat(held.view.sheet, held.column.header) if held.view.sheet else None
                yield (False, 0, len(whole)), held, (), len(self.path), flat
            return
        for cut, node in enumerate((held.base, *(one.table for one in whole))):
            if cut == len(whole) > 0 and not self._has_one_role(held):
                return
            ways = self.known.ways(self.home, node)
            for way in ways:
                yield (True, len(way) + len(whole) - cut, cut), held, way, cut, self._linked(held, way, cut)
            if ways:
                return

    def _has_one_role(self, held: Held) -> bool:
        """Whether a column is meant by one header only, and not in several roles."""
        if held.column.column is None:
            return True
        headers = {
            one.column.header.casefold()
            for helds in self.known.by_name.values()
            for one in helds
            if one.view.sheet and one.path and (one.home, one.column.column) == (held.home, held.column.column)
        }
        return len(headers) <= 1

    def _linked(self, held: Held, way: Path, cut: int) -> Flat | None:
        """How the flat sheets lead to a column of another sheet; None if they do not do so in one step."""
        if self.view is None or not self.view.sheet or not held.view.sheet:
            return None
        path = (*self.path, *way)
        table = path[-1].table if path else self.view.base
        if not path or self._is_alike(path) or self.known.is_united(table):
            return None
        here = self.known.naming(self.view, path, table)
        there = self.known.naming(held.view, held.path[:cut], table)
        if here is None or there is None:
            return None
        return Flat(held.view.sheet, held.column.header, ((here, held.view.sheet, there),))

    def _is_alike(self, path: Path) -> bool:
        """Whether the last reference names a row in another writing."""
        before = path[-2].table if len(path) > 1 else (self.view.base if self.view else self.home)
        plan = self.known.design.by_name[before]
        return any(plan.by_name[name].alike for name in path[-1].columns if name in plan.by_name)

    def _no_answer(self, header: str, measure: str, option: str) -> InputError:
        """Why no row has one value of a column, and what to ask instead."""
        held = self.known.held(header, option)[0]
        reachable = dict.fromkeys(
            one.column.header
            for helds in self.known.by_name.values()
            for one in helds
            if one.view.sheet and one.column.gathered is None and any(True for _ in self._ways_to(one))
        )
        several = bool(self.known.ways(held.base, self.home))
        what = (
            f"a row of {self.home} counts once in '{measure}', and may have several '{header}'"
            if several
            else f"nothing leads from {self.home}, whose rows count in '{measure}', to '{header}'"
        )
        instead = ", ".join([one for one in reachable if one != measure][:SUGGESTED])
        ask = f"ask for a column of {held.base}, or by" if several else "ask by"
        return InputError(f"{option} {header}", what, f"{ask} one of these: {instead}" if instead else "ask otherwise")
