"""What a person wants of a draft without editing it; every wish that the data contradict is refused with the reason."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design.ids import NUMBER
from hemplit.core.draft.verdict import Verdict
from hemplit.dataclasses import dataclass
from hemplit.errors import InputError, nearest

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from hemplit.core.model.findings import Findings


@dataclass(frozen=True)
class Wishes:
    """``lookups`` is none, some or many; ``keep`` are computed columns to store; ``keys`` pairs of a table and the
    column that is to be its key; ``together`` and ``apart`` lists of columns for one table, or not for the same;
    ``ids`` the style of made-up ids; ``depth`` the most columns on the left of a dependency; ``dates`` a table of
    dates."""

    lookups: str = "some"
    keep: tuple[str, ...] = ()
    keys: tuple[tuple[str, str], ...] = ()
    together: tuple[tuple[str, ...], ...] = ()
    apart: tuple[tuple[str, ...], ...] = ()
    ids: str = NUMBER
    depth: int | None = 2
    dates: bool = False


NO_WISHES = Wishes()


def check_headers(wishes: Wishes, sheets: Iterable[Findings]) -> None:
    """Raises ``InputError`` if a wish names a column that no sheet has."""
    known = {name: None for found in sheets for name in found.by_name}
    wanted = [*wishes.keep, *(column for part in (*wishes.together, *wishes.apart) for column in part)]
    for name in wanted:
        if name not in known:
            raise InputError(f"column '{name}'", "no sheet has it", nearest(name, known))


def with_wishes(judged: Sequence[Verdict], wishes: Wishes, findings: Findings) -> tuple[Verdict, ...]:
    """The dependencies that are meant, with those that hold a wish together and without those that are to part."""
    parted = {(one, other) for columns in wishes.apart for one in columns for other in columns if one != other}
    # What identifies the same thing would keep it there.
    pairs = {(one.left[0], one.right) for one in judged if len(one.left) == 1}
    alike = {(one, other) for one, other in pairs if (other, one) in pairs}
    parted |= {(other, right) for left, right in parted for one, other in alike if one == left and other != right}
    kept = [one for one in judged if not any((left, one.right) in parted for left in one.left)]
    for columns in wishes.together:
        if not set(columns) <= set(findings.by_name) or _free(columns, findings):
            continue
        lead = _lead(columns, findings)
        kept = [one for one in kept if one.right not in columns or one.right == lead]
        kept = [one for one in kept if not set(one.left) & (set(columns) - {lead})]
        groups = findings.by_name[lead].distinct
        kept += [Verdict((lead,), right, groups) for right in columns if right != lead]
    return tuple(kept)


def _free(columns: Sequence[str], findings: Findings) -> bool:
    """Whether the columns are independent lists, so that one table holds them as long as they are not parted."""
    return any(
        sum(bool(set(part) & set(columns)) for part in one.parts) > 1 and not set(one.left) & set(columns)
        for one in findings.multivalued
        if one.separable
    )


def _lead(columns: Sequence[str], findings: Findings) -> str:
    """The column that decides the others."""
    held = {(one.left[0], one.right) for one in findings.dependencies if len(one.left) == 1}
    held |= {(key[0], right) for key in findings.keys if len(key) == 1 for right in findings.by_name}
    constant = {one.right for one in findings.dependencies if not one.left}
    lacking = {
        lead: [right for right in columns if right not in (lead, *constant) and (lead, right) not in held]
        for lead in columns
    }
    best = min(columns, key=lambda lead: (len(lacking[lead]), columns.index(lead)))
    if lacking[best]:
        raise InputError(
            f"together {', '.join(columns)}",
            f"'{best}' does not determine '{lacking[best][0]}', so one table cannot hold them once each",
            "look where it breaks with hemplit dependencies",
        )
    return best
