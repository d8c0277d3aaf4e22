//! The marks inside numbers: which one begins the decimals, which one parts thousands.

use super::number::Number;
use std::borrow::Cow;

/// What stands between the thousands of a number.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Group {
    /// Nothing.
    #[default]
    None,
    /// Any space that is used so.
    Space,
    /// Either apostrophe.
    Apostrophe,
    /// This character.
    Mark(char),
}

impl Group {
    /// What can only part thousands, whatever begins the decimals: spaces (ISO 80000-1, 7.3.1) and apostrophes.
    pub const UNMISTAKABLE: [Self; 2] = [Self::Space, Self::Apostrophe];

    pub(crate) fn takes(self, c: char) -> bool {
        match self {
            Self::None => false,
            Self::Space => matches!(c, ' ' | '\u{A0}' | '\u{2009}' | '\u{202F}' | '\u{2007}'),
            Self::Apostrophe => matches!(c, '\'' | '\u{2019}'),
            Self::Mark(mark) => c == mark,
        }
    }
}

/// How numbers are written, where that is stated.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Marks {
    /// What begins the decimals.
    pub decimal: char,
    /// What parts the thousands.
    pub group: Group,
}

impl Default for Marks {
    fn default() -> Self {
        Self { decimal: '.', group: Group::None }
    }
}

impl Marks {
    /// A point before the decimals, commas between the thousands.
    pub const POINT: Self = Self { decimal: '.', group: Group::Mark(',') };
    /// The other way round.
    pub const COMMA: Self = Self { decimal: ',', group: Group::Mark('.') };

    /// The same number with a point and without grouping; nothing when the marks do not stand as they must. Signs
    /// stay where they are.
    #[must_use]
    pub fn plain<'a>(&self, text: &'a str) -> Option<Cow<'a, str>> {
        if *self == Self::default() || text.bytes().all(|byte| byte.is_ascii_digit()) {
            return Some(Cow::Borrowed(text));
        }
        let is_sign = |c: char| matches!(c, '(' | ')' | '+' | '-' | '\u{2212}');
        let body = text.trim_matches(is_sign);
        let at = text.find(body)?;
        let (whole, part) = match body.split_once(self.decimal) {
            Some((whole, part)) => (whole, Some(part)),
            None => (body, None),
        };
        let digits = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
        if !part.is_none_or(digits) {
            return None;
        }
        let mut plain = text.get(..at)?.to_owned();
        let mut groups = whole.split(|c| self.group.takes(c));
        let first = groups.next().unwrap_or_default();
        let rest: Vec<&str> = groups.collect();
        if !digits(first) || !rest.iter().all(|group| digits(group)) {
            return None;
        }
        if let Some((last, inner)) = rest.split_last() {
            // Thousands, or as in India, with commas, hundreds of thousands.
            let is_indian = self.group == Group::Mark(',');
            // No thousands begin with a nought.
            let fits = (1..=3).contains(&first.len())
                && !first.starts_with('0')
                && last.len() == 3
                && inner.iter().all(|group| group.len() == 3 || is_indian && group.len() == 2);
            if !fits {
                return None;
            }
        }
        plain.push_str(first);
        rest.iter().for_each(|group| plain.push_str(group));
        if let Some(part) = part {
            plain.push('.');
            plain.push_str(part);
        }
        plain.push_str(text.get(at + body.len()..)?);
        Some(Cow::Owned(plain))
    }

    /// The same, where the thousands may also be parted by what can only part them.
    #[must_use]
    pub fn plain_by_any<'a>(&self, text: &'a str) -> Option<Cow<'a, str>> {
        self.plain(text).or_else(|| self.plain_apart(text))
    }

    /// The same, where the thousands are parted by what can only part them, in place of the group mark.
    #[must_use]
    pub fn plain_apart<'a>(&self, text: &'a str) -> Option<Cow<'a, str>> {
        let groups = Group::UNMISTAKABLE.into_iter().filter(|group| text.contains(|c| group.takes(c)));
        groups.map(|group| Self { group, ..*self }).find_map(|marks| marks.plain(text))
    }

    /// The marks the other way round, under which a text may read well.
    #[must_use]
    pub fn turned(&self) -> Self {
        let decimal = if self.decimal == ',' { '.' } else { ',' };
        let group = match self.group {
            Group::Mark(_) => Group::Mark(self.decimal),
            other => other,
        };
        Self { decimal, group }
    }
}

/// What stands behind a number, if that is no longer than a unit; the number has a point or a comma before its decimals, and
/// anything common between its thousands.
#[must_use]
pub fn unit_behind(text: &str) -> Option<&str> {
    let end = text.rfind(|c: char| c.is_ascii_digit())? + 1;
    let (number, unit) = text.split_at(end);
    let unit = unit.trim();
    let is_unit = (1..=8).contains(&unit.chars().count()) && !unit.chars().any(char::is_control);
    (is_unit && is_number_somehow(number.trim())).then_some(unit)
}

/// Whether a text is a number with a point or a comma before its decimals and anything common between its thousands.
#[must_use]
pub fn is_number_somehow(text: &str) -> bool {
    let is_read = |marks: Marks| {
        let plain = marks.plain_by_any(text);
        plain.is_some_and(|plain| Number::decimal(&plain).is_some())
    };
    is_read(Marks::POINT) || is_read(Marks::COMMA)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn marks_are_read_where_they_may_stand() {
        let comma = Marks { decimal: ',', group: Group::Mark('.') };
        let space = Marks { decimal: ',', group: Group::Space };
        let swiss = Marks { decimal: '.', group: Group::Apostrophe };
        for (marks, text, wanted) in [
            (comma, "1.234,5", Some("1234.5")),
            (comma, "-1.234", Some("-1234")),
            (comma, "(12,50)", Some("(12.50)")),
            (comma, "12.5", None),
            (comma, "1234.567,0", None),
            (comma, "1.23.456", None),
            (Marks { decimal: '.', group: Group::Mark(',') }, "12,34,567.8", Some("1234567.8")),
            (space, "1\u{202F}234\u{A0}567,25-", Some("1234567.25-")),
            (swiss, "12\u{2019}345.6", Some("12345.6")),
            (Marks { decimal: ',', group: Group::None }, "1,234,5", None),
            (Marks::default(), "12.5", Some("12.5")),
        ] {
            assert_eq!(marks.plain(text).as_deref(), wanted, "{text}");
        }
    }

    proptest! {
        #[test]
        fn no_text_makes_the_reader_panic_and_numbers_come_back(text in "[-+()0-9., '\u{2212}\u{A0}é]{0,14}", n in 0_u32..100_000_000) {
            for group in [Group::None, Group::Space, Group::Apostrophe, Group::Mark('.')] {
                let marks = Marks { decimal: ',', group };
                let _ = (marks.plain(&text), marks.turned().plain(&text));
                let written = format!("{},{:02}", n / 100, n % 100);
                let plain = marks.plain(&written).unwrap();
                let read = Number::decimal(&plain).unwrap().to_string();
                prop_assert_eq!(read, Number::decimal(&format!("{}.{:02}", n / 100, n % 100)).unwrap().to_string());
            }
        }
    }
}
