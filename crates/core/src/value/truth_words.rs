//! Words for yes and no in many languages, by which a column of them is known. They only propose: what a file's words
//! mean, a plan says.

use super::words::FoldedWords;
use std::sync::OnceLock;

/// Single letters may mean anything (F is no, or a woman): but for the commonest they are left out.
///
/// Yes and no in the languages of the Unicode CLDR's `posix` messages that people most often write them in, with short
/// forms and the words of forms and spreadsheets ("checked", "on").
const YES: &[&str] = &[
    "yes",
    "y",
    "true",
    "on",
    "x",
    "checked",
    "present",
    "ok",
    "ja",
    "j",
    "wahr",
    "richtig",
    "oui",
    "vrai",
    "si",
    "sí",
    "sì",
    "verdadero",
    "vero",
    "sim",
    "verdadeiro",
    "da",
    "да",
    "истина",
    "tak",
    "prawda",
    "ano",
    "pravda",
    "áno",
    "igen",
    "igaz",
    "kyllä",
    "joo",
    "tosi",
    "sant",
    "sann",
    "jah",
    "jā",
    "taip",
    "evet",
    "doğru",
    "ναι",
    "ie",
    "hai",
    "はい",
    "是",
    "예",
    "oo",
    "ya",
    "có",
    "نعم",
    "כן",
    "हाँ",
    "já",
    "sand",
    "adevărat",
];
const NO: &[&str] = &[
    "no",
    "n",
    "false",
    "off",
    "unchecked",
    "absent",
    "none",
    "nein",
    "falsch",
    "non",
    "faux",
    "falso",
    "não",
    "nao",
    "ne",
    "не",
    "нет",
    "ложь",
    "nie",
    "fałsz",
    "nepravda",
    "nem",
    "hamis",
    "ei",
    "epätosi",
    "nej",
    "usant",
    "falsk",
    "falskt",
    "nee",
    "niet",
    "onwaar",
    "ei ole",
    "nē",
    "hayır",
    "yanlış",
    "όχι",
    "nage",
    "いいえ",
    "否",
    "不是",
    "아니요",
    "hindi",
    "tidak",
    "không",
    "لا",
    "לא",
    "नहीं",
    "nei",
    "nu",
    "fals",
];

fn all() -> &'static [FoldedWords; 2] {
    static ALL: OnceLock<[FoldedWords; 2]> = OnceLock::new();
    ALL.get_or_init(|| [FoldedWords::new(YES), FoldedWords::new(NO)])
}

/// What a word likely means, in whatever language.
#[must_use]
pub fn likely(text: &str) -> Option<bool> {
    let [yes, no] = all();
    match (yes.holds(text), no.holds(text)) {
        (true, false) => Some(true),
        (false, true) => Some(false),
        _ => None,
    }
}
