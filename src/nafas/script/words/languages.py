"""The languages a session can be in: those that num2words can count in and eSpeak can read.

Four cue words for each: in, hold full, out, hold empty. English, Spanish, French, Italian, German and Hindi have the
plain words practitioners use (common practice, no source); the others are from memory and should be read by a speaker
before anything is published. A session's own wording replaces any of them.
"""

NAMES_AND_CUES: dict[str, tuple[str, str]] = {
    "en": ("English", "inhale|hold|exhale|rest"),
    "es": ("Spanish", "inhala|retén|exhala|descansa"),
    "fr": ("French", "inspirez|retenez|expirez|restez vide"),
    "it": ("Italian", "inspira|trattieni|espira|riposa"),
    "de": ("German", "einatmen|halten|ausatmen|ruhen"),
    "hi": ("Hindi", "साँस लें|रोकें|साँस छोड़ें|ठहरें"),
    "am": ("Amharic", "ወደ ውስጥ ተንፍሱ|ያዙ|ወደ ውጭ ተንፍሱ|እረፉ"),
    "ar": ("Arabic", "شهيق|احبس|زفير|استرح"),
    "az": ("Azerbaijani", "nəfəs alın|saxlayın|nəfəs verin|dincəlin"),
    "be": ("Belarusian", "удых|затрымка|выдых|адпачынак"),
    "bn": ("Bengali", "শ্বাস নিন|ধরে রাখুন|শ্বাস ছাড়ুন|বিশ্রাম"),
    "ca": ("Catalan", "inspira|mantén|expira|descansa"),
    "cs": ("Czech", "nádech|zadrž|výdech|klid"),
    "cy": ("Welsh", "anadlu i mewn|dal|anadlu allan|gorffwys"),
    "da": ("Danish", "ånd ind|hold|ånd ud|hvil"),
    "eo": ("Esperanto", "enspiru|tenu|elspiru|ripozu"),
    "fa": ("Persian", "دم|نگه دار|بازدم|مکث"),
    "fi": ("Finnish", "sisään|pidä|ulos|lepää"),
    "fr-be": ("French (Belgium)", "inspirez|retenez|expirez|restez vide"),
    "fr-ch": ("French (Switzerland)", "inspirez|retenez|expirez|restez vide"),
    "he": ("Hebrew", "שאיפה|החזק|נשיפה|מנוחה"),
    "hu": ("Hungarian", "belégzés|tartsd|kilégzés|pihenj"),
    "id": ("Indonesian", "tarik napas|tahan|buang napas|jeda"),
    "is": ("Icelandic", "anda inn|halda|anda út|hvíla"),
    "kn": ("Kannada", "ಉಸಿರು ಒಳಗೆ|ಹಿಡಿ|ಉಸಿರು ಹೊರಗೆ|ವಿಶ್ರಾಂತಿ"),
    "ko": ("Korean", "들이쉬고|멈추고|내쉬고|쉬고"),
    "lt": ("Lithuanian", "įkvėpkite|sulaikykite|iškvėpkite|ilsėkitės"),
    "lv": ("Latvian", "ieelpo|aizturi|izelpo|atpūties"),
    "nl": ("Dutch", "adem in|vasthouden|adem uit|rust"),
    "no": ("Norwegian", "pust inn|hold|pust ut|hvil"),
    "pl": ("Polish", "wdech|zatrzymaj|wydech|odpocznij"),
    "pt": ("Portuguese", "inspire|segure|expire|descanse"),
    "pt-br": ("Portuguese (Brazil)", "inspire|segure|expire|descanse"),
    "ro": ("Romanian", "inspiră|ține|expiră|odihnă"),
    "ru": ("Russian", "вдох|задержка|выдох|пауза"),
    "sk": ("Slovak", "nádych|zadrž|výdych|pokoj"),
    "sl": ("Slovenian", "vdih|zadrži|izdih|počitek"),
    "sr": ("Serbian", "udah|zadrži|izdah|odmor"),
    "sv": ("Swedish", "andas in|håll|andas ut|vila"),
    "te": ("Telugu", "శ్వాస తీసుకోండి|ఆపండి|శ్వాస వదలండి|విశ్రాంతి"),
    "th": ("Thai", "หายใจเข้า|กลั้น|หายใจออก|พัก"),
    "tr": ("Turkish", "nefes al|tut|nefes ver|dinlen"),
    "uk": ("Ukrainian", "вдих|затримка|видих|пауза"),
    "vi": ("Vietnamese", "hít vào|giữ|thở ra|nghỉ"),
}

LANGUAGES = tuple(NAMES_AND_CUES)


def language_name(code: str) -> str:
    """The English name of one of `LANGUAGES`."""
    return NAMES_AND_CUES[code][0]


_THREE = dict(
    part.split("=")
    for part in (
        "en=eng es=spa fr=fra it=ita de=deu hi=hin am=amh ar=ara az=aze be=bel bn=ben ca=cat cs=ces cy=cym da=dan "
        "eo=epo fa=fas fi=fin he=heb hu=hun id=ind is=isl kn=kan ko=kor lt=lit lv=lav nl=nld no=nor pl=pol pt=por "
        "ro=ron ru=rus sk=slk sl=slv sr=srp sv=swe te=tel th=tha tr=tur uk=ukr vi=vie"
    ).split()
)


def three_letters(code: str) -> str:
    """The three letters by which a file names one of `LANGUAGES` (ISO 639-2/T)."""
    return _THREE[code.partition("-")[0]]
