"""Relation → findings: what the data shows, with evidence, before anything is decided."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.codes import with_blank
from hemplit.core.model.findings import Dependency, Findings
from hemplit.core.model.grid import EMPTY
from hemplit.core.study.computed import computed
from hemplit.core.study.dependencies import decide, silent
from hemplit.core.study.evidence import evidence
from hemplit.core.study.facts import facts
from hemplit.core.study.trouble import trouble

if TYPE_CHECKING:
    from hemplit.core.codes import Grouping
    from hemplit.core.model.relation import Relation
    from hemplit.core.study.dependencies import Progress

#: Dependencies with more columns on the left are looked for only when asked.
DEPTH = 3


def study(relation: Relation, depth: int | None = DEPTH, progress: Progress = silent) -> Findings:
    """All findings of one relation; left sides have at most ``depth`` columns, any number for None."""
    groupings = grouped(relation)
    decided = decide(groupings, relation.row_count, depth, progress)
    proofs = evidence(groupings, relation.row_count, decided.dependencies)
    names = relation.names
    return Findings(
        source=relation.source,
        row_count=relation.row_count,
        steps=relation.steps,
        columns=tuple(facts(column) for column in relation.columns),
        keys=tuple(tuple(names[index] for index in key) for key in decided.keys),
        dependencies=tuple(
            Dependency(
                tuple(names[index] for index in found.left),
                names[found.right],
                proofs.get(found),
                _blank_decides(relation, found.left, found.right),
            )
            for found in decided.dependencies
        ),
        computed=computed(relation.columns),
        trouble=trouble(relation),
        depth=depth,
        unfinished=decided.unfinished,
    )


def grouped(relation: Relation) -> list[Grouping]:
    """The columns of a relation as the dependency search takes them: a blank is one value, equal to itself."""
    return [with_blank(column.codes, len(column.values)) for column in relation.columns]


def _blank_decides(relation: Relation, left: tuple[int, ...], right: int) -> bool:
    blank = [relation.columns[index].codes == EMPTY for index in left if relation.columns[index].blanks]
    if not blank:
        return False
    filled = relation.columns[right].codes != EMPTY
    return any(bool((filled & rows).any()) for rows in blank)
