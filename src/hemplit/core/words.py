"""What headers say: the words in them that mark an identifier, a contact detail or a measure, in several languages."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from anyascii import anyascii

if TYPE_CHECKING:
    from collections.abc import Iterable

#: A column with such a word names something by a code or a number (English, German, French, Spanish).
IDENTIFIER = frozenset(
    "id no nr num number code key ref reference reg registration sku ean isbn serial"
    " nummer kennung kennzeichen schluessel kuerzel numero cle clave codigo matricula".split()
)
#: Such a column tells how to reach somebody; it comes with a person and decides nothing.
CONTACT = frozenset("phone telephone tel mobile fax email mail handy telefon telefono courriel correo web url".split())
#: Such a column holds an amount, a size or a moment, even where its values are whole numbers.
MEASURE = frozenset(
    "qty quantity amount price cost total sum rate hours days weight length width height depth size age count balance"
    " score percent share discount tax fee date time year month week menge preis betrag summe datum gewicht laenge"
    " breite hoehe anzahl stunden quantite prix montant poids longueur cantidad precio importe peso largo fecha".split()
)
#: The shortest limit among the databases that Hemplit writes to, less some room for a number.
LONGEST_NAME = 56


def words(header: str) -> tuple[str, ...]:
    """The words of a header in lower-case ASCII; "№", "#" and capitals inside a word count as breaks.

    >>> words("Boat Reg."), words("HullClass"), words("Größe (m)"), words("Job #")
    (('boat', 'reg'), ('hull', 'class'), ('grosse', 'm'), ('job', 'no'))
    """
    plain = anyascii(header.replace("#", " no "))
    plain = re.sub(r"([a-z0-9])([A-Z])", r"\1 \2", plain)
    return tuple(re.findall(r"[a-z0-9]+", plain.lower()))


def snake(parts: Iterable[str]) -> str:
    """Words as one name for a database; a name does not start with a digit.

    >>> snake(("boat", "reg")), snake(("2026",))
    ('boat_reg', 'n_2026')
    """
    name = "_".join(parts)[:LONGEST_NAME].rstrip("_")
    return f"n_{name}" if name[:1].isdigit() else name
