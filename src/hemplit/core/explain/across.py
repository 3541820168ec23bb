"""Why a column refers to what another sheet lists: how many of its values stand there, and where they stand besides."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.draft.links import why_not
from hemplit.core.model.design import Grain
from hemplit.core.study.links import links
from hemplit.core.texts.words import shown_together

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.findings import Findings, Link
    from hemplit.core.model.relation import Relation

#: So many others are told.
LISTED = 4


def why_across(
    design: Design,
    table: TablePlan,
    column: ColumnPlan,
    findings: Mapping[str, Findings],
    relations: Mapping[str, Relation],
) -> tuple[list[str], list[str]]:
    """The evidence for a reference to a table of another sheet, and what else it could have referred to."""
    pointed = resolve.target(design, table, column)
    if pointed is None or not resolve.is_across(table, column, pointed):
        return [], []
    headers, names = resolve.naming(design, table, column)
    said = [resolve.source(design, pointed.table, pointed.table.by_name[name]) for name in names]
    alone = {name: one for name, one in relations.items() if design.united(name) is None or name == table.sheet}
    things = {(pointed.table.sheet, str(header)) for header in said if pointed.table.grain is not Grain.ROW}
    found = [
        one
        for one in links(alone, {name: findings[name] for name in alone}, things)
        if one.child == table.sheet and set(headers) & set(one.headers)
    ]
    chosen = [one for one in found if (one.parent, one.headers) == (pointed.table.sheet, headers)]
    best = next((one for one in chosen if list(one.key) == said), chosen[0] if chosen else None)
    if best is None:
        return [], []
    others = [one for one in found if one not in chosen][:LISTED]
    return [_shown(best, findings)], [f"{_shown(one, findings)}: {why_not(one, best, findings)}" for one in others]


def _shown(one: Link, findings: Mapping[str, Findings]) -> str:
    """A link with its counts."""
    own, theirs = (shown_together(names) for names in (one.headers, one.key))
    known = f"all {one.known:,}" if one.known == one.different else f"{one.known:,} of {one.different:,}"
    written = ", as people write them" if one.alike else ""
    title = findings[one.parent].source.title
    return f"{known} values of {own} stand under {theirs} of {title}{written}, in {one.matched:,} of {one.rows:,} rows"
