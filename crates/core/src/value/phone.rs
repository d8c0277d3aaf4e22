//! Phone numbers: international ones by ITU-T E.164, national ones by the numbering plan of a region.

use phonenumber::country::Id;
use phonenumber::metadata::{DATABASE, Descriptor};
use regex_automata::dfa::{Automaton, StartKind, dense};
use regex_automata::util::start;
use regex_automata::util::syntax;
use regex_automata::{Anchored, MatchKind};
use std::str::FromStr;
use std::sync::{Arc, OnceLock};

/// More digits than any number has.
const MOST_DIGITS: usize = 20;
/// So many bytes the table of a region's numbers may take.
const MOST_STATES: usize = 8 << 20;
/// A longer text is no number.
const LONGEST: usize = 40;

/// A region whose national forms are read.
#[derive(Debug, Clone)]
pub struct Region {
    id: Id,
    /// Its plain numbers, compiled when the first is read.
    plain: Arc<OnceLock<Option<Plain>>>,
}

/// The numbers of a region that need no more than their digits: a national prefix that is always the same, and then a
/// number of one of its kinds.
#[derive(Debug)]
struct Plain {
    code: u16,
    prefix: String,
    /// Other prefixes, which are the parser's.
    others: Vec<String>,
    /// The kinds, and the lengths of each; all where there are none.
    kinds: dense::DFA<Vec<u32>>,
    lengths: Vec<Vec<u16>>,
}

/// A region by its ISO 3166-1 code.
#[must_use]
pub fn region(code: &str) -> Option<Region> {
    let id = Id::from_str(&code.to_uppercase()).ok()?;
    Some(Region { id, plain: Arc::default() })
}

impl Region {
    fn plain(&self) -> Option<&Plain> {
        self.plain.get_or_init(|| Plain::of(self.id)).as_ref()
    }
}

impl Plain {
    fn of(id: Id) -> Option<Self> {
        let metadata = DATABASE.by_id(id.as_ref())?;
        let prefix = metadata.national_prefix().unwrap_or_default();
        let bare: String = metadata
            .national_prefix_for_parsing()
            .map(|pattern| pattern.as_str().chars().filter(|c| !c.is_whitespace()).collect())
            .unwrap_or_default();
        // Other prefixes, and numbers that are written anew, are left to the parser.
        let prefixes: Vec<&str> = bare.trim_matches(['^', '(', ')', '?', ':']).split('|').collect();
        let is_plain = |prefix: &&str| prefix.bytes().all(|byte| byte.is_ascii_digit());
        if !prefixes.iter().all(is_plain)
            || !prefixes.contains(&prefix)
            || metadata.national_prefix_transform_rule().is_some()
        {
            return None;
        }
        let of_region = metadata.descriptors();
        let kinds: Vec<&Descriptor> = [
            of_region.fixed_line(),
            of_region.mobile(),
            of_region.toll_free(),
            of_region.premium_rate(),
            of_region.shared_cost(),
            of_region.personal_number(),
            of_region.voip(),
            of_region.pager(),
            of_region.uan(),
        ]
        .into_iter()
        .flatten()
        .collect();
        let pattern = |kind: &&Descriptor| {
            let bare: String =
                kind.national_number().as_str().chars().filter(|c| !c.is_whitespace()).collect();
            format!("(?:{bare})$")
        };
        let patterns: Vec<_> = kinds.iter().map(pattern).collect();
        let lengths = kinds.iter().map(|kind| kind.possible_length().to_vec()).collect();
        let config = dense::Config::new()
            .start_kind(StartKind::Anchored)
            .match_kind(MatchKind::All)
            .dfa_size_limit(Some(MOST_STATES))
            .determinize_size_limit(Some(MOST_STATES));
        let ascii = syntax::Config::new().unicode(false).utf8(false);
        let kinds = dense::Builder::new().configure(config).syntax(ascii).build_many(&patterns).ok()?;
        let others = prefixes.into_iter().filter(|other| *other != prefix).map(str::to_owned).collect();
        Some(Self { code: metadata.country_code(), prefix: prefix.to_owned(), others, kinds, lengths })
    }

    /// Of digits alone those of the number, without what is dialled before it; nothing where that is not sure.
    fn number<'a>(&self, digits: &'a [u8]) -> Option<&'a [u8]> {
        if self.others.iter().any(|other| digits.starts_with(other.as_bytes())) {
            return None;
        }
        let national = digits.strip_prefix(self.prefix.as_bytes()).unwrap_or(digits);
        let start = start::Config::new().anchored(Anchored::Yes);
        let mut state = self.kinds.start_state(&start).ok()?;
        for digit in national {
            state = self.kinds.next_state(state, *digit);
        }
        let end = self.kinds.next_eoi_state(state);
        if !self.kinds.is_match_state(end) {
            return None;
        }
        let length = u16::try_from(national.len()).ok()?;
        let fits = |kind: usize| {
            let lengths = self.lengths.get(self.kinds.match_pattern(end, kind).as_usize());
            lengths.is_some_and(|lengths| lengths.is_empty() || lengths.contains(&length))
        };
        (0..self.kinds.match_len(end)).any(fits).then_some(national)
    }

    /// A number of digits alone, as E.164 has it; nothing where that is not sure.
    fn read(&self, digits: &str) -> Option<String> {
        let number = std::str::from_utf8(self.number(digits.as_bytes())?).ok()?;
        Some(format!("+{}{number}", self.code))
    }
}

/// The digits of a text that holds marks between them at most.
struct Digits {
    bytes: [u8; MOST_DIGITS],
    len: usize,
}

impl Digits {
    fn of(text: &[u8]) -> Option<Self> {
        let mut digits = Self { bytes: [0; MOST_DIGITS], len: 0 };
        for byte in text {
            match byte {
                b'0'..=b'9' => {
                    *digits.bytes.get_mut(digits.len)? = *byte;
                    digits.len += 1;
                }
                b' ' | b'-' | b'.' | b'(' | b')' | b'/' => {}
                _ => return None,
            }
        }
        Some(digits)
    }

    fn get(&self) -> &[u8] {
        self.bytes.get(..self.len).unwrap_or_default()
    }
}

/// Countries inside which a nought is dialled before a number, and never from abroad; in Italy it is part of the number.
const TRUNK: [&str; 24] = [
    "20", "27", "31", "32", "33", "353", "355", "358", "359", "36", "385", "386", "387", "389", "40", "41",
    "421", "43", "44", "46", "49", "61", "64", "90",
];

/// The code of the country whose nought stands behind it in these digits, where that is dialled inside the country alone.
fn trunk_code(digits: &[u8]) -> Option<&'static str> {
    let is_it =
        |code: &&&str| digits.strip_prefix(code.as_bytes()).is_some_and(|rest| rest.starts_with(b"0"));
    TRUNK.iter().find(is_it).copied()
}

/// The digits without the nought that is dialled inside the country alone.
fn without_trunk(digits: &str) -> String {
    let of_country = trunk_code(digits.as_bytes())
        .and_then(|code| Some((code, digits.strip_prefix(code)?.strip_prefix('0')?)));
    of_country.map_or_else(|| digits.to_owned(), |(code, rest)| format!("{code}{rest}"))
}

/// Whether digits with their country's code in front can be a number.
fn is_international(digits: &[u8]) -> bool {
    (8..=15).contains(&digits.len()) && !digits.starts_with(b"0")
}

/// Whether a text without spaces around it is plainly a number, and then whether it stands as E.164 has it; nothing where that takes a
/// closer look.
#[must_use]
pub fn plain(text: &[u8], region: Option<&Region>) -> Option<bool> {
    if text.len() > LONGEST || text.starts_with(b" ") || text.ends_with(b" ") {
        return None;
    }
    if let Some(body) = text.strip_prefix(b"+") {
        let digits = Digits::of(body)?;
        // A nought in brackets is dialled inside the country alone.
        let is_number = is_international(digits.get()) && !body.contains(&b'(');
        let has_trunk = || trunk_code(digits.get()).is_some();
        return (is_number && !has_trunk()).then_some(digits.len == body.len());
    }
    if text.starts_with(b"00") {
        return None;
    }
    region?.plain()?.number(Digits::of(text)?.get()).map(|_| false)
}

/// The number as E.164 has it: a plus and up to fifteen digits; nothing when the text is none.
#[must_use]
pub fn read(text: &str, region: Option<&Region>) -> Option<String> {
    let is_mark = |c: char| {
        matches!(c, ' ' | '-' | '.' | '(' | ')' | '/' | '\u{A0}' | '\u{2011}' | '\u{2013}' | '\u{202F}')
    };
    let body = text.strip_prefix('+').or_else(|| text.strip_prefix("00").filter(|_| region.is_some()));
    if !text.chars().all(|c| c.is_ascii_digit() || c == '+' || is_mark(c)) || text.len() > LONGEST {
        return None;
    }
    if let Some(body) = body {
        // A nought in brackets is dialled inside the country alone.
        let digits: String = body.replace("(0)", "").chars().filter(char::is_ascii_digit).collect();
        let digits = without_trunk(&digits);
        return (is_international(digits.as_bytes()) && !body.contains('+')).then(|| format!("+{digits}"));
    }
    let region = region?;
    if let Some(plain) = region.plain()
        && !text.contains('+')
    {
        let digits: String = text.chars().filter(char::is_ascii_digit).collect();
        if let Some(number) = plain.read(&digits) {
            return Some(number);
        }
    }
    by_parser(text, region.id)
}

/// The same by the whole numbering plan of the region.
fn by_parser(text: &str, region: Id) -> Option<String> {
    let number = phonenumber::parse(Some(region), text).ok()?;
    number.is_valid().then(|| number.format().mode(phonenumber::Mode::E164).to_string())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_are_read_internationally_and_by_region() {
        let gb = region("gb");
        assert!(gb.is_some() && region("XQ").is_none());
        for (text, without, with) in [
            ("+44 20 7946 0018", Some("+442079460018"), Some("+442079460018")),
            ("+44 (0)20 7946-0018", Some("+442079460018"), Some("+442079460018")),
            ("020 7946 0018", None, Some("+442079460018")),
            ("0044 20 7946 0018", None, Some("+442079460018")),
            ("7946", None, None),
            ("+0 123 456 789", None, None),
            ("+442079460018", Some("+442079460018"), Some("+442079460018")),
            ("+44 020 7946 0018", Some("+442079460018"), Some("+442079460018")),
            ("+353 0 1234567", Some("+3531234567"), Some("+3531234567")),
            ("+39 06 698 123", Some("+3906698123"), Some("+3906698123")),
            ("+1 202\u{A0}5550 143", Some("+12025550143"), Some("+12025550143")),
            ("+44 20 7946 0018 ext 4", None, None),
            ("+1234567890123456", None, None),
            ("phone", None, None),
        ] {
            assert_eq!(read(text, None).as_deref(), without, "{text}");
            assert_eq!(read(text, gb.as_ref()).as_deref(), with, "{text}");
            for region in [None, gb.as_ref()] {
                let whole = read(text, region);
                let plain = plain(text.as_bytes(), region);
                assert!(plain.is_none_or(|stands| stands == (whole.as_deref() == Some(text))), "{text}");
                assert!(plain.is_none() || whole.is_some(), "{text}");
            }
        }
    }

    #[test]
    fn plain_numbers_are_what_the_whole_plan_says() {
        let mut plain = 0;
        for code in [
            "GB", "DE", "FR", "US", "IT", "ES", "PL", "NL", "SE", "CH", "AU", "IN", "JP", "BR", "AR", "MX",
            "JE",
        ] {
            let region = region(code).unwrap();
            let metadata = DATABASE.by_id(code).unwrap();
            let kinds = metadata.descriptors();
            let examples =
                [kinds.fixed_line(), kinds.mobile(), kinds.toll_free(), kinds.uan(), Some(kinds.general())];
            for example in examples.into_iter().flatten().filter_map(Descriptor::example) {
                let prefix = metadata.national_prefix().unwrap_or_default();
                // As it is, with its prefix, with a digit more, less and changed.
                for text in [
                    example.to_owned(),
                    format!("{prefix}{example}"),
                    format!("({prefix}{}) {}", &example[..3], &example[3..]),
                    format!("{prefix}{example}7"),
                    example[1..].to_owned(),
                    format!("{prefix}{}", example.replace('1', "9")),
                ] {
                    // Two noughts call abroad, and the parser takes what begins like its country's code for that.
                    if text.starts_with("00") || text.starts_with(&metadata.country_code().to_string()) {
                        continue;
                    }
                    let whole = by_parser(&text, region.id);
                    let read = read(&text, Some(&region));
                    assert_eq!(read, whole, "{code} {text}");
                    let is_plain = super::plain(text.as_bytes(), Some(&region)).is_some();
                    assert!(!is_plain || whole.is_some(), "{code} {text}");
                    plain += usize::from(is_plain);
                }
            }
        }
        assert!(plain > 50, "{plain} numbers were read the quick way");
    }
}
