//! What a spreadsheet shows where a formula failed, in the languages spreadsheets use.

/// The words, in lower case, without the leading `#` and the closing mark.
const WORDS: &[&str] = &[
    // English, and what most languages share
    "n/a",
    "ref",
    "value",
    "num",
    "name",
    "null",
    "div/0",
    "spill",
    "calc",
    "field",
    "blocked",
    "connect",
    "unknown",
    "busy",
    "getting_data",
    "external",
    "python",
    "timeout",
    // German
    "nv",
    "bezug",
    "wert",
    "zahl",
    "überlauf",
    "kalk",
    // French
    "valeur",
    "nombre",
    "nom",
    "nul",
    "propagation",
    "connexion",
    // Spanish
    "n/d",
    "¡ref",
    "¡valor",
    "¡num",
    "¡núm",
    "¿nombre",
    "¡div/0",
    "¡nulo",
    "¡desbordamiento",
    "¡calc",
    // Italian
    "rif",
    "valore",
    "nome",
    "nullo",
    "espansione",
    // Portuguese
    "valor",
    "núm",
    "nulo",
    "despejar",
    // Dutch
    "n/b",
    "verw",
    "waarde",
    "getal",
    "naam",
    "deel/0",
    "leeg",
    "overloop",
    // Polish
    "adr",
    "arg",
    "liczba",
    "nazwa",
    "dziel/0",
    "zero",
    "rozlanie",
    // Czech
    "není_k_dispozici",
    "odkaz",
    "hodnota",
    "číslo",
    "název",
    "dělení_nulou",
    "přesah",
    // Slovak
    "nedostupný",
    "neznáma_hodnota",
    "delenienulou",
    // Swedish
    "saknas",
    "referens",
    "värdefel",
    "ogiltigt",
    "namn",
    "division/0",
    "skärning",
    // Danish and Norwegian
    "i/t",
    "reference",
    "værdi",
    "verdi",
    "navn",
    "overløb",
    "overflyt",
    // Finnish
    "puuttuu",
    "viittaus",
    "arvo",
    "luku",
    "nimi",
    "jako/0",
    "tyhjä",
    "leviäminen",
    // Hungarian
    "hiányzik",
    "hiv",
    "érték",
    "szám",
    "név",
    "zéróosztó",
    "nulla",
    "kibontás",
    // Turkish
    "yok",
    "başv",
    "değer",
    "sayi",
    "sayı",
    "ad",
    "sayi/0",
    "sayı/0",
    "boş",
    "taşma",
    // Russian and Ukrainian
    "н/д",
    "ссылка",
    "знач",
    "число",
    "имя",
    "дел/0",
    "пусто",
    "перенос",
    "посилання",
    "ім'я",
    "діл/0",
];

/// Words before the number of an error in another common office program.
const NUMBERED: &[&str] =
    &["err", "fehler", "erreur", "error", "errore", "erro", "fout", "fel", "feil", "virhe", "błąd", "ошибка"];

/// Whether the text, trimmed, is such a word, or the hash signs of a column that was too narrow.
#[must_use]
pub fn is_one(text: &str) -> bool {
    match text.strip_prefix('#') {
        Some(rest) => rest.len() >= 2 && (rest.bytes().all(|byte| byte == b'#') || is_word(rest)),
        None => is_numbered(text),
    }
}

/// Whether the text is only the hash signs of a column that was too narrow.
#[must_use]
pub fn is_hashes(text: &str) -> bool {
    text.len() >= 3 && text.bytes().all(|byte| byte == b'#')
}

fn is_word(rest: &str) -> bool {
    if rest.len() > 40 {
        return false;
    }
    let word = rest.to_lowercase();
    let (word, is_marked) = match word.strip_suffix(['!', '?']) {
        Some(word) => (word, true),
        None => (word.as_str(), false),
    };
    // Without its closing mark only what is written so: `#N/A`, `#NV`, `#SAKNAS`; `#name` is a hashtag.
    let bare = [
        "n/a",
        "n/d",
        "n/b",
        "i/t",
        "н/д",
        "nv",
        "yok",
        "hiányzik",
        "není_k_dispozici",
        "getting_data",
        "nedostupný",
        "saknas",
    ];
    WORDS.contains(&word) && (is_marked || bare.contains(&word))
}

/// `Err:502` and the like: a word, a colon and three digits that begin with 5.
fn is_numbered(text: &str) -> bool {
    let Some((word, number)) = text.split_once(':') else { return false };
    let is_number =
        number.len() == 3 && number.starts_with('5') && number.bytes().all(|b| b.is_ascii_digit());
    is_number && NUMBERED.contains(&word.trim_end().to_lowercase().as_str())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn errors_are_known_in_the_languages_of_spreadsheets() {
        for text in [
            "#N/A",
            "#n/a",
            "#REF!",
            "#DIV/0!",
            "#NAME?",
            "#NV",
            "#BEZUG!",
            "#WERT!",
            "#VALEUR!",
            "#NOM?",
            "#¡VALOR!",
            "#¿NOMBRE?",
            "#RIF!",
            "#N/B",
            "#WAARDE!",
            "#LICZBA!",
            "#DĚLENÍ_NULOU!",
            "#SAKNAS!",
            "#VÆRDI!",
            "#PUUTTUU!",
            "#ÉRTÉK!",
            "#DEĞER!",
            "#ССЫЛКА!",
            "#Н/Д",
            "###",
            "########",
            "Err:502",
            "Fehler:508",
            "Erreur :511",
        ] {
            assert!(is_one(text), "{text}");
        }
        for text in ["#", "##", "#name", "#12", "#1 tree", "Err:2", "Error: 512", "12:500", "", "n/a", "#ok!"]
        {
            assert!(!is_one(text), "{text}");
        }
    }
}
