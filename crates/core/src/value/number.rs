//! Numbers as texts write them, kept digit by digit: nothing is rounded, whatever the length.

use std::borrow::Cow;
use std::cmp::Ordering;

/// A number: a sign, the digits before the point without leading zeros, those after it without trailing ones.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Number<'a> {
    negative: bool,
    whole: Cow<'a, str>,
    part: Cow<'a, str>,
}

impl<'a> Number<'a> {
    /// Reads a whole number: digits with a sign, in any of the forms of [`Number::decimal`].
    #[must_use]
    pub fn integer(text: &'a str) -> Option<Self> {
        let (negative, digits) = unsigned(text)?;
        (!digits.is_empty() && digits.bytes().all(|b| b.is_ascii_digit()))
            .then(|| Self::of(negative, digits, ""))
    }

    /// Reads a number with `.` as decimal point. A plus, a minus before or behind, and accountants'
    /// parentheses are signs.
    ///
    /// ```
    /// use tidy_gate_core::value::Number;
    /// assert_eq!(Number::decimal("12.50"), Number::decimal("12.5"));
    /// assert!(Number::decimal("12cm").is_none());
    /// ```
    #[must_use]
    pub fn decimal(text: &'a str) -> Option<Self> {
        let (negative, digits) = unsigned(text)?;
        let (whole, part) = digits.split_once('.').unwrap_or((digits, ""));
        let digits_alone = |text: &str| text.bytes().all(|b| b.is_ascii_digit());
        (whole.len() + part.len() > 0 && digits_alone(whole) && digits_alone(part))
            .then(|| Self::of(negative, whole, part))
    }

    /// Whether the text is a number as it is written here: digits without a sign but a minus, without zeros that
    /// carry nothing, with a digit before the point.
    #[must_use]
    pub fn is_standard(text: &[u8]) -> bool {
        let digits = text.strip_prefix(b"-").unwrap_or(text);
        let (mut point, mut count) = (None, 0);
        for &byte in digits {
            match byte {
                b'0'..=b'9' => {}
                b'.' if point.is_none() => point = Some(count),
                _ => return false,
            }
            count += 1;
        }
        let whole = point.unwrap_or(count);
        let ends_well = point.is_none_or(|point| point + 1 < count && !digits.ends_with(b"0"));
        whole > 0 && (whole == 1 || !digits.starts_with(b"0")) && ends_well && text != b"-0"
    }

    /// The shortest decimal text that gives this binary number (never an exponent).
    #[must_use]
    pub fn from_f64(value: f64) -> Option<Number<'static>> {
        if !value.is_finite() {
            return None;
        }
        let text = value.to_string();
        Number::decimal(&text).map(Number::into_owned)
    }

    fn of(negative: bool, whole: &'a str, part: &'a str) -> Self {
        let (whole, part) = (whole.trim_start_matches('0'), part.trim_end_matches('0'));
        let is_zero = whole.is_empty() && part.is_empty();
        Self { negative: negative && !is_zero, whole: Cow::Borrowed(whole), part: Cow::Borrowed(part) }
    }

    /// The same, independent of the text it was read from.
    #[must_use]
    pub fn into_owned(self) -> Number<'static> {
        Number {
            negative: self.negative,
            whole: Cow::Owned(self.whole.into_owned()),
            part: Cow::Owned(self.part.into_owned()),
        }
    }

    /// Digits before and after the point; zeros that carry nothing do not count.
    #[must_use]
    pub fn digits(&self) -> (usize, usize) {
        (self.whole.len(), self.part.len())
    }

    /// Whether it is below nought.
    #[must_use]
    pub fn is_negative(&self) -> bool {
        self.negative
    }

    fn magnitude(&self, other: &Self) -> Ordering {
        let lengths = self.whole.len().cmp(&other.whole.len());
        lengths.then_with(|| self.whole.cmp(&other.whole)).then_with(|| self.part.cmp(&other.part))
    }
}

/// Takes the sign off: `-5`, `+5`, `5-`, `(5)`, and the minus sign U+2212.
fn unsigned(text: &str) -> Option<(bool, &str)> {
    if let Some(inner) = text.strip_prefix('(') {
        return Some((true, inner.strip_suffix(')')?));
    }
    let minus = ['-', '\u{2212}'];
    if let Some(rest) = text.strip_prefix(minus).or_else(|| text.strip_suffix(minus)) {
        return Some((true, rest));
    }
    Some((false, text.strip_prefix('+').unwrap_or(text)))
}

impl Ord for Number<'_> {
    fn cmp(&self, other: &Self) -> Ordering {
        match (self.negative, other.negative) {
            (false, true) => Ordering::Greater,
            (true, false) => Ordering::Less,
            (false, false) => self.magnitude(other),
            (true, true) => other.magnitude(self),
        }
    }
}

impl PartialOrd for Number<'_> {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

/// The plain decimal form: no plus, no zeros that carry nothing, a digit before the point.
impl std::fmt::Display for Number<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let sign = if self.negative { "-" } else { "" };
        let whole = if self.whole.is_empty() { "0" } else { &self.whole };
        let point = if self.part.is_empty() { "" } else { "." };
        write!(f, "{sign}{whole}{point}{}", self.part)
    }
}

/// Whether the only mark of a number stands where one between thousands does: then it may be that as well.
#[must_use]
pub fn may_be_thousands(text: &str) -> bool {
    let text = text.strip_prefix('-').unwrap_or(text);
    let is_digits = |part: &str| !part.is_empty() && part.bytes().all(|byte| byte.is_ascii_digit());
    text.split_once([',', '.']).is_some_and(|(before, after)| {
        is_digits(before) && before.len() <= 3 && is_digits(after) && after.len() == 3
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn numbers_are_read_as_people_write_them() {
        for (text, integer, decimal) in [
            ("007", Some("7"), Some("7")),
            ("+5", Some("5"), Some("5")),
            ("5-", Some("-5"), Some("-5")),
            ("(12)", Some("-12"), Some("-12")),
            ("\u{2212}3", Some("-3"), Some("-3")),
            ("-0", Some("0"), Some("0")),
            ("4.0", None, Some("4")),
            (".50", None, Some("0.5")),
            ("12.", None, Some("12")),
            ("", None, None),
            ("-", None, None),
            (".", None, None),
            ("1,5", None, None),
            ("1e3", None, None),
            ("- 5", None, None),
            ("--5", None, None),
            ("(5", None, None),
            ("(-5)", None, None),
            ("１２", None, None),
            ("NaN", None, None),
        ] {
            assert_eq!(Number::integer(text).map(|n| n.to_string()).as_deref(), integer, "{text}");
            assert_eq!(Number::decimal(text).map(|n| n.to_string()).as_deref(), decimal, "{text}");
            assert_eq!(Number::is_standard(text.as_bytes()), decimal == Some(text), "{text}");
        }
        let long = "123456789012345678901234567890123456789012345678901234567890.5";
        assert_eq!(Number::decimal(long).map(|n| n.to_string()).as_deref(), Some(long));
    }

    proptest! {
        #[test]
        fn order_and_text_agree_with_machine_numbers(a in -2_000_000_i64..2_000_000, b in -2_000_000_i64..2_000_000) {
            let text = |n: i64| format!("{}{}.{:03}", if n < 0 { "-" } else { "" }, n.abs() / 1000, n.abs() % 1000);
            let (left, right) = (text(a), text(b));
            let (left, right) = (Number::decimal(&left).unwrap(), Number::decimal(&right).unwrap());
            prop_assert_eq!(left.cmp(&right), a.cmp(&b));
            let again = left.to_string();
            prop_assert!(Number::is_standard(again.as_bytes()));
            prop_assert_eq!(Number::decimal(&again), Some(left));
        }

        #[test]
        fn no_text_makes_a_reader_panic(text in "\\PC{0,20}|[-+(). 0-9−]{0,12}") {
            let _ = (Number::integer(&text), Number::decimal(&text));
        }
    }
}
