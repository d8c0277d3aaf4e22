//! Numbers with something before or behind them: a currency, a percent sign, a unit.

use super::marks::{is_number_somehow, unit_behind};
use iso_currency::{Currency, IntoEnumIterator as _};

/// What stands before or behind a number.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AroundNumber {
    /// The sign, the code or the unit.
    pub mark: String,
    /// Whether it stands before the number.
    pub is_before: bool,
}

impl AroundNumber {
    /// What stands around the number of a text; nothing where it is no number, or nothing does.
    #[must_use]
    pub fn of(text: &str) -> Option<Self> {
        if let Some(unit) = unit_behind(text) {
            return Some(Self { mark: unit.to_owned(), is_before: false });
        }
        // Codes and the names of things have something before their digits, too.
        let (mark, number) = text.split_at(text.find(|c: char| c.is_ascii_digit())?);
        let mark = mark.trim();
        (is_currency(mark) && is_number_somehow(number))
            .then(|| Self { mark: mark.to_owned(), is_before: true })
    }

    /// The number of a text around which the same stands.
    #[must_use]
    pub fn number<'a>(&self, text: &'a str) -> Option<&'a str> {
        let number = match self.is_before {
            true => text.strip_prefix(self.mark.as_str()),
            false => text.strip_suffix(self.mark.as_str()),
        };
        number.map(str::trim)
    }

    /// Whether it is a currency.
    #[must_use]
    pub fn is_currency(&self) -> bool {
        self.is_before || is_currency(&self.mark)
    }
}

/// Whether a mark is one of a currency: its code of ISO 4217, or its sign where that is no bare letters.
fn is_currency(mark: &str) -> bool {
    let is_sign = || {
        let is_bare = mark.bytes().all(|byte| byte.is_ascii_alphabetic());
        !is_bare && Currency::iter().any(|currency| currency.symbol().symbol == mark)
    };
    Currency::from_code(mark).is_some() || is_sign()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_mark_of_a_number_is_told_from_a_code() {
        for (text, wanted) in [
            ("12 %", Some(("%", false, "12"))),
            ("-3,5%", Some(("%", false, "-3,5"))),
            ("€ 1 234,50", Some(("€", true, "1 234,50"))),
            ("CHF 1'000.00", Some(("CHF", true, "1'000.00"))),
            ("12,50 zł", Some(("zł", false, "12,50"))),
            ("18.4 cm", Some(("cm", false, "18.4"))),
            ("HT-0042", None),
            ("W07", None),
            ("TAG001", None),
            ("Room 7 b", None),
            ("No. 7", None),
            ("12", None),
            ("tall", None),
        ] {
            let found = AroundNumber::of(text);
            let parts = found
                .as_ref()
                .map(|around| (around.mark.as_str(), around.is_before, around.number(text).unwrap()));
            assert_eq!(parts, wanted, "{text}");
        }
    }
}
