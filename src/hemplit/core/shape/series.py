"""Headers that say the same for each of several places or periods: ``Part 1``, ``Part 2``; ``Jan Plan``, ``Feb Plan``.

Headers that differ in a number only (``Part 1``, ``Part #2``, ``2nd Part``), and those with the same numbers, are
blocks of one group. So are months, years, seasons, ranges such as ``10-49`` or sizes over values, or with what each is,
and several kinds of which the sheet says the same: ``Hull Grade``, ``Hull Hours``, ``Sails Grade``, ``Sails Hours``.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from hemplit.core.model.relation import KIND, POSITION
from hemplit.core.shape.looks import MONTHS, WEEKDAYS
from hemplit.core.texts.vocabulary import ADDRESS, CONTACT, FREE_TEXT, IDENTIFIER, MOMENT, NAME, PART_OF_NAME, PLACE
from hemplit.core.texts.words import words
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping, Sequence

    from hemplit.core.model.relation import Step

ORDINALS = {
    word: number
    for number, names in enumerate(
        (
            "1st first erste premier primer",
            "2nd second zweite",
            "3rd third dritte",
            "4th fourth",
            "5th fifth",
            "6th sixth",
        ),
        1,
    )
    for word in names.split()
}
#: Lines of one address are parts of it and no list; ...
LINES = frozenset("address addr street line adresse anschrift strasse rue direccion calle".split())
#: ... of several questions each asks something else; and where a program named the columns, the numbers say nothing.
NO_GROUP = LINES | frozenset("q question frage column col field variable var spalte feld v x".split())
#: What stands under 1st, 2nd and 3rd.
PLACED = "Placed"
#: So many months or years make a row of them.
FEWEST_PERIODS = 3
#: So many where each says several things, and of these at least so many periods of each.
FEWEST_TOGETHER = SOME_PERIODS = 2
#: What is said of less than this part of the places is not said of them.
SHORTEST = 0.5
#: So many kinds of which the same is said; two are two sides of one thing.
FEWEST_KINDS = 3
#: What persons, places and limits have is said of each by itself, and a sum or a plan beside the others is no kind.
OF_THINGS = ADDRESS | CONTACT | IDENTIFIER | NAME | PART_OF_NAME | PLACE | frozenset("min max minimum maximum".split())
NO_KIND = frozenset(
    "total overall average mean sum final all actual budget plan planned forecast target estimate estimated expected"
    " previous current opening closing gross net old new".split()
)
#: What of a kind is said stands behind it.
OF_KIND = re.compile(r"(?P<kind>.*[^\W_])[\s_:(-]+(?P<said>[^\W_]+)\)?")
#: A number in a header: by itself, with a sign in front, as an ordinal, or at the end of a word.
NUMBER = re.compile(
    r"(?<![\d.,])#?\s?(\d{1,3})(?![\d.,]\d|\d)(?:st|nd|rd|th)?\b|(?<=[A-Za-z])(\d{1,3}(?:\.\d+)?)(?!\d)"
)
#: Where there is a fifth quarter, or a comment on one, they are questions.
QUARTER, FIFTH = re.compile(r"Q\d"), re.compile(r"Q(?:[5-9]|[1-9]\d)\b")
YEAR = re.compile(r"(?:19|20)\d{2}")
#: A day, or one of a year that is not said: no half and no quarter.
DAY = re.compile(r"\d{4}-\d{2}-\d{2}|\d{1,2}([./-])\d{1,2}\1(?:\d{2}){1,2}|[0-3]\d/[01]\d|[01]\d/[0-3]\d")
#: A day whose month has a name.
DAY_OF_MONTH = re.compile(
    rf"\d{{1,2}}(?:st|nd|rd|th)?[ ./-](?:{'|'.join(MONTHS)})\.?(?:[ ./-](?:\d{{2}}){{1,2}})?", re.IGNORECASE
)
#: What may stand behind a day of the week: the day of the month, and the month.
OF_WEEK = re.compile(
    rf"\.?(?:,? \d{{1,2}}(?:st|nd|rd|th)?(?:[./-]\d{{1,2}}|[ .-](?:{'|'.join(MONTHS)}))?)?$", re.IGNORECASE
)
#: A period, such as "12 Jan 2026", has so many words at most; these stand between it and what else a header says.
LONGEST_PERIOD = 3
BETWEEN = r"[\s_:()/]+|(?<![0-9])-|-(?![0-9])"
SEASON = re.compile(r"(?:spring|summer|autumn|fall|winter)(?: (?:19|20)\d{2})?", re.IGNORECASE)
#: From how many to how many: of pieces that have a price, or of years that people are old.
RANGE = re.compile(
    r"(?!(?:19|20)\d{2}\b)\d{1,4} ?(?:(?:-|–|to) ?\d{1,4}|\+|and over)|(?:[<>]|up to |over |under )\d{1,4}",
    re.IGNORECASE,
)
#: How large: of what is kept or priced in several sizes.
SIZE = re.compile(
    r"X{0,3}S|M|X{0,3}L|[2-5]XL|(?:extra |x-?)?(?:small|large)|medium|"
    r"\d{1,4}(?:[.,]\d{1,3})? ?(?:mm|cm|m|ml|cl|l|ltr|litres?|g|kg|oz|lbs?|inch|in|ft)",
    re.IGNORECASE,
)
#: A unit in brackets behind all else that a header says.
UNIT = re.compile(r"(?P<said>.*\S)\s*(?P<unit>[(\[][^\W\d_]{1,4}[)\]]|[(\[][%°][^\W\d_]?[)\]])")
PERIOD = re.compile(r"(?P<name>[^\W\d_]{3,10})\.?[ -/]*(?P<year>(?:20)?\d{2})?")


@dataclass(frozen=True)
class Group:
    """Columns by block: ``blocks`` has a list of headers for each block, blank where it lacks one of the ``names``."""

    names: tuple[str, ...]
    blocks: tuple[tuple[str, ...], ...]
    labels: tuple[str, ...]
    label: str


def numbered(names: Sequence[str]) -> list[Group]:
    """Groups of headers that differ in a number, those with the same numbers that stand together joined into blocks.

    >>> [group.names for group in numbered(["Part 2", "Qty 2", "Part 1", "Qty 1", "Fee", "Phone 1", "Phone 2"])]
    [('Part', 'Qty'), ('Phone',)]
    """
    by_template: dict[str, dict[float, str]] = {}
    for name in names:
        for template, number in _readings(name):
            by_template.setdefault(template, {}).setdefault(number, name)
    for template, members in by_template.items():
        bare = _bare(template)
        if bare in names and min(members) == 2:
            members[1] = bare
    runs = {
        template: tuple(sorted(members))
        for template, members in by_template.items()
        if len(members) >= 2
        and _is_run(tuple(sorted(members)))
        and words(_bare(template))
        and (not NO_GROUP.intersection(words(_bare(template))) or _is_of_blocks(template, by_template, names))
    }
    letters = [template for template in runs if len(_bare(template)) == 1]
    if len(letters) > 1:
        # A1 to A5 beside B1 to B5 name something else each, as the items of a form do.
        runs = {template: numbers for template, numbers in runs.items() if template not in letters}
    places = {one: sorted(names.index(by_template[one][number]) for number in runs[one]) for one in runs}
    groups: list[Group] = []
    done: set[str] = set()
    for template, numbers in runs.items():
        if template in done:
            continue
        same = [
            other
            for other, its in runs.items()
            if other not in done
            and its[0] == numbers[0]
            and (set(its) <= set(numbers) or set(numbers) <= set(its))
            and SHORTEST * max(len(its), len(numbers)) <= min(len(its), len(numbers))
            and not {by_template[other][one] for one in its} & {by_template[one][n] for one in done for n in runs[one]}
        ]
        same = _together(_without_twins(same, by_template, runs), places)
        if not same:
            continue
        done.update(same)
        longest = max((runs[one] for one in same), key=len)
        blocks = tuple(tuple(by_template[one].get(number, "") for one in same) for number in longest)
        labels = tuple(str(number) for number in longest)
        groups.append(_of_weeks(Group(tuple(_bare(one) for one in same), blocks, labels, POSITION)))
    return groups


def _of_weeks(group: Group) -> Group:
    """The group; where it counts weeks, days or rounds of the year, these label its values, as months do.

    >>> _of_weeks(Group(("Hours Week",), (("Hours Week 1",), ("Hours Week 2",), ("Hours Week 3",)), (), "Position"))
    Group(names=('Hours',), blocks=(('Hours Week 1',), ('Hours Week 2',), ('Hours Week 3',)), labels=(), label='Week')
    """
    said = [name.split() for name in group.names]
    last = {words(parts[-1])[-1:] for parts in said}
    if len(group.blocks) < FEWEST_PERIODS or len(last) > 1 or MOMENT.isdisjoint(*last):
        return group
    names = tuple(" ".join(parts[:-1]) or "Value" for parts in said)
    return replace(group, names=names, label=said[0][-1]) if len({*names}) == len(names) else group


def _is_of_blocks(template: str, members: dict[str, dict[float, str]], names: Sequence[str]) -> bool:
    """Whether lines of addresses are several addresses, as what is said of each stands between them."""
    if LINES.isdisjoint(words(_bare(template))):
        return False
    own = members[template]
    places = sorted(map(names.index, own.values()))
    return any(
        one != template and its.keys() == own.keys() and places[0] < names.index(its[min(its)]) < places[1]
        for one, its in members.items()
    )


def _together(templates: Sequence[str], places: Mapping[str, Sequence[int]]) -> list[str]:
    """Those of the same numbers that stand in one run of columns with the first: in blocks, or lists side by side."""
    found = [*templates[:1]]
    left = [*templates[1:]]
    while more := [one for one in left if any(_stand_together(one, other, places) for other in found)]:
        found += more
        left = [one for one in left if one not in more]
    return [one for one in templates if one in found]


def _stand_together(one: str, other: str, places: Mapping[str, Sequence[int]]) -> bool:
    """Whether columns stand among each other, or run after run; phones and mails do so each for themselves."""
    (start, *_, end), (first, *_, last) = places[one], places[other]
    if max(start, first) < min(end, last):
        return True
    are_lists = all(place[-1] - place[0] == len(place) - 1 for place in (places[one], places[other]))
    apart = all(not CONTACT.isdisjoint(words(_bare(template))) for template in (one, other))
    return are_lists and not apart and first in (end + 1, start - len(places[other]))


def _without_twins(
    templates: list[str], members: dict[str, dict[float, str]], runs: dict[str, tuple[float, ...]]
) -> list[str]:
    """Each column once, where two readings of a header found it twice."""
    taken: set[str] = set()
    kept = []
    for one in templates:
        headers = {members[one][number] for number in runs[one]}
        if not headers & taken:
            kept.append(one)
            taken |= headers
    return kept


def _is_run(numbers: tuple[float, ...]) -> bool:
    first = int(numbers[0])
    return first in (0, 1) and numbers == tuple(range(first, first + len(numbers)))


def _readings(name: str) -> Iterator[tuple[str, float]]:
    """The header with each of its numbers taken out, and that number; who came in where has no other word."""
    placed = re.fullmatch(r"(\d{1,2})(?:st|nd|rd|th)", name)
    if placed:
        yield f"{PLACED} \x00", int(placed.group(1))
    for found in NUMBER.finditer(name):
        digits = found.group(1) or found.group(2)
        number = float(digits) if "." in digits else int(digits)
        yield f"{name[: found.start()]}\x00{name[found.end() :]}", number
    for word in re.findall(r"[^\W\d_]+", name):
        if word.lower() in ORDINALS:
            yield name.replace(word, "\x00", 1), ORDINALS[word.lower()]
    letter = re.fullmatch(r"(.*[a-z][ _-])([A-H])", name)
    if letter:
        yield f"{letter.group(1)}\x00", ord(letter.group(2)) - ord("A") + 1


def _bare(template: str) -> str:
    """The name of a group from its headers without the number.

    >>> _bare("Part \\x00"), _bare("Part (\\x00)"), _bare("\\x00. Part"), _bare("Part_\\x00_Qty")
    ('Part', 'Part', 'Part', 'Part_Qty')
    """
    bare = re.sub(r"[\s_.#(\[-]*\x00[\s_.)\]:-]*", lambda found: "_" if "_" in found.group(0) else " ", template)
    return re.sub(r"\s+", " ", bare).strip(" _-.:#")


def periods(names: Sequence[str]) -> list[Group]:
    """Months, quarters, years, days, seasons, ranges or sizes over values, alone or with what was planned and done."""
    asked = any(FIFTH.match(name) or (QUARTER.match(name) and FREE_TEXT.intersection(words(name))) for name in names)
    # L and M between K and N are letters of columns.
    lettered = any(len(name) == 1 and name.isalpha() and not SIZE.fullmatch(name) for name in names)
    whole = {name: label for label, is_period in PERIODS.items() for name in names if is_period(name.strip())}
    found = []
    for label, is_period in PERIODS.items():
        if (asked and label == "Quarter") or (lettered and label == "Size"):
            continue
        runs: dict[str, dict[str, str]] = {}
        for name in names:
            period, said = _parted(name, is_period) if whole.get(name, label) == label else ("", "")
            if period:
                runs.setdefault(said, {}).setdefault(period, name)
        while runs:
            # What stands over some of the periods of another only is said of the same.
            longest = max(runs.values(), key=len)
            same = [
                said
                for said, run in runs.items()
                if run is longest or SOME_PERIODS <= len(run.keys() & longest) == len(run)
            ]
            if len(longest) >= (FEWEST_PERIODS if len(same) == 1 else FEWEST_TOGETHER):
                blocks = tuple(tuple(runs[said].get(period, "") for said in same) for period in longest)
                found.append(Group(tuple(said or "Value" for said in same), blocks, tuple(longest), label))
            runs = {said: run for said, run in runs.items() if said not in same}
    return found


def of_kinds(names: Sequence[str]) -> list[Group]:
    """Kinds side by side of which each has the same said, by its last word.

    >>> [group] = of_kinds(["Boat", "Hull Grade", "Hull Days", "Rig Grade", "Rig Days", "Keel Grade", "Keel Days"])
    >>> group.names, group.labels
    (('Grade', 'Days'), ('Hull', 'Rig', 'Keel'))
    """
    split = {name: found for name in names if (found := OF_KIND.fullmatch(name.strip()))}
    able = {name for name, found in split.items() if OF_THINGS.isdisjoint(words(found["said"]))}
    runs: dict[str, dict[str, str]] = {}
    for name in names:
        if name in able:
            runs.setdefault(split[name]["said"], {}).setdefault(split[name]["kind"], name)
    groups = []
    for first in runs.values():
        kinds = tuple(first)
        same = [said for said, run in runs.items() if tuple(run) == kinds]
        blocks = tuple(tuple(runs[said][kind] for said in same) for kind in kinds)
        enough = len(same) >= FEWEST_TOGETHER and len(kinds) >= FEWEST_KINDS
        if enough and runs[same[0]] is first and not any(NO_KIND.intersection(words(one)) for one in kinds):
            groups.append(Group(tuple(same), blocks, kinds, KIND))
    return groups


def _parted(name: str, is_period: Callable[[str], bool]) -> tuple[str, str]:
    """The period that a header begins or ends with, and what else it says; two blanks if it has none.

    >>> _parted("Hours (Jan 2026)", _is_month), _parted("Feb_Plan", _is_month), _parted("May", _is_month)
    (('Jan 2026', 'Hours'), ('Feb', 'Plan'), ('May', ''))
    >>> _parted("Depth Jan (m)", _is_month), _parted("Depth (Jan)", _is_month)
    (('Jan', 'Depth (m)'), ('Jan', 'Depth'))
    """
    if is_period(name.strip()):
        return name.strip(), ""
    measured = UNIT.fullmatch(name.strip())
    found, said = _parted(measured["said"], is_period) if measured else ("", "")
    if measured and found:
        return found, f"{said} {measured['unit']}".strip()
    parts = [part for part in re.split(BETWEEN, name.strip()) if part]
    for count in range(min(len(parts), LONGEST_PERIOD), 0, -1):
        for period, rest in ((parts[:count], parts[count:]), (parts[-count:], parts[:-count])):
            if is_period(" ".join(period)):
                return " ".join(period), " ".join(rest)
    return "", ""


def _is_month(text: str) -> bool:
    found = PERIOD.fullmatch(text)
    return found is not None and found["name"].lower() in MONTHS


#: How a period of each sort reads.
PERIODS: dict[str, Callable[[str], bool]] = {
    "Year": lambda text: bool(YEAR.fullmatch(text)),
    "Quarter": lambda text: bool(re.fullmatch(r"Q[1-4](?: ?\d{4})?", text)),
    "Day": lambda text: (
        OF_WEEK.sub("", text).lower() in WEEKDAYS or bool(DAY.fullmatch(text) or DAY_OF_MONTH.fullmatch(text))
    ),
    "Month": lambda text: _is_month(text) or bool(re.fullmatch(r"\d{4}-\d{2}", text)),
    "Season": lambda text: bool(SEASON.fullmatch(text)),
    "Range": lambda text: bool(RANGE.fullmatch(text)),
    "Size": lambda text: bool(SIZE.fullmatch(text)),
}


def like(header: str) -> str:
    """What a header says whatever its place or period.

    >>> like("Jan Plan") == like("Apr Plan"), like("Part 1") == like("Part 4"), like("Boat")
    (True, True, 'Boat')
    """
    for label, is_period in PERIODS.items():
        period, said = _parted(header, is_period)
        if period:
            return f"{said} by {label}"
    return next((_bare(template) for template, _ in _readings(header)), header)


def _moment(period: str) -> tuple[object, ...]:
    """What is the same for one month or day of the week, however it is written.

    >>> _moment("Jan 26") == _moment("January 2026"), _moment("Mon") == _moment("monday"), _moment("Q1")
    (True, True, ('q1',))
    """
    found = PERIOD.fullmatch(period)
    if found is not None and found["name"].lower() in MONTHS:
        return MONTHS[found["name"].lower()], (found["year"] or "")[-2:]
    said = period.rstrip(".").lower()
    return (said[:2],) if said in WEEKDAYS else (said,)


def period_of(text: str) -> tuple[object, ...] | None:
    """The month or day of the week that a text names, which is the same in any writing; None if it names none.

    >>> period_of("Apr") == period_of("April"), period_of("May") == period_of("Mar"), period_of("Teal")
    (True, False, None)
    """
    return _moment(text) if any(PERIODS[label](text) for label in ("Month", "Day")) else None


def blocks_in(step: Step, headers: Sequence[str]) -> dict[str, tuple[str, ...]]:
    """The blocks of a step in a sheet with these headers, by their labels, and those that a later sheet has besides.

    What is another writing of a month that the sheet has not as it was, January of Jan, is that month.
    """
    found = dict(zip(step.texts("labels"), step.blocks, strict=True))
    there = {_moment(label): label for label, block in found.items() if set(headers).isdisjoint(block)}
    for label, block in further(step, headers).items():
        found[there.pop(_moment(label), label)] = block
    return found


def further(step: Step, headers: Sequence[str]) -> dict[str, tuple[str, ...]]:
    """The blocks that a later sheet has beside those of a step, by their labels: April behind March, a fourth part."""
    names, label = step.texts("names"), step.text("label")
    known = {header for block in step.blocks for header in block}.union(step.texts("labels"))
    found: dict[str, dict[str, str]] = {}
    for header in headers:
        if header not in known:
            for said, place in _places(header, label):
                if said in names and place not in known:
                    found.setdefault(place, {})[said] = header
                    break
    return {place: tuple(of.get(name, "") for name in names) for place, of in found.items()}


def _places(header: str, label: str) -> Iterator[tuple[str, str]]:
    """What a header says, and the place or period for which, by the label of the places."""
    if label in PERIODS:
        period, said = _parted(header, PERIODS[label])
        if period:
            yield said or "Value", period
        return
    if label == KIND and (found := OF_KIND.fullmatch(header.strip())):
        yield found["said"], found["kind"]
    for template, number in _readings(header):
        bare = _bare(template)
        yield bare, str(number)
        if bare.split()[-1:] == [label]:  # weeks, which label their values
            yield " ".join(bare.split()[:-1]) or "Value", str(number)
