"""Tables that sheets were drafted into, each by itself → one design, in which they refer to each other.

    jobs.csv:  jobs (…, boat_reg → boats), boats (boat_reg, name)      boats.csv:  boats_2 (reg, name, owner)
    →          jobs (…, boat_reg → boats_2)                            boats_2 (reg, name, owner)

A thing of which another sheet says all that is said here goes. What is said here otherwise, or besides, stays in a
table of its own. A cell that names nothing in the list is kept beside the reference.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.design.check import check
from hemplit.core.draft.among import base_of, holder_of, listed_by, may_refer, names_things
from hemplit.core.draft.covered import Covering
from hemplit.core.draft.feeds import fed
from hemplit.core.draft.listed import Listed, Partners, is_plain, partners_of
from hemplit.core.draft.mentions import in_roles, mentioned
from hemplit.core.draft.order import in_order
from hemplit.core.draft.referring import (
    beside,
    description,
    given_columns,
    odd_columns,
    reference_to,
    taken_along,
    unmatched,
)
from hemplit.core.draft.things import are_same
from hemplit.core.draft.told_further import told_further
from hemplit.core.model.design import ColumnPlan, Grain
from hemplit.core.texts.moments import is_moment_header
from hemplit.core.texts.words import stem_of, unused, words
from hemplit.dataclasses import replace
from hemplit.errors import DesignError

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hemplit.core.draft.links import Things
    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.findings import Link
    from hemplit.core.model.relation import Relation


def united(
    design: Design, links: Sequence[Link], things: Things, relations: Mapping[str, Relation]
) -> tuple[Design, tuple[Link, ...]]:
    """The design with a reference for each link, as far as its tables allow it, and the links of several columns for
    which they do not.

    What no sheet lists is put together before columns that only name it refer to it.
    """
    uniting = _Uniting(design, links, things, relations)
    left = []
    for link in in_order(links, things, uniting.tables):
        before = dict(uniting.tables)
        uniting.link(link)
        left += [link] if len(link.headers) > 1 and uniting.tables == before else []
    tables = tuple(uniting.tables.values())
    trail = tuple(one for one in design.trail if one.table in uniting.tables)
    design = fed(replace(design, tables=tables, trail=trail), relations)
    mentioning = _Uniting(design, links, things, relations)
    for link in links:
        if things.holds(link) or (link.parent, link.key) in uniting.put_together:
            mentioning.mention(link)
    return mentioning.design, tuple(left)


class _Uniting:
    def __init__(
        self, design: Design, links: Sequence[Link], things: Things, relations: Mapping[str, Relation]
    ) -> None:
        self.relations, self.links, self.things = relations, links, things
        self.tables = {table.name: table for table in design.tables}
        self.first = design
        self.put_together: set[tuple[str, tuple[str, ...]]] = set()
        """The lists, by sheet and what names their things, of which another sheet says more."""

    @property
    def design(self) -> Design:
        """The design as it is so far."""
        return replace(self.first, tables=tuple(self.tables.values()))

    def link(self, link: Link) -> None:
        """One link; the tables stay as they are where it cannot be followed."""
        listed = listed_by(self.tables, link, self.relations)
        holders = [holder_of(self.tables, link.child, header) for header in link.headers]
        if listed is None or not all(holders):
            return
        held = [one for one in holders if one is not None]
        table, column = held[0]
        if any(other is not table for other, _ in held):
            # What stands apart in the sheet's tables is said together by each of its rows.
            table = base_of(self.tables, link.child) or table
        if not may_refer(self.tables, table, listed, link):
            return
        if self.things.holds(link) or (link.parent, link.key) in self.put_together:
            named = names_things(table, column)
            if not named or are_same(self.design, listed.table, table, self.relations):
                return  # as soon as these are put together
        before = dict(self.tables)
        self._follow(table, held, link, listed)
        self._unless_it_contradicts(before)

    def mention(self, link: Link) -> None:
        """A link of a column that only names things which no sheet lists."""
        listed, holder = (
            listed_by(self.tables, link, self.relations),
            holder_of(self.tables, link.child, link.headers[0]),
        )
        if (
            listed is None
            or holder is None
            or names_things(*holder)
            or not may_refer(self.tables, holder[0], listed, link)
        ):
            return
        table, column = holder
        made = mentioned(table, column, link, listed, self.relations)
        if made is None:
            if link.child not in listed.table.sheets:
                self._follow(table, [holder], link, listed)
            return
        things, own, name = made
        before = dict(self.tables)
        self._put(things)
        self._put_renamed(own, column.name, name)
        if len(things.headers_in(link.child, things.by_name[listed.names[0]])) > 1:
            for one in in_roles([*self.tables.values()], things, link.child):
                self._put(one)
        self._unless_it_contradicts(before)

    def _unless_it_contradicts(self, before: Mapping[str, TablePlan]) -> None:
        """The tables as they are, or as they were before if what they say now contradicts itself."""
        try:
            check(self.design)
        except DesignError:
            self.tables = dict(before)

    def _follow(
        self, table: TablePlan, held: Sequence[tuple[TablePlan, ColumnPlan]], link: Link, listed: Listed
    ) -> None:
        """What another sheet lists takes the place of what a table says of it."""
        own = [one for _, one in held]
        column = own[0]
        found = partners_of(link, self.relations)
        beside = self._said_by(table, column, link, listed, found)
        if beside is None:
            # That a town stands once in the list is asked only where rows are found by it.
            self.tables[listed.table.name] = listed.table
            table = self.tables[table.name]
        if beside is not None:
            self._take_along(table, column, beside, listed.names[0], listed, found)
        elif link.alike or self._is_given(table, column):
            self._keep_beside(table, column, link, listed)
        elif self._is_thing(table, own, listed, found):
            self._replace_thing(table, own, link, listed, found)
        elif len(held) > 1 and self._stays(link, held, table, listed, found):
            self._keep_beside(table, column, link, listed)
        elif len(held) > 1 and len(listed.table.key) == 1:
            self._describe(table, own, link, listed, found)
        elif len(held) > 1:
            for one in own:
                self._refer(self.tables[table.name], one, link, listed, found)
        elif column.name in table.key and not found.all_found:
            self._keep_beside(table, column, link, listed)
        else:
            self._refer(table, column, link, listed, found)
        if len(link.headers) == 1:
            self._names_taken_along(self.tables.get(table.name), link, listed, found)

    def _is_thing(self, table: TablePlan, own: Sequence[ColumnPlan], listed: Listed, found: Partners) -> bool:
        """Whether the columns are what the things of a table are known by; several have to be filled in all rows."""
        known_by = table.grain is not Grain.ROW and {*resolve.identity(table)} == {one.name for one in own}
        filled = not any(found.child.by_name[header].blanks for one in own for header in one.headers)
        return known_by and (len(own) == 1 or (filled and len(listed.table.key) == 1))

    def _said_by(
        self, table: TablePlan, column: ColumnPlan, link: Link, listed: Listed, found: Partners
    ) -> ColumnPlan | None:
        """The reference beside a column that leads to the same row of the list wherever the column names one.

        It leads nowhere where the column names none.
        """
        if len(link.headers) > 1 or link.alike or column.name in table.key or listed.columns[0].to is not None:
            return None
        for other in self.links:
            to_same = (other.child, other.parent) == (link.child, link.parent) and len(other.headers) == 1
            beside = next((one for one in table.columns if one.source == other.headers[0] and one.to is not None), None)
            if other is link or not to_same or beside is None or beside.target != (listed.table.name, None):
                continue
            if bool((partners_of(other, self.relations).rows == found.rows).all()):
                return beside
        return None

    def _take_along(
        self, table: TablePlan, column: ColumnPlan, beside: ColumnPlan, given: str, listed: Listed, found: Partners
    ) -> None:
        """A column that the view takes from the list, as the reference beside it leads there.

        Its cells that name nothing in the list are kept. It stays where another view takes it from this table.
        """
        if self._is_given(table, column):
            return
        made = taken_along(column, beside, given, {one.name for one in table.columns}, listed, found)
        columns = tuple(part for one in table.columns for part in (made if one is column else (one,)))
        unique = tuple(names for names in table.unique if column.name not in names)
        self._put(_without_rules(replace(table, columns=columns, unique=unique), column.name))

    def _is_given(self, table: TablePlan, column: ColumnPlan) -> bool:
        """Whether the view of another sheet takes the column along."""
        return any(
            (table.name, column.name) in self._along(other, one)
            for other in self.tables.values()
            for one in other.columns
        )

    def _along(self, table: TablePlan, column: ColumnPlan) -> list[tuple[str, str]]:
        """The tables and columns on the way to what a view takes along, from the reference on."""
        if column.along is None:
            return []
        way, at = [], table.by_name[column.along[0]].target
        for name in column.along[1].split("."):
            if at is not None:
                way.append((at[0], name))
                at = self.tables[at[0]].by_name[name].target
        return way

    def _names_taken_along(self, table: TablePlan | None, link: Link, listed: Listed, found: Partners) -> None:
        """The columns beside a reference that say of it, by their headers, what stands in the list: "Supervisor"."""
        if table is None or link.alike or not (about := stem_of(link.headers[0])):
            return
        to_list = (one for one in table.columns if one.source == link.headers[0] and one.to == listed.table.name)
        reference = next(to_list, None) if link.child != link.parent or table.grain is Grain.ROW else None
        unsaid = table.key + tuple(name for names in table.unique for name in names)
        for one in table.columns:
            named = one.source is not None and words(one.source)[: len(about)] == about and one is not reference
            if reference is None or not named or not is_plain(one) or one.name in unsaid:
                continue
            theirs = (other for other in listed.table.columns if is_plain(other) and other is not one)
            same = (other for other in theirs if found.says_the_same(one.source, other.source))
            given = next(same, None)
            if given is not None:
                self._take_along(self.tables[table.name], one, reference, given.name, listed, found)

    def _stays(
        self,
        link: Link,
        held: Sequence[tuple[TablePlan, ColumnPlan]],
        table: TablePlan,
        listed: Listed,
        found: Partners,
    ) -> bool:
        """Whether the columns that name a row together say something by themselves, too: a time, a part of the key.

        What is blank in some rows stays as well, as the others may be enough there, and what one reference would take
        out of a key, or of what is unique; but not what only says of whom it was taken out once.
        """
        if any(found.child.by_name[name].blanks for name in link.headers):
            return True
        if {*found.child.of} == {*link.headers} and found.all_found:
            return False
        others = {name for one in self.links if one is not link and one.child == link.child for name in one.headers}
        return any(
            (column.name in owner.key and not found.all_found)
            or (len(listed.table.key) == 1 and any(column.name in names for names in (owner.key, *owner.unique)))
            or owner.name != table.name
            or (len(listed.table.key) == 1 and is_moment_header(str(column.source)))
            or column.source in others
            for owner, column in held
        )

    # What becomes of it ----------------------------------------------------------------------------------------------

    def _refer(self, table: TablePlan, column: ColumnPlan, link: Link, listed: Listed, found: Partners) -> None:
        """One column of a table becomes a reference."""
        required = column.required and found.all_found
        made = reference_to(table, column, link, listed, found, required=required)
        taken = {one.name for one in table.columns} | {made.name}
        further = unmatched(made, taken, found)
        columns = [part for one in table.columns for part in ((made, *further) if one is column else (one,))]
        self._put_renamed(replace(table, columns=tuple(columns)), column.name, made.name)

    def _describe(
        self, table: TablePlan, own: Sequence[ColumnPlan], link: Link, listed: Listed, found: Partners
    ) -> None:
        """A description by several columns becomes one reference."""
        rest = {one.name for one in table.columns} - {one.name for one in own}
        made, further = description(rest, own, link, listed, found)
        columns = [
            part
            for one in table.columns
            for part in ((made, *further) if one is own[0] else () if one in own else (one,))
        ]
        named = {one.name for one in own}
        key = tuple(dict.fromkeys(made.name if name in named else name for name in table.key))
        kept_table = replace(table, columns=tuple(columns), key=key)
        for one in own:
            kept_table = _without_rules(kept_table, one.name)
        self._put(kept_table)

    def _keep_beside(self, table: TablePlan, column: ColumnPlan, link: Link, listed: Listed) -> None:
        """What has to stay as it is refers to what is listed by a further column."""
        if len(listed.table.key) > 1:
            return
        made = beside(table, column, link, listed)
        self._put(replace(table, columns=(*table.columns, made)))

    def _replace_thing(
        self, thing: TablePlan, own: Sequence[ColumnPlan], link: Link, listed: Listed, found: Partners
    ) -> None:
        """What refers to a thing of this sheet refers to what is listed, if that says all that is said of it here."""
        pointing = [
            (table, one)
            for table in self.tables.values()
            for one in table.columns
            if (one.target or ("",))[0] == thing.name
        ]
        said = Covering(self.design, self.relations, self.links).covered(thing, own, link, listed, found)
        said_here = {(thing.sheet, one.headers) for one in thing.columns if is_plain(one)}
        named_otherwise = any(
            one.parent == link.parent and one.key != link.key and (one.child, one.headers) not in said_here
            for one in self.links
        )
        if said is None and not named_otherwise:
            design = told_further(self.design, thing, listed, self.relations)
            if design is not None:
                self.tables = {table.name: table for table in design.tables}
                self.put_together.add((link.parent, link.key))
                return
        if said is None or len(pointing) != 1 or not (found.all_found or self._may_lack(*pointing[0])):
            self._keep_beside(thing, own[0], link, listed)
            return
        table, reference = pointing[0]
        rest = {one.name for one in table.columns} - {reference.name}
        required = reference.required and found.all_found
        if len(own) > 1:
            made, further = description(rest, own, link, listed, found)
            made = replace(made, required=made.required and required)
        else:
            made = reference_to(table, replace(own[0], name=reference.name), link, listed, found, required=required)
            further = list(unmatched(made, {reference.name, made.name, *rest}, found))
        taken = {reference.name, made.name, *rest}
        further += odd_columns(said, taken | {one.name for one in further}, required=reference.required)
        further += given_columns(said, made, taken | {one.name for one in further}, listed, found)
        columns = [part for one in table.columns for part in ((made, *further) if one is reference else (one,))]
        for name in said.gone:
            del self.tables[name]
        self._put_renamed(replace(table, columns=tuple(columns)), reference.name, made.name)

    def _may_lack(self, table: TablePlan, reference: ColumnPlan) -> bool:
        """Whether a reference may lead nowhere in some rows: it is in no key, and no view takes along what it names."""
        return reference.name not in table.key and not self._is_given(table, reference)

    def _put(self, table: TablePlan) -> None:
        self.tables[table.name] = table

    def _put_renamed(self, table: TablePlan, old: str, new: str) -> None:
        """The table with another name for a column, by which those that refer to it know it, too."""
        ways = {
            (other.name, one.name): self._along(other, one) for other in self.tables.values() for one in other.columns
        }
        self._put(_renamed(table, old, new))
        for other in list(self.tables.values()) if old != new else ():
            for one in other.columns:
                way = ways.get((other.name, one.name), [])
                if one.along is not None and (table.name, old) in way:
                    given = ".".join(new if (of, name) == (table.name, old) else name for of, name in way)
                    renamed = replace(one, along=(one.along[0], given))
                    columns = tuple(renamed if column is one else column for column in self.tables[other.name].columns)
                    self._put(replace(self.tables[other.name], columns=columns))
        for other in list(self.tables.values()) if old != new else ():
            for one in other.columns:
                if one.target == (table.name, old):
                    taken = {column.name for column in other.columns} - {one.name}
                    moved = replace(one, name=unused(new, taken, new), to=f"{table.name}.{new}")
                    columns = tuple(moved if column is one else column for column in other.columns)
                    self._put_renamed(replace(other, columns=columns), one.name, moved.name)


def _renamed(table: TablePlan, old: str, new: str) -> TablePlan:
    """The table with another name for a column in its key and what is unique, and without the rules for it."""
    if old != new:
        key = tuple(new if name == old else name for name in table.key)
        unique = tuple(tuple(new if name == old else name for name in columns) for columns in table.unique)
        table = replace(table, key=key, unique=unique)
    return _without_rules(table, old)


def _without_rules(table: TablePlan, name: str) -> TablePlan:
    return replace(table, rules=tuple(rule for rule in table.rules if name not in rule.columns))
