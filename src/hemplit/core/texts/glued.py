"""Headers that programs were given: words written as one and in short (``custno``, ``CUST_NM``, ``Auftragsnr``).

Only what is known to stand first and what is known to stand behind it are taken apart: a casino has no number.
"""

from __future__ import annotations

import re
from itertools import chain, pairwise
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

#: What things are called in headers that say more behind it.
THINGS = frozenset(
    "account acct agent appt area artist asset author bank batch bed bin boat book branch car case cat city claim"
    " class client club coach contract country course crew cust customer dept device district division doc doctor"
    " driver drug emp employee engine equip event exam film flight flt fund game gate grant guest hotel inv invoice"
    " item job lease lecturer line loan lot machine manager match mem member meter mgr model module movie nurse office"
    " officer ord order owner part pat patient pet pilot plan play player policy port prize prod product proj project"
    " property quote race region rep rider room route sale sample school seat section sensor serial service session"
    " shift ship shop site staff state station stock store stud student subject sup supp supplier tank task teacher"
    " team tech ticket tool tour town track trip unit user veh vehicle vend vendor venue vessel visit ward work"
    " zone".split()
)
#: What is said of them.
SAID = "no num nbr nr id code cd name nm title desc date dt addr address city loc mgr phone tel email price qty type"
#: What of that is meant so behind a thing only: elsewhere "nm" are nanometres.
SHORT = {"cd": "code", "nm": "name", "dt": "date"}
ONE = re.compile(
    f"({'|'.join(sorted(THINGS))}|[b-z])({'|'.join(SAID.split())})|(birth|due|end|hire|pay|ship|start)(date|dt)"
)
#: After one letter no other words are sure: "fid" and "mdate" say nothing.
AFTER_A_LETTER = frozenset("no num name".split())
#: Parts of names, which begin with the letter of the part.
NAMES = {"fname": ("first", "name"), "lname": ("last", "name"), "mname": ("middle", "name")}
#: German words, with the sound that binds them.
GERMAN = re.compile(
    r"([a-z]{4,}?)(?:(?:(?<=ung)|(?<=ion)|(?<=eit)|(?<=aft)|(?<=trag)|(?<=kauf))s)?"
    r"(nr|nummer|datum|menge|preis|betrag|bezeichnung)"
    r"|(kunden|firmen|artikel|produkt|projekt|lieferanten|mitarbeiter)(name)"
)


def apart(parts: Sequence[str]) -> tuple[str, ...]:
    """Lower-case words, those apart that are written as one, and in full what is said of a thing.

    >>> apart(["custno"]), apart(["cust", "nm"]), apart(["auftragsnr"]), apart(["ename"]), apart(["kundenname"])
    (('cust', 'no'), ('cust', 'name'), ('auftrag', 'nr'), ('e', 'name'), ('kunden', 'name'))
    >>> apart(["casino"]), apart(["surname"]), apart(["candidate"]), apart(["wave", "nm"])
    (('casino',), ('surname',), ('candidate',), ('wave', 'nm'))
    """
    single = [*chain.from_iterable(map(_parted, parts))]
    said = (SHORT.get(word, word) if before in THINGS else word for before, word in pairwise(single))
    return (*single[:1], *said)


def _parted(word: str) -> tuple[str, ...]:
    if word in NAMES:
        return NAMES[word]
    found = ONE.fullmatch(word) or GERMAN.fullmatch(word)
    if found is None or (len(found[1] or "") == 1 and found[2] not in AFTER_A_LETTER):
        return (word,)
    return tuple(filter(None, found.groups()))
