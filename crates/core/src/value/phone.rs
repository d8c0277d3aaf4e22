//! Phone numbers: international ones by ITU-T E.164, national ones by the numbering plan of a region.

use phonenumber::country::Id;
use std::str::FromStr;

/// A region whose national forms are read.
#[must_use]
pub fn region(code: &str) -> Option<Id> {
    Id::from_str(&code.to_uppercase()).ok()
}

/// The number as E.164 has it: a plus and up to fifteen digits; nothing when the text is none.
#[must_use]
pub fn read(text: &str, region: Option<Id>) -> Option<String> {
    let is_mark = |c: char| {
        matches!(c, ' ' | '-' | '.' | '(' | ')' | '/' | '\u{A0}' | '\u{2011}' | '\u{2013}' | '\u{202F}')
    };
    let body = text.strip_prefix('+').or_else(|| text.strip_prefix("00").filter(|_| region.is_some()));
    if !text.chars().all(|c| c.is_ascii_digit() || c == '+' || is_mark(c)) || text.len() > 40 {
        return None;
    }
    if let Some(body) = body {
        // A nought in brackets is dialled inside the country alone.
        let digits: String = body.replace("(0)", "").chars().filter(char::is_ascii_digit).collect();
        let is_number = (8..=15).contains(&digits.len()) && !digits.starts_with('0') && !body.contains('+');
        return is_number.then(|| format!("+{digits}"));
    }
    let number = phonenumber::parse(Some(region?), text).ok()?;
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
            ("+44 20 7946 0018 ext 4", None, None),
            ("+1234567890123456", None, None),
            ("phone", None, None),
        ] {
            assert_eq!(read(text, None).as_deref(), without, "{text}");
            assert_eq!(read(text, gb).as_deref(), with, "{text}");
        }
    }
}
