//! Suspicions: what is odd in how a readable value was written. They never say that the value is wrong.

use std::ops::RangeInclusive;
use unicode_script::{Script, UnicodeScript};
use unicode_security::confusable_detection::skeleton;

/// Days that only hold the place of one.
pub(crate) const PLACEHOLDER_DAYS: [(u16, u8, u8); 2] = [(1900, 1, 1), (9999, 12, 31)];

/// Whether a space stands where it changes what is compared but not what is seen: doubled, no-break or
/// another uncommon one. Outer spaces are the caller's to see.
#[must_use]
pub fn has_stray_space(trimmed: &str) -> bool {
    if trimmed.is_ascii() {
        return memchr::memmem::find(trimmed.as_bytes(), b"  ").is_some();
    }
    let mut before = ' ';
    trimmed.chars().any(|c| {
        let doubled = c == ' ' && before == ' ';
        before = c;
        doubled || is_uncommon_space(c)
    })
}

/// A space other than U+0020 and the tab.
pub(crate) fn is_uncommon_space(c: char) -> bool {
    matches!(
        c,
        '\u{A0}' | '\u{1680}' | '\u{2000}'
            ..='\u{200A}' | '\u{2028}' | '\u{2029}' | '\u{202F}' | '\u{205F}' | '\u{3000}'
    )
}

/// The first character that nobody sees: zero-width ones and direction marks; not joiners where a script or
/// an emoji needs them.
#[must_use]
pub fn invisible(text: &str) -> Option<char> {
    text.chars().zip(unneeded(text)).find(|found| found.1).map(|found| found.0)
}

/// The text without such characters.
#[must_use]
pub fn without_invisible(text: &str) -> String {
    text.chars().zip(unneeded(text)).filter(|found| !found.1).map(|found| found.0).collect()
}

/// For each character whether nobody sees it and nothing needs it.
fn unneeded(text: &str) -> impl Iterator<Item = bool> {
    let mut before = None;
    text.chars().map(move |c| {
        let needed = match (c, before) {
            ('\u{200C}' | '\u{200D}', Some(before)) => joins(before) || c == '\u{200D}' && is_emoji(before),
            // A flag is spelt in tags behind its emoji.
            ('\u{E0020}'..='\u{E007F}', Some(before)) => is_emoji(before) || is_tag(before),
            _ => false,
        };
        before = Some(c);
        !needed && is_invisible(c)
    })
}

fn is_invisible(c: char) -> bool {
    matches!(c, '\u{AD}' | '\u{34F}' | '\u{61C}' | '\u{115F}' | '\u{1160}' | '\u{17B4}' | '\u{17B5}'
        | '\u{180E}' | '\u{200B}'..='\u{200F}' | '\u{202A}'..='\u{202E}' | '\u{2060}'..='\u{2064}'
        | '\u{2066}'..='\u{206F}' | '\u{3164}' | '\u{FEFF}' | '\u{FFA0}' | '\u{FFF9}'..='\u{FFFB}')
        || is_tag(c)
}

fn is_tag(c: char) -> bool {
    matches!(c, '\u{E0000}'..='\u{E007F}')
}

/// Whether letters of this character's script are joined or kept apart by joiners.
fn joins(c: char) -> bool {
    use Script::{
        Arabic, Bengali, Devanagari, Gujarati, Gurmukhi, Kannada, Khmer, Malayalam, Mongolian, Myanmar, Nko,
        Oriya, Sinhala, Syriac, Tamil, Telugu,
    };
    [
        Arabic, Bengali, Devanagari, Gujarati, Gurmukhi, Kannada, Khmer, Malayalam, Mongolian, Myanmar, Nko,
        Oriya, Sinhala, Syriac, Tamil, Telugu,
    ]
    .contains(&c.script())
        // Vowel signs and the like are shared by scripts.
        || c.script() == Script::Inherited && unicode_normalization::char::is_combining_mark(c)
}

fn is_emoji(c: char) -> bool {
    const RANGES: [RangeInclusive<char>; 6] = [
        '\u{2190}'..='\u{21FF}',
        '\u{2300}'..='\u{23FF}',
        '\u{2600}'..='\u{27BF}',
        '\u{2B00}'..='\u{2BFF}',
        '\u{1F000}'..='\u{1FAFF}',
        '\u{FE0F}'..='\u{FE0F}',
    ];
    RANGES.iter().any(|range| range.contains(&c))
}

/// The first word in which Latin letters stand beside Cyrillic or Greek ones that look like Latin ones, and
/// the word in Latin letters where that is possible.
#[must_use]
pub fn lookalike(text: &str) -> Option<(String, Option<String>)> {
    if text.is_ascii() {
        return None;
    }
    let words = text.split(|c: char| !c.is_alphabetic());
    words.filter(|word| !word.is_ascii()).find_map(|word| {
        let has_latin = word.chars().any(|c| c.script() == Script::Latin);
        let foreign = |c: char| matches!(c.script(), Script::Cyrillic | Script::Greek);
        let deceives = word.chars().any(|c| foreign(c) && latin_twin(c).is_some());
        (has_latin && deceives).then(|| {
            let latin: Option<String> =
                word.chars().map(|c| if foreign(c) { latin_twin(c) } else { Some(c) }).collect();
            (word.to_owned(), latin)
        })
    })
}

/// The Latin letter that looks like this one (Unicode Technical Standard 39, section 4).
fn latin_twin(c: char) -> Option<char> {
    let mut alone = [0; 4];
    let mut twin = skeleton(c.encode_utf8(&mut alone));
    match (twin.next(), twin.next()) {
        (Some(letter), None) if letter.is_ascii_alphabetic() => Some(letter),
        _ => None,
    }
}

/// The first control character other than a line break, and than a tab where tabs are fine.
#[must_use]
pub fn control(text: &str) -> Option<char> {
    // Without branches, so that many bytes are looked at together.
    if !text.bytes().fold(false, |found, byte| found | !(b' '..=b'~').contains(&byte)) {
        return None;
    }
    text.chars().find(|&c| c.is_control() && !matches!(c, '\n' | '\r' | '\t'))
}

/// Whether a spreadsheet would run the text as a formula when it opens the file.
#[must_use]
pub fn is_formula_like(trimmed: &str) -> bool {
    let mut chars = trimmed.chars();
    match chars.next() {
        Some('=' | '@') => chars.next().is_some_and(|second| !second.is_whitespace()),
        Some('+' | '-') => {
            let rest = chars.as_str();
            // A number, a phone number or a dash before a word runs nothing.
            let is_number = rest.chars().all(|c| c.is_ascii_digit() || " .,-/()%".contains(c));
            let first = rest.chars().next();
            !is_number && first.is_some_and(|first| !first.is_whitespace() && first != '-' && first != '>')
        }
        _ => false,
    }
}

/// Whether the text shows that digits were lost: a number in powers of ten, as spreadsheets show long ones,
/// or more than fifteen digits of which only the first fifteen are kept.
#[must_use]
pub fn has_lost_precision(trimmed: &str) -> bool {
    let bytes = trimmed.as_bytes();
    if !bytes.first().is_some_and(u8::is_ascii_digit) {
        return false;
    }
    if bytes.iter().all(u8::is_ascii_digit) {
        let behind = bytes.get(15..).unwrap_or_default();
        let kept = bytes.get(..15).unwrap_or_default();
        return !behind.is_empty()
            && behind.iter().all(|&byte| byte == b'0')
            && kept.iter().any(|&b| b != b'0');
    }
    let Some((mantissa, power)) = trimmed.split_once('+') else { return false };
    let Some(mantissa) = mantissa.strip_suffix(['E', 'e']) else { return false };
    let mut parts = mantissa.splitn(2, ['.', ',']);
    let digits = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
    let one = parts.next().is_some_and(|whole| whole.len() == 1 && digits(whole));
    one && parts.next().is_none_or(digits) && (2..=3).contains(&power.len()) && digits(power)
}

/// Words that people put where a value is still to come; at most eight bytes, see `holds_the_place`.
pub(crate) const PLACEHOLDERS: [&str; 31] = [
    "test", "tests", "testing", "tester", "tbc", "tbd", "tba", "todo", "to do", "dummy", "asdf", "qwerty",
    "foo", "bar", "foobar", "lorem", "blah", "n/a", "n.a.", "na", "null", "xxx", "xxxx", "xxxxx", "xxxxxx",
    "xxxxxxx", "xxxxxxxx", "?", "??", "???", "...",
];

/// Whether the text only holds the place of a value.
#[must_use]
pub fn is_placeholder(trimmed: &str) -> bool {
    trimmed.len() <= 8 && PLACEHOLDERS.iter().any(|word| word.eq_ignore_ascii_case(trimmed))
        || trimmed.len() <= 8 && !trimmed.is_empty() && trimmed.bytes().all(|byte| byte == b'-')
}

/// Whether a number only holds the place of one: nines alone, five or more.
#[must_use]
pub fn is_nines(digits: &str) -> bool {
    digits.len() >= 5 && digits.bytes().all(|byte| byte == b'9')
}

/// The text as it was before it was encoded twice (UTF-8 read as Windows-1252, so that é became Ã©), where
/// that is what happened.
#[must_use]
pub fn before_double_encoding(text: &str) -> Option<String> {
    if text.is_ascii() {
        return None;
    }
    let (mut mended, mut changed, mut run) = (String::new(), false, String::new());
    for c in text.chars().map(Some).chain([None]) {
        if let Some(c) = c.filter(|c| !c.is_ascii()) {
            run.push(c);
            continue;
        }
        match decoded_once(&run) {
            Some(once) => {
                mended.push_str(&once);
                changed = true;
            }
            None => mended.push_str(&run),
        }
        run.clear();
        mended.extend(c);
    }
    changed.then_some(mended)
}

/// A run of characters over U+007F as the UTF-8 that its Windows-1252 bytes are.
fn decoded_once(run: &str) -> Option<String> {
    let mut chars = run.chars();
    let (first, _) = (chars.next()?, chars.next()?);
    // The first byte of two to four in UTF-8.
    if !('\u{C2}'..='\u{F4}').contains(&first) {
        return None;
    }
    let (bytes, _, unmappable) = encoding_rs::WINDOWS_1252.encode(run);
    if unmappable {
        return None;
    }
    std::str::from_utf8(&bytes).ok().map(ToOwned::to_owned)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_nobody_sees_is_seen_but_joiners_have_their_place() {
        for text in ["HT\u{200B}-1", "\u{FEFF}HT", "Oak\u{200E}", "so\u{AD}rt", "a\u{200D}b", "\u{202E}abc"] {
            assert!(invisible(text).is_some(), "{text:?}");
        }
        for text in
            ["نامه\u{200C}ها", "क्\u{200D}ष", "👩\u{200D}🌾", "🏴\u{E0067}\u{E0062}\u{E007F}", "naïve ☀️"]
        {
            assert_eq!(invisible(text), None, "{text:?}");
        }
    }

    #[test]
    fn letters_of_another_script_are_told_apart_by_word() {
        let twin = |text| lookalike(text).map(|found| found.1);
        assert_eq!(twin("M\u{430}ple"), Some(Some("Maple".to_owned())));
        assert_eq!(twin("\u{391}lder tree"), Some(Some("Alder".to_owned())));
        assert_eq!(twin("Мoсква"), Some(None), "a Latin o in a Cyrillic word");
        for text in ["Maple", "naïve", "Москва", "Москва Road", "5 kΩ", "東京Tower", "10 µm", "Ångström"]
        {
            assert_eq!(lookalike(text), None, "{text}");
        }
    }

    #[test]
    fn each_suspicion_by_examples_and_counterexamples() {
        type Test = fn(&str) -> bool;
        let tables: [(Test, &[&str], &[&str]); 5] = [
            (has_stray_space, &["a  b", "a\u{A0}b", "a\u{3000}b"], &["a b", "", "a\tb"]),
            (
                is_formula_like,
                &["=1+1", "=SUM(A1:A9)", "@SUM(A1)", "+cmd|' /C calc'!A0", "-2+3+cmd|'x'!A0", "-A1"],
                &["- leans", "-", "+44 20 7946 0018", "-5.2", "->", "--", "a=b", "=", "= x", "+"],
            ),
            (
                has_lost_precision,
                &["1.23E+15", "1,23457E+12", "4E+11", "4539578763621480", "12345678901234500000"],
                &[
                    "1.23E15",
                    "12E+15",
                    "453957876362148",
                    "4539578763621486",
                    "E+15",
                    "1.2E+x",
                    "0000000000000000",
                ],
            ),
            (
                is_placeholder,
                &["test", "TBC", "xxx", "XXXX", "n/a", "?", "---"],
                &["testament", "xx", "Xanthe", "none", "unknown", ""],
            ),
            (is_nines, &["99999", "9999999"], &["9999", "99998", ""]),
        ];
        for (is_one, yes, no) in tables {
            yes.iter().for_each(|text| assert!(is_one(text), "{text}"));
            no.iter().for_each(|text| assert!(!is_one(text), "{text}"));
        }
        assert_eq!(control("a\u{7}b"), Some('\u{7}'));
        assert_eq!(control("a\tb\n"), None, "a tab and a line end have findings of their own");
        assert!(control("a\u{85}b").is_some());
    }

    #[test]
    fn text_encoded_twice_is_put_back() {
        let twice = |text: &str| {
            encoding_rs::WINDOWS_1252.decode_without_bom_handling(text.as_bytes()).0.into_owned()
        };
        for text in ["café", "Ågård – 5 €", "naïve “quoted” text", "über"] {
            assert_eq!(before_double_encoding(&twice(text)).as_deref(), Some(text));
            assert_eq!(before_double_encoding(text), None, "{text}");
        }
        for text in ["SÃO", "Ã", "ÄÖÜ", "Москва", "№ 5", "«Â»"] {
            assert_eq!(before_double_encoding(text), None, "{text}");
        }
    }
}
