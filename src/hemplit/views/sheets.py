"""Findings on a terminal: problems first, then the columns, then what determines what."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from hemplit.core.draft.keys import base_key, key_of_part
from hemplit.core.draft.met import is_met
from hemplit.core.draft.sorts import can_decide, is_moment
from hemplit.core.model.findings import Formula, Strength, strength_of
from hemplit.core.model.grid import column_letters
from hemplit.core.shape import header
from hemplit.views.exceptions import MOST_NAMED, show_near
from hemplit.views.steps import show_step
from hemplit.views.style import LOOK, NAME, QUIET, count, counted, grid, plain, say, short, title

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from rich.console import Console

    from hemplit.core.model.findings import ColumnFacts, Dependency, Findings
    from hemplit.core.model.relation import Kind

#: So many are listed for a person; all of them are in the JSON.
MOST_KEYS = 8
MOST_PAIRS = 20
MOST_NEAR = 12
#: From so many columns side by side that differ in a number, one line stands for all.
FEWEST_ALIKE = 4
NUMBER = re.compile(r"\d+")


def _key(found: Findings) -> tuple[str, ...]:
    """The natural key of the rows, or else the first that names something or tells when, and measures nothing.

    Where it may come again no draft takes it, and other things tell the rows apart no better.
    """
    natural = key_of_part(found) if found.of else base_key(found, ())
    naming = [one for one in found.columns if can_decide(one)]
    if natural or any((one.name,) in found.keys and is_met(one, found) for one in naming):
        return natural
    able = {one.name for one in (*naming, *filter(is_moment, found.columns))}
    return next((key for key in found.keys if key and able.issuperset(key)), ())


def show_sheet(console: Console, found: Findings) -> None:
    """One sheet for ``hemplit look``: problems, what was done, the columns, what could be a key."""
    proposed = sum(step.proposed for step in found.steps)
    key = _key(found)
    parts = [
        f"{counted(found.row_count, 'row')} × {counted(len(found.columns), 'column')}",
        f"key: {' + '.join(key)}" if key else "",
        counted(len(found.trouble), "problem") if found.trouble else "no problems",
        counted(proposed, "proposal") if proposed else "",
        found.source.taken_as,
    ]
    title(console, found.source.title, " · ".join(filter(None, parts)))
    for one in found.trouble:
        where = f": {plain(', '.join(one.places))}" if one.places else ""
        more = ", …" if one.count > len(one.places) > 0 else ""
        say(console, f"{plain(one.what)} ({one.count:,}){where}{more}", sign=LOOK, indent=2)
        if one.hint:
            say(console, f"[{QUIET}]{plain(one.hint)}[/]", indent=6)
    _show_steps(console, found)
    table = grid("", "header", "type", "blank", "distinct", "examples", numbers=("blank", "distinct"))
    for some in _folded(found.columns):
        first, last = some[0], some[-1]
        letters = [column_letters(one.position) for one in (first, last)]
        if len(some) == 1:
            examples = f" [{QUIET}]·[/] ".join(short(example) for example in first.examples)
            blank = count(first.blanks)
            distinct = count(first.distinct) if first.repeats else "[green]all[/]"
        else:
            fewest, most = min(one.blanks for one in some), max(one.blanks for one in some)
            examples = f"[{QUIET}]{len(some)} columns alike[/]"
            blank = count(most) if fewest == most else f"{fewest:,}–{most:,}"
            distinct = f"{min(one.distinct for one in some):,}–{max(one.distinct for one in some):,}"
        table.add_row(
            f"[{QUIET}]{'–'.join(dict.fromkeys(letters))}[/]",
            f"[{NAME}]{plain(first.name if len(some) == 1 else _span(first.name, last.name))}[/]",
            _kind(first.kind),
            blank,
            distinct,
            examples,
        )
    console.print(table)
    _show_keys(console, found)
    _show_computed(console, found)
    console.print()


def _folded(columns: Sequence[ColumnFacts]) -> list[list[ColumnFacts]]:
    """The columns, those together that stand side by side, are of one type, and differ in a number of their name."""
    groups: list[list[ColumnFacts]] = []
    for facts in columns:
        last = groups[-1][-1] if groups else None
        alike = last is not None and (last.kind, _stem(last.name)) == (facts.kind, _stem(facts.name))
        if alike and _stem(facts.name) != facts.name and last is not None and facts.position == last.position + 1:
            groups[-1].append(facts)
        else:
            groups.append([facts])
    return [part for some in groups for part in ([some] if len(some) >= FEWEST_ALIKE else [[one] for one in some])]


def _stem(name: str) -> str:
    return NUMBER.sub("#", name)


def _span(first: str, last: str) -> str:
    """The names of the first and the last of columns that differ in a number.

    >>> _span("Sensor 01 mV", "Sensor 30 mV")
    'Sensor 01–30 mV'
    """
    numbers = [(one, two) for one, two in zip(NUMBER.findall(first), NUMBER.findall(last), strict=True) if one != two]
    if len(numbers) != 1:
        return f"{first} – {last}"
    one, two = numbers[0]
    return first.replace(one, f"{one}–{two}", 1)


def _show_steps(console: Console, found: Findings) -> None:
    """What shaping did, and what it proposes; a plain header is not worth a word."""
    for step in found.steps:
        if step.act == header.ACT and ";" not in step.why:
            continue
        show_step(console, step)


def _kind(kind: Kind) -> str:
    return kind.word if kind.form.lower() in ("", kind.word) else f"{kind.word} {plain(kind.form)}"


def show_dependencies(console: Console, found: Findings, *, weak: bool = False) -> None:
    """One sheet for ``hemplit dependencies``; ``weak`` shows those, too, that may be coincidence."""
    size = f"{counted(found.row_count, 'row')} × {counted(len(found.columns), 'column')}"
    depth = "all combinations" if found.depth is None else f"combinations of up to {counted(found.depth, 'column')}"
    title(console, found.source.title, f"{size}; {depth}")
    if found.unfinished:
        say(console, f"{plain(found.unfinished)}: what follows holds, and there may be more", sign=LOOK, indent=2)
    constant = [one.right for one in found.dependencies if not one.left]
    if constant:
        say(console, f"the same in every row: {plain(', '.join(constant))}", indent=2)
    _show_determined(console, found, weak=weak)
    _show_keys(console, found)
    _show_computed(console, found)
    _show_bands(console, found)
    _show_lists(console, found)
    _show_near(console, found)


def _show_determined(console: Console, found: Findings, *, weak: bool) -> None:
    keys = {frozenset(key) for key in found.keys}
    grouped: dict[tuple[str, ...], list[Dependency]] = {}
    for one in found.dependencies:
        if one.left and frozenset(one.left) not in keys:
            grouped.setdefault(one.left, []).append(one)
    order = sorted(grouped, key=lambda left: (_strength(grouped[left]).value, len(left), _chance(grouped[left])))
    if not weak:
        strong = [left for left in order if _strength(grouped[left]) is not Strength.WEAK]
        shown = [left for left in strong if len(left) == 1] + [left for left in strong if len(left) > 1][:MOST_PAIRS]
    else:
        shown = order
    table = grid("", "if you know", "you know", "distinct", "repeated", numbers=("distinct", "repeated"))
    done: set[tuple[str, ...]] = set()
    before = ""
    for left in shown:
        if left in done:
            continue
        rights = {one.right for one in grouped[left]}
        equal = [other for other in shown if _are_equal(left, other, grouped)]
        done |= {left, *equal}
        said = " ⇄ ".join([" + ".join(left), *(" + ".join(other) for other in equal)])
        rest = [one.right for one in grouped[left] if (one.right,) not in equal]
        proof = grouped[left][0].evidence
        strength = _strength(grouped[left]).name.lower()
        table.add_row(
            f"[{QUIET}]{strength if strength != before else ''}[/]",
            f"[{NAME}]{plain(said)}[/]",
            plain(", ".join(rest if rest else sorted(rights))) if rest or not equal else "each other",
            count(proof.groups) if proof else "",
            count(proof.repeats) if proof else "",
        )
        before = strength
    if shown:
        console.print(table)
    else:
        say(console, "no columns determine another, apart from the keys", indent=2)
    if len(order) > len(shown):
        hidden = f"{len(order) - len(shown):,} weaker ones hidden (may be coincidence); show them with --all"
        say(console, f"[{QUIET}]{hidden}[/]", indent=2)


def _strength(group: list[Dependency]) -> Strength:
    return strength_of(_chance(group))


def _are_equal(
    one: tuple[str, ...], other: tuple[str, ...], grouped: Mapping[tuple[str, ...], list[Dependency]]
) -> bool:
    """Whether two single columns determine each other."""
    if one == other or len(one) > 1 or len(other) > 1:
        return False
    return any(found.right == other[0] for found in grouped[one]) and any(
        found.right == one[0] for found in grouped[other]
    )


def _chance(group: list[Dependency]) -> float:
    """The weakest dependency of a left side: the one that chance would most easily have given."""
    return max((one.evidence.chance for one in group if one.evidence), default=0.0)


def _show_keys(console: Console, found: Findings) -> None:
    keys = [" + ".join(key) or "only one row" for key in found.keys[:MOST_KEYS]]
    more = f" and {len(found.keys) - MOST_KEYS:,} more" if len(found.keys) > MOST_KEYS else ""
    none = "no column or pair of columns identifies a row"
    say(console, f"[{NAME}]possible keys[/] {plain(', '.join(keys)) or none}{more}", indent=2)


def _show_computed(console: Console, found: Findings) -> None:
    for one in found.computed:
        where = f"all {one.rows:,} filled rows"
        if one.breaking:
            named = ", ".join(
                f"{breach.place} {breach.value} for {breach.agreed}" for breach in one.breaches[:MOST_NAMED]
            )
            where = f"{one.rows - one.breaking:,} of {one.rows:,} filled rows, but {plain(named)}"
        say(console, f"[{NAME}]calculated[/] {plain(one.name)} = {formula(one.formula)} in {where}", indent=2)


def formula(given: Formula) -> str:
    """A formula as a person writes it.

    >>> formula(Formula("product", ("Hours", "Rate"), 2)), formula(Formula("days later", ("Opened",), detail="30"))
    ('Hours × Rate', 'Opened + 30 days')
    """
    operands, detail = given.operands, given.detail
    said = {
        "sum": " + ".join(operands),
        "total": " + ".join(operands),
        "difference": " − ".join(operands),
        "product": " × ".join(operands),
        "percentage": " × ".join(operands) + " %",
        "constant": f"{operands[0]} {'−' if detail.startswith('-') else '+'} {detail.lstrip('-')}",
        "joined": f' + "{detail}" + '.join(operands),
        "band": f"the range of {operands[0]} in {detail}",
        "part of date": f"{detail} of {operands[0]}",
        "days later": f"{operands[0]} {'−' if detail.startswith('-') else '+'} {detail.lstrip('-')} days",
    }
    return plain(said[given.operation])


def _show_near(console: Console, found: Findings) -> None:
    for one in found.near[:MOST_NEAR]:
        show_near(console, one, f"[{NAME}]exceptions[/] ")
    if len(found.near) > MOST_NEAR:
        say(console, f"[{QUIET}]and {len(found.near) - MOST_NEAR:,} more with exceptions: see --json[/]", indent=2)


def _show_lists(console: Console, found: Findings) -> None:
    for one in found.multivalued:
        parts = " and ".join(", ".join(part) for part in one.parts)
        said = f"for each {' + '.join(one.left)}, {parts} are separate lists (every pair occurs)"
        say(console, f"[{NAME}]independent lists[/] {plain(said)}", indent=2)


def _show_bands(console: Console, found: Findings) -> None:
    for band in found.bands:
        limits = ", ".join(f"{name} from {limit}" for limit, name in band.limits)
        said = f"{band.name} depends on ranges of {band.by}: {limits} (as seen; the real limits may be rounder)"
        say(console, f"[{NAME}]ranges[/] {plain(said)}", indent=2)
