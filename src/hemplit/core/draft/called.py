"""What the rows of a sheet and the things in it are called, in the singular."""

from __future__ import annotations

import re
from collections import Counter
from typing import TYPE_CHECKING

import pyarrow as pa

from hemplit.core.draft.entities import stem_of_thing
from hemplit.core.draft.head import is_line
from hemplit.core.draft.lines import head_of_lines, lines_of_pair
from hemplit.core.draft.naming import OPEN, listed, singular, stem, without
from hemplit.core.draft.roles import PERSON
from hemplit.core.draft.sorts import are_full_names, can_decide, is_code
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import ROW_NUMBER, TEXT
from hemplit.core.texts.nouns import is_participle
from hemplit.core.texts.vocabulary import (
    CODED,
    CONTACT,
    DOCUMENT,
    FREE_TEXT,
    IDENTIFIER,
    INITIAL,
    LABEL,
    MODEL,
    MOMENT,
    NAME,
    NUMBERING,
    UNMISTAKABLE,
)
from hemplit.core.texts.words import in_full, is_identifier, is_part, stem_of, words

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from hemplit.core.draft.decided import Decided
    from hemplit.core.draft.entities import Entity
    from hemplit.core.draft.weighing import Left

#: What stands behind a code with such a header is no noun for the thing.
SAYS_LITTLE = FREE_TEXT | MODEL | frozenset(["title"])
#: People belong to such, or have it.
OF_PEOPLE = frozenset("team department dept manager supervisor boss dob birth born gender sex salary".split())
#: Sheets that are called so list people.
PEOPLE = frozenset("staff personnel people persons crew team squad roster workforce faculty committee contacts".split())
#: Words of so many letters are letters that stand for words: WO, PO; so many may be capitals where other headers have
#: small letters.
LONGEST_SHORT, LONGEST_LETTERS = 2, 4


def called_thing(decided: Decided, thing: Entity) -> tuple[str, ...]:
    """The words for a thing; where its header says no more than that it is a name, what it is the name of: of what
    another sheet lists under such names, of a person, or of what the sheet is called after.

    What a code says in short another header may say in full, and of what it is a code the name beside it.
    """
    said = singular(stem_of_thing(thing))
    told = [*thing.alike, *thing.members]
    plain = _without_label(said)
    if plain and any(words(header)[: len(plain)] == plain for header in told):
        said = plain
    said = _whole(said)
    if in_full(said) and in_full(said) in [singular(stem_of(header)) for header in (*thing.lead, *told)]:
        return in_full(said)
    names = thing.alike or (thing.members if len(thing.members) == 1 else ())
    # The make of a thing is no name of it.
    names = () if names and not MODEL.isdisjoint(words(names[0])) else names
    by_name = stem_of(names[0]) if IDENTIFIER.issuperset(said) and names else _name_beside(decided, thing)
    coded = CODED.get(said[-1], "") if said and IDENTIFIER.issuperset(said) else ""
    if len("".join(by_name)) > 1 and not (coded and SAYS_LITTLE.issuperset(by_name)):
        return singular(by_name)
    named = IDENTIFIER.issuperset(said) and any(map(is_part, thing.members))
    if coded or not (named or NAME.issuperset(said)):
        return (coded,) if coded else said
    if thing.lead[0] in decided.lists:
        return singular(words(decided.lists[thing.lead[0]]))
    if named or _is_somebody(decided, thing):
        return PERSON
    return singular(words(decided.sheet)) if len(decided.things) == 1 else said


def _is_somebody(decided: Decided, thing: Entity) -> bool:
    """Whether a thing can be reached, or is named by first and last name and has what people have."""
    said = {word for name in (*thing.lead, *thing.alike, *thing.members) for word in words(name)}
    full = are_full_names(pa.array(decided.facts(thing.lead[0]).examples))
    return not CONTACT.isdisjoint(said) or (full and not OF_PEOPLE.isdisjoint(said))


def _without_label(parts: tuple[str, ...]) -> tuple[str, ...]:
    """What a label is on, if the words say so: an asset, of an asset tag."""
    return tuple(word for word in parts if word not in LABEL)


def _whole(parts: tuple[str, ...]) -> tuple[str, ...]:
    """Words in full, if they are short for nothing else."""
    return in_full(parts) if UNMISTAKABLE.issuperset(parts) and parts else parts


def _name_beside(decided: Decided, thing: Entity) -> tuple[str, ...]:
    """What a thing is called right before the code of which the header speaks of something else, as a driver's licence,
    or right behind a code of which it says letters alone, as an IMO No."""
    header, findings = thing.lead[0], decided.findings
    if len(thing.lead) > 1 or not is_identifier(words(header)):
        return ()
    letters = _is_short(header.split()[0], findings.by_name) and DOCUMENT.isdisjoint(stem_of(header))
    beside = (*findings.before(header)[-1:], *(findings.behind(header)[:1] if letters else ()))
    own = (one for one in beside if one.name in (*thing.alike, *thing.members) and one.distinct == thing.rows)
    return next((stem_of(one.name) for one in own if can_decide(one) and one.kind == TEXT and not is_code(one)), ())


def called_rows(
    decided: Decided, above: tuple[str, ...], called: tuple[str, ...], things: Mapping[Left, tuple[str, ...]]
) -> tuple[str, ...]:
    """The word for the sheet's rows: from its key if that is one column of its own, else from the sheet's name.

    That goes first where another column is called so, and tells the rows apart as well.

    A thing that is called so has the plain name, and the rows are called after what several of their own headers begin
    with, or say with what else they are about. What was taken out of a row is called after both. ``above`` are the
    words for that row, ``called`` what the rows are called besides, and ``things`` the words for each
    thing, by what identifies it.
    """
    source = decided.findings.source
    if above and source.part:
        said = listed(words(source.part.rpartition(" by ")[2])) or ("entry",)
        return (*above, *(without(said, above) if len(said) > len(above) else said))
    own = _whole(called or words(decided.sheet) or ("row",))
    others = {*things.values(), *_kinds(decided), *_further_names(decided), *_lists(decided), *_heads(decided)}
    label = bool(decided.key) and _is_label(decided.key[0], decided.findings.by_name)
    by_own = len(decided.key) == 1 and decided.key != (ROW_NUMBER,)
    by_own = by_own and not MOMENT.issuperset(words(decided.key[0]))
    if by_own and stem_of(decided.key[0]) and decided.key[0] not in decided.lists and not label:
        unique = {singular(stem(key)) for key in decided.findings.keys if len(key) == 1}
        unique |= {in_full(stem(decided.key)), _without_label(stem(decided.key))}
        known = singular(own) in unique or _is_short_for(stem(decided.key), singular(own)) or _names_first(decided)
        return own if known and singular(own) not in others else _whole(stem(decided.key))
    if decided.parted is not None or singular(own) not in others:
        return own
    told = (_first_name(decided), _shared_word(decided))
    of_own = next((said for said in told if said and said not in others), ())
    if of_own:
        return of_own
    lines = lines_of_pair(decided.findings)[2:]
    by_line = sorted(decided.key, key=lambda header: header not in lines and not is_line(decided.facts(header)))
    keys = [singular(things.get((header,)) or _without_moments(stem([header]))) for header in by_line]
    beside = keys or _kinds(decided)[:1]
    return (*singular(own), *next((one for one in beside if one != singular(own)), ("row",)))


def _names_first(decided: Decided) -> bool:
    """Whether a sheet of people begins with their names, so that the code behind is one that they have: a ticket."""
    first = decided.findings.columns[0]
    bare = NAME.issuperset(words(first.name)) or is_part(first.name)
    return bare and first.name not in decided.key and not PEOPLE.isdisjoint(words(decided.sheet))


def _is_short_for(parts: Sequence[str], whole: Sequence[str]) -> bool:
    """Whether a word is short for another: it begins as that does, and has few of its letters, in their order.

    >>> [_is_short_for([short], ["branch"]) for short in ("br", "brno", "bn", "boat", "nc")]
    [True, True, True, False, False]
    """
    if len(parts) != 1 or len(whole) != 1:
        return False
    short = re.sub("(?<=.)(no|nr|num|id|cd|code)$", "", parts[0])
    letters = iter(whole[0])
    return short[0] == whole[0][0] and 2 * len(short) <= len(whole[0]) and all(one in letters for one in short)


def _without_moments(parts: tuple[str, ...]) -> tuple[str, ...]:
    """What was done at a time, if the words say so: a reading, of a reading time; of what was read on it, its date."""
    if any(map(is_participle, parts[:1])):
        return ("date",)
    return tuple(word for word in parts if word not in MOMENT) or parts


def _further_names(decided: Decided) -> set[tuple[str, ...]]:
    """The words by which the headers call things besides: the staff, each with the name of a dentist."""
    further = (name for thing in decided.things for name in (*thing.alike, *thing.members))
    return {singular(stem_of(name)) for name in further if NAME.intersection(words(name))}


def _lists(decided: Decided) -> set[tuple[str, ...]]:
    """The words for what was taken out of the rows."""
    apart = (step for step in decided.findings.steps if step.act in (Act.LISTS, Act.SIDEWAYS) and not step.proposed)
    return {singular(listed(words(step.text("into")))) for step in apart}


def _heads(decided: Decided) -> set[tuple[str, ...]]:
    """The words for what the rows are lines of, by either of two columns under which they count: a trip of a route."""
    return {singular(stem([name])) for name in head_of_lines(decided.findings)}


def _first_name(decided: Decided) -> tuple[str, ...]:
    """The words for the first column, if it names each row, as a player who is listed with a team."""
    first = decided.findings.columns[0]
    names = first.kind == TEXT and can_decide(first) and (first.name,) in decided.findings.keys
    return singular(stem_of(first.name)) if names and not first.blanks else ()


def _shared_word(decided: Decided) -> tuple[str, ...]:
    """What the headers of several columns begin with that say something of the rows themselves, such as when.

    What several rows give one code of is another thing.
    """
    columns = [facts for facts in decided.findings.columns if facts.name not in decided.home]
    split = [words(facts.name) for facts in columns]
    first = Counter(said[:1] for said in split if len(said) > 1)
    # What was set on a day by somebody is none of several sets.
    more = {said[:1] for said in split if said[1:] and said[1] not in OPEN}
    coded = {stem_of(facts.name) for facts in columns if facts.repeats and is_identifier(words(facts.name))}
    told = (word for word, times in first.items() if times > 1 and word in more - coded)
    return next((word for word in told if MOMENT.isdisjoint(word)), ())


def _is_label(header: str, headers: Iterable[str]) -> bool:
    """Whether a header speaks of no thing, but of what is written on one or how to reach it: a tag, a WO, a mail."""
    about = stem_of(header)
    short = len(about) == 1 and len(about[0]) <= LONGEST_SHORT
    return (LABEL | NUMBERING | CONTACT | INITIAL).issuperset(about) or _is_short(header.split()[0], headers) or short


def _is_short(word: str, headers: Iterable[str]) -> bool:
    """Whether a word is the first letters of several, as no other header is all in capitals."""
    return word.isupper() and len(word) <= LONGEST_LETTERS and not all(map(str.isupper, headers))


def _kinds(decided: Decided) -> list[tuple[str, ...]]:
    """The words for the lists of values that the sheet's rows refer to, the first first."""
    rows = decided.findings.row_count
    own = [facts for facts in decided.findings.columns if facts.name not in decided.home]
    return [singular(stem([facts.name])) for facts in own if decided.is_kind(facts, rows)]
