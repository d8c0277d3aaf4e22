//! How tables of many languages head a key.

/// Words by which a column is called one.
const KEY_WORDS: &[&str] = &[
    "id",
    "key",
    "code",
    "no",
    "number",
    "tag",
    "ref",
    "uuid",
    "reference",
    "serial",
    "identifier",
    "nº",
    "n°",
    "№",
    "#",
    "nr",
    "num",
    "numéro",
    "numero",
    "número",
    "référence",
    "referencia",
    "matricule",
    "identifiant",
    "clave",
    "código",
    "codice",
    "nummer",
    "kennung",
    "kennzeichen",
    "kenteken",
    "nro",
    "numer",
    "číslo",
    "kod",
    "kód",
    "szám",
    "azonosító",
    "broj",
    "номер",
    "код",
    "αριθμός",
    "番号",
    "编号",
    "編號",
    "번호",
];

/// How words end that are made with such a one: `Kundennummer`, `bokningsnr`.
const KEY_ENDINGS: &[&str] = &[
    "id",
    "nummer",
    "nr",
    "number",
    "code",
    "kode",
    "kod",
    "kennzeichen",
    "numero",
    "szám",
    "番号",
    "编号",
    "编码",
];

/// Words beside which a code or a number tells no record: `ZIP code`, `Phone no.`, `Code postal`.
const NOT_OF_KEYS: &[&str] = &[
    "post",
    "postal",
    "postcode",
    "postleitzahl",
    "postnummer",
    "postnr",
    "zip",
    "zipcode",
    "plz",
    "cap",
    "psč",
    "country",
    "currency",
    "language",
    "phone",
    "telephone",
    "telefon",
    "telefonnummer",
    "téléphone",
    "teléfono",
    "mobile",
    "fax",
    "tel",
    "house",
    "hausnummer",
    "husnummer",
    "huisnummer",
    "почтовый",
    "郵便番号",
];

/// Whether a heading says that its column is the key.
pub(crate) fn calls_a_key(heading: &str) -> bool {
    let heading = heading.to_lowercase();
    let is_mark = |c: char| matches!(c, '#' | 'º' | '°' | '№');
    let parts = heading.split(|c: char| !c.is_alphanumeric() && !is_mark(c));
    let words: Vec<&str> = parts.filter(|word| !word.is_empty()).collect();
    let is_key = |word: &&str| {
        KEY_WORDS.contains(word) || KEY_ENDINGS.iter().any(|end| word.ends_with(end)) || word.contains('№')
    };
    words.iter().any(is_key) && !words.iter().any(|word| NOT_OF_KEYS.contains(word))
}
