"""The words of headers by what they say: a code, a measure, a place, how to reach somebody; in several languages."""

from __future__ import annotations

import re

#: Such words say by themselves of what they are the code, in one word.
CODED = {
    **dict.fromkeys("ssn nin nino dni passport".split(), "person"),
    **dict.fromkeys("sku ean upc gtin".split(), "product"),
    **dict.fromkeys("vin kennzeichen matricula".split(), "vehicle"),
    "isbn": "book", "issn": "journal", "imo": "ship", "imei": "device",
}  # fmt: skip
CODE_OF_THING = CODED.keys() | {"fips", "serial"}
#: A column with such a word names something by a code or a number (English, German, French, Spanish).
IDENTIFIER = CODE_OF_THING | frozenset(
    "id no nr num nbr nmbr number code key ref reference reg registration nummer kennung schluessel kuerzel numero cle"
    " clave codigo".split()
)
#: And these say how many there are, before several things.
NUMBERS_OF = frozenset("no nr num nbr nmbr number numbers".split())
#: Such a column tells how to reach somebody; it comes with a person and decides nothing.
CONTACT = frozenset("phone telephone tel mobile fax email mail handy telefon telefono courriel correo web url".split())
#: Such a column holds what somebody noted.
NOTE = frozenset(
    "note notes remark remarks comment comments memo bemerkung bemerkungen notiz commentaire remarque observaciones"
    " nota".split()
)
#: Such a column describes in sentences; it decides nothing, even where no two are the same.
FREE_TEXT = NOTE | frozenset(
    "description desc details meaning definition wording explanation beschreibung descripcion".split()
)
#: Such a column is a line of an address.
ADDRESS = frozenset(
    "address addr street road zip postcode postal plz postleitzahl adresse strasse rue calle direccion".split()
)
#: Such a line of an address stands for a place.
POSTAL_CODE = frozenset("zip postcode postal plz postleitzahl".split())
#: Such a column is a place in an address, which seldom is a thing by itself.
PLACE = frozenset(
    "city town village place state province region county country district ort stadt bundesland land ville pays ciudad"
    " provincia pais".split()
)
#: Such a column says where a thing stands or somebody sits, and another may be there tomorrow.
SPOT = frozenset(
    "berth mooring desk seat slot aisle shelf bin rack bay locker stall room office hall flat apartment plot pitch bed"
    " cabin garage tank".split()
)
#: Such a column is a part of a person's name, which only the parts together tell.
PART_OF_NAME = frozenset(
    "first last given family middle forename surname firstname lastname vorname nachname prenom apellido".split()
)
#: Who is of a family that lives together.
OF_FAMILY = frozenset("parent child household".split())
#: Those that may as well be said of something else, if no name follows.
WHICH = frozenset("first last given family middle".split())
INITIAL = frozenset("initial initials".split())
#: What headers of codes say in short.
SHORT = {
    "acct": "account", "appt": "appointment", "cat": "category", "cust": "customer", "dept": "department",
    "emp": "employee", "empl": "employee", "equip": "equipment", "flt": "flight", "inv": "invoice", "loc": "location",
    "mem": "member", "mgr": "manager", "ord": "order", "org": "organisation", "pat": "patient", "pax": "passenger",
    "prod": "product", "proj": "project", "stud": "student", "supp": "supplier", "veh": "vehicle", "vend": "vendor",
}  # fmt: skip
#: Those that are short for nothing else: "Cat" may be a catalogue, and "Inv" an inventory.
UNMISTAKABLE = frozenset(
    "acct appt cust dept emp empl equip flt mgr ord org pat pax prod proj stud supp veh vend".split()
)
#: Headers over numbers that count parts and measure nothing: 1.10 comes after 1.9.
NUMBERING = frozenset(
    "section version chapter clause paragraph release revision rev ver accession catalogue catalog inventory shelfmark"
    " outline abschnitt kapitel ziffer paragraf auflage chapitre article seccion capitulo".split()
)
#: What hangs on a thing and tells which one it is, but is not its name.
LABEL = frozenset("tag badge barcode label plate tracking".split())
#: Such a column says how matters stand, and they do not stand so for a thing as long as it is there.
STATE = frozenset(
    "status priority stage severity urgency progress result outcome reason cause purpose decision verdict".split()
)
#: A header that ends so says which of several it is, whatever it is that it says it of.
SORT = STATE | frozenset("type category kind sort class method group level provider network format".split())
#: What is of one kind, or does one job, stands in several places and under several others.
KIND = frozenset(
    "type category job role position task activity service tariff tier os platform version release edition"
    " trade profession occupation".split()
)
#: Such a column says of whose make a thing is, or of which, as others are.
MAKER = frozenset("make brand manufacturer maker marke hersteller marca".split())
MODEL = MAKER | frozenset("model kind modell modelo".split())
#: What is written about something that happened: one for each, whoever it was about.
DOCUMENT = frozenset(
    "order invoice job ticket claim receipt booking reservation visit quote delivery shipment appointment po"
    " transaction sale purchase contract docket voucher waybill despatch dispatch incident complaint inspection"
    " rechnung auftrag bestellung lieferung buchung beleg facture commande livraison factura pedido".split()
)
#: Such headers say no more than that each of several things holds; no comma stands within one.
KEYWORD = frozenset("tag keyword topic skill language interest hobby allergy ingredient genre feature amenity".split())
#: With such a word a column numbers the lines under something.
LINE = frozenset("line ln pos position item seq sequence leg step zeile ligne linea posten".split())
#: Words that say that a column holds the name of what the other words say.
NAME = frozenset("name nom nombre bezeichnung".split())
#: Who writes this over a column means names of several parts.
FULL = frozenset("full complete voller vollstaendiger vollstandiger complet completo".split())
#: These say which place something has among the like.
ORDER = frozenset("rank place lane heat round".split())
#: Places at the finish, which two may share.
RANK = frozenset("rank ranking place placing finish finished position pos score seed rang platz".split())
#: Words that end like an identifier without being one.
NO_IDENTIFIER = frozenset(
    "paid unpaid valid invalid grid void solid liquid fluid hybrid bid rapid acid aid kid lid did rid mid hid skid"
    " squid".split()
)
#: Such a column holds an amount, a size or a moment, even where its values are whole numbers.
MEASURE = frozenset(
    "qty quantity amount price cost total sum rate hours days nights weight length width height depth size age count"
    " balance score percent share discount tax fee date time year month week menge preis betrag summe datum gewicht"
    " laenge duration distance speed temperature humidity pressure population area volume altitude latitude longitude"
    " delay salary wage income attendance wins losses points seats capacity budget rating visibility precipitation ms"
    " km minutes mins seconds temp mileage odometer min max avg average mm cm kg breite hoehe anzahl stunden quantite"
    " prix miles mile metres meters metre meter feet ft inches inch lb lbs ml tonnes tons tonnage litres liters litre"
    " liter diameter radius mass energy power kw kwh voltage volts velocity frequency freq density concentration"
    " elevation magnitude revenue turnover profit expenditure expenses awarded funding fine fines penalty penalties"
    " value values montant poids longueur cantidad precio importe peso largo fecha".split()
)
#: A header that ends so speaks of money; before another word it may speak of a way to pay, or of who does.
MONEY = frozenset(
    "fare toll rent donation stipend allowance commission refund postage tuition premium deposit bonus earnings expense"
    " expenses spend wages charge charges surcharge takings levy subtotal".split()
)
#: With no more than such a word a column says how many of something there were this time.
COUNT = frozenset("qty quantity pieces pcs menge anzahl quantite cantidad".split())
#: What a thing costs is mostly said of the thing, whatever is counted beside.
PRICE = frozenset("price fee preis prix precio".split())
#: What measures are put under is none: a cost centre, a time zone, a price list.
UNDER = frozenset("centre center zone list band card sheet type class category group".split())
#: Such a column holds what something has, or was set to, by what the columns beside it say.
VALUE = frozenset("value values default wert werte standardwert valeur valeurs valor".split())
#: Such a column says in what something is counted, where its texts are as short as pc and kg.
UNIT = frozenset("unit units uom einheit einheiten unite unidad".split())
#: Such a column tells when, even where its values are whole numbers.
MOMENT = frozenset(
    "date day time year month week hour quarter season observed datum tag zeit jahr monat woche stunde quartal saison"
    " jour heure annee mois semaine fecha dia hora ano mes semana".split()
)
#: What whoever fills a column in is told to do.
TO_DO = re.compile(
    r"\s*[(\[](?:please|select|tick|choose|check|mark|pick|optional|required|(?:comma|semicolon)[ -]separated)\b"
    r"[^)\]]*[)\]]",
    re.IGNORECASE,
)
