"""The words that offices put above their columns, by what such a column holds; common practice, no source.

In the languages of the offices around: English, French, German, Spanish, Dutch, Portuguese and Italian.
"""

import re


def heading_words(name: str) -> list[str]:
    """The words of a column's name, in small letters: "DueDate (old)" is due, date, old; a number sign is "no"."""
    spaced = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name.replace("#", " no ").replace("\u2116", " no "))
    return re.findall(r"[^\W\d_]+", spaced.casefold())


def _set(words: str) -> frozenset[str]:
    return frozenset(words.split())


MONEY = _set(
    "due dues amount amounts balance total price fee fees charge charges cost costs owed owing paid payment deposit "
    "outstanding arrears credit debit sum montant solde frais d\u00fb prix"
)
MONEY_ABROAD = _set(
    "toll bill betrag summe preis kosten geb\u00fchr saldo offen importe precio total monto bedrag prijs "
    "valor pre\u00e7o importo prezzo tarif tarifa tariffa"
)
"""More of them, by which an amount is told where something else speaks for it as well."""
PROSE = _set(
    "note notes comment comments remark remarks memo message text texte hinweis bemerkung bemerkungen notiz kommentar "
    "remarque remarques commentaire nota notas observaciones observa\u00e7\u00f5es opmerking opmerkingen name names "
    "surname forename nom naam nombre nome email mail address adresse street stra\u00dfe link url "
    "website city town ort ville country language sprache langue greeting salutation anrede "
    "description details mobile phone cell telephone"
)
"""What such a column holds is words, or at least no small number."""
NUMBERS = _set(
    "kwh kw feet foot ft m metre metres meter meters length beam draft width days day hours hour weeks week months "
    "month nights years year age count qty quantity units unit pieces no nr num number numbers berth berths slip dock "
    "pier row line code id ref reference account invoice level class size weight power amps volts percent rate pct "
    "tage jahre monate menge anzahl l\u00e4nge jours nombre quantit\u00e9 longueur d\u00edas cantidad dagen aantal "
    "share factor reading"
)
"""What such a column holds may be a small number, or a code of digits."""
