"""Singular and plural of English nouns, and of some German ones, as they stand in headers and names of sheets.

A library knows the rules; what it gets wrong on the words of offices, yards and registers stands here.
"""

from __future__ import annotations

import re
from functools import lru_cache

import inflection

#: Nouns of which the library knows no or a wrong other form.
IRREGULAR = """
    foot:feet tooth:teeth goose:geese mouse:mice louse:lice dormouse:dormice alumnus:alumni
    ox:oxen man:men woman:women child:children person:people
    genus:genera criterion:criteria phenomenon:phenomena bacterium:bacteria medium:media
    axis:axes analysis:analyses crisis:crises oasis:oases thesis:theses diagnosis:diagnoses
    base:bases appendix:appendices index:indices matrix:matrices vertex:vertices
    hero:heroes echo:echoes cargo:cargoes tomato:tomatoes potato:potatoes veto:vetoes
    shoe:shoes canoe:canoes toe:toes hoe:hoes tie:ties pie:pies die:dies lie:lies movie:movies cookie:cookies
    calorie:calories zombie:zombies rookie:rookies selfie:selfies quiz:quizzes lens:lenses yes:yeses plus:pluses
    knife:knives life:lives wife:wives wolf:wolves shelf:shelves half:halves calf:calves leaf:leaves loaf:loaves
    thief:thieves elf:elves self:selves sheaf:sheaves scarf:scarves hoof:hooves wharf:wharves dwarf:dwarves
    kunde:kunden lieferant:lieferanten auftrag:auftraege ort:orte projekt:projekte konto:konten
    vertrag:vertraege fahrzeug:fahrzeuge
"""
#: Nouns in -s that are one thing, and take -es.
ONE_IN_S = """
    status campus virus bonus census consensus corpus focus octopus apparatus chorus circus prospectus surplus nexus
    crocus abacus radius syllabus terminus bus walrus cactus iris trellis pelvis gas atlas canvas alias bias
"""
PLURALS = dict(pair.split(":") for pair in IRREGULAR.split()) | {word: f"{word}es" for word in ONE_IN_S.split()}
SINGULARS = {many: one for one, many in PLURALS.items()}
PARTICIPLES = frozenset(
    "held used done paid sold bought lent sent made given taken lost found built left kept seen born".split()
)
#: Words in -ed of so many letters are nouns, as bed and weed, and these are.
LONGEST_NOUN, NOUNS_IN_ED = 5, frozenset("biped linseed hotbed riverbed seabed flatbed watershed birdseed".split())
#: Shorter words are one letter, or none that has a plural.
SHORTEST_PLURAL = 3
#: So many words are kept with their singular, as the headers of a few sheets are asked of over and over.
MOST_KEPT = 4_096
#: The same in both numbers.
SAME = frozenset(
    "series species chassis news means sheep fish aircraft data rice information equipment software hardware"
    " weather rain rainfall snow premises artikel mitarbeiter fahrer lager".split()
)
#: What German nouns end in that have a plural in -en, as Lieferung and Einheit.
IN_EN = re.compile(r"\w{2,}(?:heit|keit|schaft)|\w{4,}ung")
#: Plurals in -us and -is; what else ends so is one thing.
IN_US = frozenset("menus emus gnus gurus taxis skis kiwis alibis bikinis".split())


def is_participle(word: str) -> bool:
    """Whether a word says what was done, and so has no plural.

    >>> is_participle("needed"), is_participle("held"), is_participle("shed"), is_participle("seed")
    (True, True, False, False)
    """
    return word in PARTICIPLES or (word.endswith("ed") and len(word) > LONGEST_NOUN and word not in NOUNS_IN_ED)


@lru_cache(MOST_KEPT)
def singular(word: str) -> str:
    """A noun in the singular.

    >>> [singular(word) for word in ("valves", "status", "rotas", "lens", "slice", "mice", "s", "rechnungen")]
    ['valve', 'status', 'rota', 'lens', 'slice', 'mouse', 's', 'rechnung']
    """
    if len(word) < SHORTEST_PLURAL:
        return word
    if word in SINGULARS:
        return SINGULARS[word]
    if word.endswith("en") and IN_EN.fullmatch(word[:-2]):
        return word[:-2]
    if word in SAME or word in PLURALS or (word.endswith(("us", "is", "ss", "a", "ice")) and word not in IN_US):
        return word
    # The library would make valf of valves, lense of lenses, excus of excuses, and rotum of rota.
    if word.endswith(("ves", "uses", "as", "us", "is")):
        return word[:-1]
    return str(inflection.singularize(word))


def plural(word: str) -> str:
    """A noun in the plural.

    >>> [plural(word) for word in ("valve", "knife", "status", "rota", "lens", "canvas", "cafe", "einheit", "lung")]
    ['valves', 'knives', 'statuses', 'rotas', 'lenses', 'canvases', 'cafes', 'einheiten', 'lungs']
    """
    if word in PLURALS:
        return PLURALS[word]
    if word in SAME or word in SINGULARS:
        return word
    if IN_EN.fullmatch(word):
        return f"{word}en"
    if word.endswith(("us", "is", "ss")) and word not in IN_US:
        return f"{word}es"
    return f"{word}s" if word.endswith(("a", "ice", "fe", "lf", "rf")) else str(inflection.pluralize(word))
