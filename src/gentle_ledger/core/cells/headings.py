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
    "due dues amount amounts balance total price fee fees charge charges cost costs owed owing paid payment "
    "deposit outstanding arrears credit debit sum montant solde frais dû prix"
)
MONEY_ABROAD = _set(
    "toll bill betrag summe preis kosten gebühr saldo offen importe precio monto bedrag prijs valor preço "
    "importo prezzo tarif tarifa tariffa"
)
"""More of them, by which an amount is told where something else speaks for it as well."""
PROSE = _set(
    "note notes comment comments remark remarks memo message text texte hinweis bemerkung bemerkungen notiz "
    "kommentar remarque remarques commentaire nota notas observaciones observações opmerking opmerkingen name "
    "names surname forename nom naam nombre nome email mail address adresse street straße link url website city "
    "town ort ville country language sprache langue greeting salutation anrede description details mobile phone "
    "cell telephone"
)
"""What such a column holds is words, or at least no small number."""
NUMBERS = _set(
    "kwh kw feet foot ft m metre metres meter meters length beam draft width days day hours hour weeks week "
    "months month nights years year age count qty quantity units unit pieces no nr num number numbers berth "
    "berths slip dock pier row line code id ref reference account invoice level class size weight power amps "
    "volts percent rate pct tage jahre monate menge anzahl länge jours nombre quantité longueur días cantidad "
    "dagen aantal share factor reading"
)
"""What such a column holds may be a small number, or a code of digits."""
MOBILE = _set(
    "mobile mobiles cell cellphone cellular handset sms handy mobil mobiltelefon mobilnummer handynummer portable "
    "gsm móvil movil celular mobiel mobieltje cellulare telemóvel telemovel"
)
PHONE = _set(
    "phone phones telephone tel number contact msisdn telefon telefonnummer telefono teléfono téléphone telefoon "
    "telefone numéro numero nummer número rufnummer"
)
NOT_THEIRS = _set(
    "old former previous prior ex fax telefax emergency spouse wife husband partner kin relative parent mother "
    "father guardian wrong invalid expired inactive alte altes alter früher frühere vorherige ehemalige notfall "
    "ehepartner ehefrau ehemann angehörige ancien ancienne précédent urgence conjoint épouse mari époux télécopie "
    "télécopieur antiguo anterior emergencia cónyuge esposa esposo marido familiar oud oude vorige nood noodgeval "
    "echtgenoot echtgenote antigo antiga emergência cônjuge vecchio precedente emergenza coniuge moglie"
)
"""Such a column has numbers that reach somebody else, or nobody any more."""
NOT_FIRST = _set(
    "office work business company desk home house landline land fixed alternate alternative alt secondary second "
    "third other another backup spare nd büro geschäftlich arbeit dienstlich firma festnetz zweite weitere bureau "
    "travail professionnel domicile maison fixe autre secondaire oficina trabajo casa fijo otro secundario "
    "kantoor werk thuis vast vaste tweede ander escritório trabalho fixo outro ufficio lavoro fisso altro secondo"
)
"""Such a column has numbers that may ring at a desk, or that somebody is reached by where the first one fails."""
NOT_PERSONS = _set(
    "boat boats vessel ship yacht craft hull dinghy tender street road product item event file town city harbour "
    "bateau navire voilier rue produit boot schiff segler stra\u00dfe barco nave velero calle producto schip jacht "
    "straat barca embarca\u00e7\u00e3o rua via"
)
"""Such a column has names of things, of which one person may have several."""
