"""Findings on a terminal: trouble first, then the columns, then what decides what."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.findings import Formula
from hemplit.core.model.grid import column_letters
from hemplit.core.shape import header
from hemplit.views.style import BAD, NAME, QUIET, count, counted, grid, plain, short, title

if TYPE_CHECKING:
    from rich.console import Console

    from hemplit.core.model.findings import Dependency, Findings
    from hemplit.core.model.relation import Kind

#: So many are listed for a person; all of them are in the JSON.
MOST_KEYS = 8
MOST_PAIRS = 20
MOST_NEAR = 12
MOST_NAMED = 4


def show_sheet(console: Console, found: Findings) -> None:
    """One sheet for ``hemplit look``."""
    size = f"{counted(found.row_count, 'row')} × {counted(len(found.columns), 'column')}"
    title(console, found.source.title, ", ".join(part for part in (size, found.source.taken_as) if part))
    for one in found.trouble:
        where = f": {plain(', '.join(one.places))}" if one.places else ""
        more = ", …" if one.count > len(one.places) > 0 else ""
        console.print(f"  [{BAD}]![/] {plain(one.what)} ({one.count:,}){where}{more}")
        if one.hint:
            console.print(f"      [{QUIET}]{plain(one.hint)}[/]")
    _show_steps(console, found)
    table = grid("", "header", "kind", "blank", "different", "such as", numbers=("blank", "different"))
    for facts in found.columns:
        table.add_row(
            f"[{QUIET}]{column_letters(facts.position)}[/]",
            f"[{NAME}]{plain(facts.name)}[/]",
            _kind(facts.kind),
            count(facts.blanks),
            count(facts.distinct) if facts.repeats else "[green]all[/]",
            f" [{QUIET}]·[/] ".join(short(example) for example in facts.examples),
        )
    console.print(table)
    _show_keys(console, found)
    _show_computed(console, found)
    console.print()


def _show_steps(console: Console, found: Findings) -> None:
    """What shaping did, and what it proposes; a plain header is not worth a word."""
    for step in found.steps:
        if step.act == header.ACT and ";" not in step.why:
            continue
        said = dict(step.settings)
        what = next((f" in '{said[name]}'" for name in ("column",) if name in said), "")
        if "instead" in said:
            odd = ", ".join(f"'{text}'" for text in step.texts("of"))
            what = f" {odd} → '{said['instead']}'{what}"
        sign = f"[{BAD}]?[/] proposed: " if step.proposed else "[green]·[/] "
        console.print(f"  {sign}{plain(step.act)}{plain(what)}: [{QUIET}]{plain(step.why)}[/]")


def _kind(kind: Kind) -> str:
    return kind.word if kind.form.lower() in ("", kind.word) else f"{kind.word} {plain(kind.form)}"


def show_dependencies(console: Console, found: Findings) -> None:
    """One sheet for ``hemplit dependencies``."""
    size = f"{counted(found.row_count, 'row')} × {counted(len(found.columns), 'column')}"
    depth = "any number of columns" if found.depth is None else f"up to {counted(found.depth, 'column')}"
    title(console, found.source.title, f"{size}; {depth} on the left")
    if found.unfinished:
        console.print(f"  [{BAD}]!{plain(found.unfinished)}: what follows holds, and there may be more[/]")
    constant = [one.right for one in found.dependencies if not one.left]
    if constant:
        console.print(f"  the same in every row: {plain(', '.join(constant))}")
    _show_decisions(console, found)
    _show_keys(console, found)
    _show_computed(console, found)
    _show_bands(console, found)
    _show_lists(console, found)
    _show_near(console, found)


def _show_decisions(console: Console, found: Findings) -> None:
    keys = {frozenset(key) for key in found.keys}
    grouped: dict[tuple[str, ...], list[Dependency]] = {}
    for one in found.dependencies:
        if one.left and frozenset(one.left) not in keys:
            grouped.setdefault(one.left, []).append(one)
    order = sorted(grouped, key=lambda left: (len(left), _chance(grouped[left])))
    shown = [left for left in order if len(left) == 1] + [left for left in order if len(left) > 1][:MOST_PAIRS]
    table = grid("these columns", "decide", "different", "repeats", "by chance", numbers=("different", "repeats"))
    for left in shown:
        proof = grouped[left][0].evidence
        table.add_row(
            f"[{NAME}]{plain(' + '.join(left))}[/]",
            plain(", ".join(one.right for one in grouped[left])),
            count(proof.groups) if proof else "",
            count(proof.repeats) if proof else "",
            _odds(_chance(grouped[left])) if proof else "",
        )
    if shown:
        console.print(table)
    else:
        console.print("  no columns decide another, but for the keys")
    if len(order) > len(shown):
        console.print(f"  [{QUIET}]and {len(order) - len(shown):,} more groups of columns: see --json[/]")


def _chance(group: list[Dependency]) -> float:
    """The weakest dependency of a left side: the one that chance would most easily have given."""
    return max((one.evidence.chance for one in group if one.evidence), default=0.0)


def _odds(chance: float) -> str:
    """A probability, given as its common logarithm, for a person.

    >>> _odds(-0.3), _odds(-4.2), _odds(-200.0)
    ('1 in 2', '1 in 16,000', 'never')
    """
    if chance <= -12:
        return "never"
    odds = 10**-chance
    digits = max(len(str(int(odds))) - 2, 0)
    return f"1 in {round(odds, -digits):,.0f}"


def _show_keys(console: Console, found: Findings) -> None:
    keys = [" + ".join(key) or "none needed for one row" for key in found.keys[:MOST_KEYS]]
    more = f" and {len(found.keys) - MOST_KEYS:,} more" if len(found.keys) > MOST_KEYS else ""
    console.print(f"  [{NAME}]candidate keys[/] {plain(', '.join(keys)) or 'none of this size'}{more}")


def _show_computed(console: Console, found: Findings) -> None:
    for one in found.computed:
        where = f"all {one.rows:,} filled rows"
        if one.breaking:
            named = ", ".join(
                f"{breach.place} {breach.value} for {breach.agreed}" for breach in one.breaches[:MOST_NAMED]
            )
            where = f"{one.rows - one.breaking:,} of {one.rows:,} filled rows, but {plain(named)}"
        console.print(f"  [{NAME}]computed[/] {plain(one.name)} = {formula(one.formula)} in {where}")


def formula(given: Formula) -> str:
    """A formula as a person writes it.

    >>> formula(Formula("product", ("Hours", "Rate"), 2)), formula(Formula("days later", ("Opened",), detail="30"))
    ('Hours × Rate', 'Opened + 30 days')
    """
    operands, detail = given.operands, given.detail
    said = {
        "sum": " + ".join(operands),
        "difference": " − ".join(operands),
        "product": " × ".join(operands),
        "percentage": " × ".join(operands) + " %",
        "constant": f"{operands[0]} {'−' if detail.startswith('-') else '+'} {detail.lstrip('-')}",
        "joined": f' + "{detail}" + '.join(operands),
        "band": f"the class of {operands[0]} by the limits in {detail}",
        "part of date": f"{detail} of {operands[0]}",
        "days later": f"{operands[0]} {'−' if detail.startswith('-') else '+'} {detail.lstrip('-')} days",
    }
    return plain(said[given.operation])


def _show_near(console: Console, found: Findings) -> None:
    for one in found.near[:MOST_NEAR]:
        claim = f"{' + '.join(one.left)} → {one.right}"
        rows = f"{counted(one.rows, 'row')} ({one.share:.1%})"
        console.print(f"  [{NAME}]nearly[/] {plain(claim)}, but for {rows}")
        for breach in one.breaches[:MOST_NAMED]:
            sign = f"[{BAD}]slip?[/] " if breach.twin else ""
            console.print(
                f"      {sign}{breach.place} '{plain(breach.value)}' where others say '{plain(breach.agreed)}'"
            )
        if one.rows > MOST_NAMED:
            console.print(f"      [{QUIET}]and {one.rows - MOST_NAMED:,} more[/]")
    if len(found.near) > MOST_NEAR:
        console.print(f"  [{QUIET}]and {len(found.near) - MOST_NEAR:,} more near dependencies: see --json[/]")


def _show_lists(console: Console, found: Findings) -> None:
    for one in found.multivalued:
        parts = " | ".join(", ".join(part) for part in one.parts)
        console.print(f"  [{NAME}]independent lists[/] under {plain(' + '.join(one.left))}: {plain(parts)}")


def _show_bands(console: Console, found: Findings) -> None:
    for band in found.bands:
        limits = ", ".join(f"from {limit} {name}" for limit, name in band.limits)
        console.print(f"  [{NAME}]bands[/] {plain(band.name)} follows from {plain(band.by)}: {plain(limits)}")
