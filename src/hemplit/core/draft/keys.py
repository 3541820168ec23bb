"""Which columns are a good key of a relation's rows: codes and numbers that were given out, and pairs of them."""

from __future__ import annotations

import re
from math import prod
from typing import TYPE_CHECKING

from hemplit.core.columns.given import COLLISIONS, are_crossed, are_given_out
from hemplit.core.draft.head import is_line, period_of, under_head
from hemplit.core.draft.lines import lines_of_pair
from hemplit.core.draft.met import is_met
from hemplit.core.draft.sorts import can_decide, is_code, is_measured, is_moment, is_unbroken
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import TIMES
from hemplit.core.texts.moments import is_moment_header
from hemplit.core.texts.nouns import singular
from hemplit.core.texts.vocabulary import ADDRESS, LABEL, PLACE, SPOT
from hemplit.core.texts.words import (
    is_called_document,
    is_identifier,
    is_nameless,
    is_of_kind,
    is_of_matter,
    stem_of,
    words,
)

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Sequence

    from hemplit.core.model.findings import ColumnFacts, Findings

#: Where both are things that the rows speak of, so many pairs of rows are enough.
FEW = 1.0
#: Any two or three texts are different.
FEWEST_ROWS = 4
OF_DAY = frozenset("time hour zeit uhrzeit stunde heure hora".split())
#: A time of the day, or of a race.
TIME = re.compile(r"\d+(:\d\d)+")
#: Numbers between are years unless they stand first.
FIRST_YEAR, LAST_YEAR = 1800, 2100


def base_key(
    findings: Findings,
    aside: Iterable[str],
    referred: Collection[tuple[str, ...]] = (),
    listed: Collection[str] = (),
) -> tuple[str, ...]:
    """The natural key of the sheet's rows: codes and numbers before pairs of them; empty if there is no good one.

    Codes and numbers to which other sheets refer were given out, whatever their headers say, and come first; so were
    numbers that are ``listed`` elsewhere.
    """
    skip = {*aside}
    by_accident = (is_where, _is_of_few, *(() if period_of(findings, skip) else (is_met,)))
    good: list[tuple[str, ...]] = []
    lines_anew = lines_of_pair(findings)
    if lines_anew and skip.isdisjoint(lines_anew):
        good.append(lines_anew)
    for key in findings.keys:
        facts = [findings.by_name[name] for name in key]
        lines = [one for one in facts if is_line(one)] if len(key) > 1 else []
        numbered = [one for one in facts if is_unbroken(one) and not is_measured(one)]
        if not key or skip.intersection(key) or any(one.blanks for one in facts):
            continue
        if key in referred and all(one.kind.word == "whole number" or is_code(one) for one in facts):
            return key
        if len(key) == 1:
            is_listed = key[0] in listed and facts[0].kind.word == "whole number"
            by_chance = any(is_so(facts[0], findings) for is_so in by_accident)
            is_given_out = can_decide(facts[0]) and is_code(facts[0]) and not by_chance
            if is_listed or counts_up(facts[0], findings) or is_given_out:
                good.append(key)
            continue
        counted = [one for one in facts if one not in lines and not (can_decide(one) and is_code(one))]
        enough = bool(lines) or _collisions(facts, findings.row_count) >= COLLISIONS
        if enough and all(one in numbered and not _is_told_when(key, one, findings) for one in counted):
            good.append(key)
    position = {facts.name: facts.position for facts in findings.columns}
    # "Reg No" is of the rows themselves; "Berth" is where they are, if no number of its own says better.
    has_own = any(len(key) == 1 and not stem_of(key[0]) for key in good)
    of_others = {
        key
        for key in good
        if has_own
        and not (is_identifier(words(key[0])) or _is_label(key[0]) or _leads(findings.by_name[key[0]], findings))
    }
    first = min((position[key[0]] for key in good if len(key) == 1), default=0)
    pairs = (key for key in good if len(key) > 1 and any(is_line(findings.by_name[name]) for name in key))
    # What is named behind the number of a line is no name of the lines, though none came again so far.
    of_lines = {key for key in pairs if max(position[name] for name in key) < first}
    best = min(
        good,
        key=lambda key: (
            is_nameless(key[0]),
            key not in of_lines,
            len(key),
            key in of_others,
            sum(position[name] for name in key),
        ),
        default=(),
    )
    return under_head(best, findings, skip)


def _is_told_when(key: Sequence[str], counted: ColumnFacts, findings: Findings) -> bool:
    """Whether a year tells the rows apart as well as what is counted: of one person, as the years served."""
    others = {*key} - {counted.name}
    years = {facts.name for facts in findings.columns if facts.kind.is_number and is_moment_header(facts.name)}
    return any(others < {*other} <= others | years for other in findings.keys)


def _leads(facts: ColumnFacts, findings: Findings) -> bool:
    """Whether codes stand first and in order, so that the rows were numbered by them: permits before plates."""
    return facts.in_order and not _is_behind(facts, findings) and SPOT.isdisjoint(words(facts.name))


def _is_label(name: str) -> bool:
    return not LABEL.isdisjoint(words(name))


def _is_of_few(facts: ColumnFacts, findings: Findings) -> bool:
    """Whether it says nothing that texts tell apart so few rows, where the header speaks of no code."""
    return _is_behind(facts, findings) and findings.row_count < FEWEST_ROWS and not is_identifier(words(facts.name))


def is_where(facts: ColumnFacts, findings: Findings) -> bool:
    """Whether a column says where a thing stands, on a sheet that does not list these places."""
    said = words(facts.name)
    listed = {singular(word) for word in words(findings.source.title)}
    return _is_behind(facts, findings) and not is_identifier(said) and not (SPOT - listed).isdisjoint(said[-1:])


def _is_behind(facts: ColumnFacts, findings: Findings) -> bool:
    """Whether a column stands behind the first that has a name; programs put a number without one before their rows."""
    return any(not is_nameless(one.name) for one in findings.before(facts.name))


def counts_up(facts: ColumnFacts, findings: Findings) -> bool:
    """Whether a column that tells the rows apart holds numbers that were given out one after the other.

    Ranks, from 1, and years of birth may do so as well, but these do not stand first.
    """
    rows = findings.row_count
    if facts.kind.word != "whole number" or facts.lowest is None or facts.highest is None:
        return False
    if is_measured(facts) or facts.distinct < rows:
        return False
    behind = _is_behind(facts, findings)
    if is_called_document(facts.name) and (facts.in_order or not behind):
        return True
    if behind:
        years = facts.lowest >= FIRST_YEAR and facts.highest <= LAST_YEAR
        return is_unbroken(facts) and facts.lowest > 1 and not years
    return is_unbroken(facts) or are_given_out(facts.lowest, facts.highest, rows)


def record_key(
    findings: Findings, speaks_of: Collection[str], could_pair: Collection[str], aside: Iterable[str]
) -> tuple[str, ...]:
    """What the sheet's rows speak of, and the moments, if these tell them apart; empty if it is no wonder that they do.

    Beside a thing that they speak of it may be one that they ``could_pair`` with it: each race has a boat once.

    A person and a contract, a station and an hour: a number beside would be made up for nothing. Where a day stands
    beside, things can meet again on another one; where a column names each row, the others need not tell them apart.
    How a matter stands, or was paid, is no part of what it is.
    Of lines that are numbered two may name the same; where they count anew under each thing, that says which it is.
    Rows that speak of a further thing between them, as of a day, who it was, and a task, may well say the two again.
    """
    skip = {*aside}
    position = {facts.name: facts.position for facts in findings.columns}
    good = []
    names = [findings.by_name[key[0]] for key in findings.keys if len(key) == 1 and key[0] not in skip]
    named = any(one.kind.word == "text" and can_decide(one) and not is_where(one, findings) for one in names)
    decided = {(one.left[0], one.right) for one in findings.held if len(one.left) == 1}
    # One typo does not make the customer of an order a thing of each of its lines, nor its day.
    decided |= findings.mistyped
    lines = {one.name for one in findings.columns if is_line(one) and one.lowest == 1}
    for key in findings.keys:
        facts = [findings.by_name[name] for name in key]
        spoken = [name for name in key if name in speaks_of]
        if len(key) < 2 or not spoken or skip.intersection(key) or any(one.blanks for one in facts):
            continue
        if any(one.kind.word == "text" and is_of_matter(one.name) for one in facts):
            continue
        if lines and lines.isdisjoint(key):
            continue
        moments = [one for one in facts if one.name not in {*speaks_of, *could_pair, *lines}]
        places = [position[name] for name in key]
        between = (name for name in speaks_of if min(places) < position[name] < max(places) and name not in key)
        if lines.isdisjoint(key) and any(not decided.intersection((part, name) for part in key) for name in between):
            continue
        crossed = are_crossed([one.distinct for one in facts], findings.row_count)
        others = [
            one
            for one in findings.columns
            if one.name not in (*skip, *key) and not decided.intersection((part, one.name) for part in key)
        ]
        dated = any(is_moment(one) and not _is_of_day(one) for one in others)
        # Of each thing at each time there is a row; of a few at some times there may be one again the next day.
        some = bool(moments) and findings.row_count < prod(one.distinct for one in facts)
        again = all(map(_is_of_day, moments)) and (dated or some)
        numbered = any(findings.by_name[name].anew for name in lines.intersection(key))
        enough = FEW if numbered or ((crossed or not moments) and not (again or named)) else COLLISIONS
        if all(map(is_moment, moments)) and _collisions(facts, findings.row_count) >= enough:
            good.append(key)
    return min(good, key=lambda key: (len(key), sum(position[name] for name in key)), default=())


def _is_of_day(facts: ColumnFacts) -> bool:
    """Whether a column tells the time of a day, which comes again on the next."""
    by_header = facts.kind.word not in TIMES and bool(OF_DAY.intersection(words(facts.name)))
    # Some of the times of a finish are words, as of who retired.
    mostly = facts.dates and all(map(TIME.fullmatch, (text for text in facts.examples if text[:1].isdigit())))
    return facts.kind.word == "time" or by_header or mostly


def moments_of_files(findings: Findings) -> frozenset[str]:
    """The months and years that stand in the names of files: they say when something was told, not of what."""
    named = {step.text("name") for step in findings.steps if step.act == Act.FILE_NAME}
    return frozenset(filter(is_moment_header, named))


def key_of_part(findings: Findings) -> tuple[str, ...]:
    """The key of a relation that was taken out of another: what it shares with it, and as little more as it needs.

    What was measured side by side is no part of it, though no two of a row are the same so far: its place or period is;
    nor is of what kind each is.
    """
    place = {facts.name: index for index, facts in enumerate(findings.columns)}
    last = findings.columns[-1].name
    filled = {facts.name for facts in findings.columns if not facts.blanks}
    if findings.in_blocks:
        own = [facts for facts in findings.columns if facts.name not in (*findings.of, last)]
        filled -= {facts.name for facts in own if facts.amounts or _is_plain_number(facts)}
        if len(own) > 1:
            # Two may be in one town.
            filled -= {facts.name for facts in own if not (PLACE | ADDRESS).isdisjoint(words(facts.name))}
            filled -= {facts.name for facts in own if is_of_kind(facts.name)}
    # A number that is given out needs no other column beside it, and names an entry of this row better than its kind.
    keys = [{*key} for key in findings.keys]
    others = [facts for facts in findings.columns if facts.name not in findings.of]
    named = [facts for facts in others if can_decide(facts) and (is_code(facts) or not findings.in_blocks)]
    given_out = [facts for facts in named if any(key <= {*findings.of, facts.name} for key in keys)]
    # What heads all rows is in no key that holds no more than it must.
    heads = [name for name in findings.of if findings.by_name[name].distinct == 1]
    whole = [tuple(dict.fromkeys((*heads, *key))) for key in findings.keys]
    able = [*whole, *((*findings.of, facts.name) for facts in given_out)]
    good = [key for key in able if set(findings.of) <= set(key) <= filled]
    if findings.in_blocks:
        # What stands side by side is known by what it is called, or by its place, and not by what is said of it.
        first = next((facts.name for facts in others if facts.name != last), last)
        good = [key for key in good if {first, last}.union(facts.name for facts in given_out).intersection(key)]
    # On another day the same may be done again.
    dated = not findings.in_blocks and any(map(is_moment, others))
    best = min(good, key=lambda key: (len(key), dated and last not in key, [place[name] for name in key]), default=())
    return best or (*findings.of, last)


def _is_plain_number(facts: ColumnFacts) -> bool:
    """Whether a column holds numbers that do not say of what they are the number."""
    return facts.kind.word == "decimal" or (facts.kind.word == "whole number" and not is_code(facts))


def _collisions(facts: Sequence[ColumnFacts], rows: int) -> float:
    """How many pairs of rows chance would have made alike in all of these."""
    return rows * rows / 2 * prod(one.agreement for one in facts)
