"""Relation → findings: what the data shows, with evidence, before anything is decided."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.codes import with_blank
from hemplit.core.model.findings import Dependency, Findings
from hemplit.core.model.grid import EMPTY
from hemplit.core.study.computed import computed
from hemplit.core.study.dependencies import decide
from hemplit.core.study.facts import facts
from hemplit.core.study.trouble import trouble

if TYPE_CHECKING:
    from collections.abc import Callable

    from hemplit.core.model.relation import Relation

#: Dependencies with more columns on the left are looked for only when asked.
DEPTH = 2


def study(relation: Relation, depth: int = DEPTH, progress: Callable[[int, int], None] | None = None) -> Findings:
    """All findings of one relation; left sides of dependencies and keys have at most ``depth`` columns."""
    groupings = [with_blank(column.codes, len(column.values)) for column in relation.columns]
    decided = decide(groupings, relation.row_count, depth, progress)
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
                found.groups,
                relation.row_count - found.groups,
                _blank_decides(relation, found.left, found.right),
            )
            for found in decided.dependencies
        ),
        computed=computed(relation.columns),
        trouble=trouble(relation),
        depth=depth,
    )


def _blank_decides(relation: Relation, left: tuple[int, ...], right: int) -> bool:
    filled = relation.columns[right].codes != EMPTY
    return any(bool((filled & (relation.columns[index].codes == EMPTY)).any()) for index in left)
