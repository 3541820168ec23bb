"""Lists, and columns side by side, that belong to a thing of which several rows speak, and not to each of these rows.

    Job   Boat   Marks             boat   mark   position
    17    Teal   keel, mast        Teal   keel   1
    18    Knot   keel          →   Teal   mast   2
    19    Teal   keel, mast        Knot   keel   1

Whose they are is judged as of every other column: by a draft of the sheet in which they are not taken apart yet.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.draft.sheets import draft
from hemplit.core.model.acts import Act
from hemplit.core.model.design import Purpose
from hemplit.core.study import WIDE, study
from hemplit.core.texts.words import is_person, shown_together
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.findings import Dependency, Findings
    from hemplit.core.model.relation import Relation, Step

APART = (Act.SIDEWAYS, Act.LISTS)


def whole(steps: Sequence[Step]) -> tuple[Step, ...]:
    """The steps without those that take lists and columns side by side apart."""
    return tuple(step for step in steps if step.act not in APART or step.proposed)


def with_owners(steps: Sequence[Step], relation: Relation) -> tuple[Step, ...]:
    """The steps of which each takes out once for each thing what belongs to that; ``relation`` was shaped without."""
    apart = [step for step in steps if step not in whole(steps)]
    taken = frozenset(header for step in apart for header in step.takes)
    found = _deciding_nothing(taken, study(relation, 2 if len(relation.columns) <= WIDE else 1))
    design = draft({"sheet": found})
    return tuple(_owned(step, design, relation, found, taken) if step in apart else step for step in steps)


def _deciding_nothing(headers: frozenset[str], found: Findings) -> Findings:
    """Findings in which those columns identify nothing: one of several children is no name of a member."""

    def others(some: Iterable[Dependency]) -> tuple[Dependency, ...]:
        return tuple(one for one in some if headers.isdisjoint(one.left))

    return replace(
        found,
        keys=tuple(key for key in found.keys if headers.isdisjoint(key)),
        dependencies=others(found.dependencies),
        where_filled=others(found.where_filled),
    )


def _owned(step: Step, design: Design, relation: Relation, found: Findings, taken: frozenset[str]) -> Step:
    owner = next(filter(None, (_owner(design, table, step, found, taken) for table in design.tables)), ())
    if not owner or any(relation.by_name[name].blanks for name in owner):
        return step
    named = shown_together(owner)
    settings = tuple((name, owner if name == "key" else value) for name, value in (*step.settings, ("once", True)))
    return replace(step, settings=settings, why=f"{step.why}, the same for each {named}")


def _owner(design: Design, table: TablePlan, step: Step, found: Findings, taken: frozenset[str]) -> tuple[str, ...]:
    """The header, or the two of a name, by which the things of a table are known, if what the step takes is said of
    them: all of it, or most if the rest is the same for each, too; of people there must be more to say, without which
    they have no table."""
    headers = {column.name: resolve.header(design, table, column) for column in table.columns}
    known_by = tuple(headers[name] for name in resolve.identity(table))
    more = {headers[column.name] for column in table.stored if column.ids is None} - taken - {*known_by}
    named = len(known_by) == 1 or (is_person(known_by) and bool(more))
    said = step.takes & {*headers.values()}
    rest = {one.right for one in found.held if {*one.left} <= {*known_by}} if 2 * len(said) > len(step.takes) else set()
    return known_by if table.purpose is Purpose.ENTITY and named and step.takes <= said | rest else ()
