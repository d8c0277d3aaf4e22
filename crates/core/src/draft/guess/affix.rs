//! Numbers with something before or behind them, which are drafted as the texts that they are: how they would be read.

use crate::draft::sample::Column;
use crate::profile::Class;
use crate::value::{is_number_somehow, unit_behind};
use iso_currency::{Currency, IntoEnumIterator as _};

/// What is said of a column of texts that look like numbers with the same mark; nothing where they do not.
pub(super) fn said(column: &Column) -> Option<String> {
    let classes = column.classes();
    let [(Class::Text, seen)] = classes.as_slice() else { return None };
    let (mark, is_before) = mark_of(&seen.first.1)?;
    if [&seen.lowest, &seen.highest].into_iter().any(|text| mark_of(text) != Some((mark, is_before))) {
        return None;
    }
    let key = match mark {
        "%" if !is_before => "percent = true".to_owned(),
        _ if is_before || is_currency(mark) => format!("currency = [{mark:?}]"),
        _ => format!("unit = {mark:?}"),
    };
    let place = if is_before { "before" } else { "behind" };
    Some(format!(
        "LOOK: they look like numbers with \"{mark}\" {place} them: kind = \"decimal\" and {key} say so"
    ))
}

/// The mark of a number, and whether it stands before it.
fn mark_of(text: &str) -> Option<(&str, bool)> {
    if let Some(unit) = unit_behind(text) {
        return Some((unit, false));
    }
    // Codes and the names of things have something before their digits, too.
    let (mark, number) = text.split_at(text.find(|c: char| c.is_ascii_digit())?);
    let mark = mark.trim();
    (is_currency(mark) && is_number_somehow(number)).then_some((mark, true))
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
            ("12 %", Some(("%", false))),
            ("-3,5%", Some(("%", false))),
            ("€ 1 234,50", Some(("€", true))),
            ("CHF 1'000.00", Some(("CHF", true))),
            ("12,50 zł", Some(("zł", false))),
            ("18.4 cm", Some(("cm", false))),
            ("HT-0042", None),
            ("W07", None),
            ("TAG001", None),
            ("Room 7 b", None),
            ("No. 7", None),
            ("12", None),
            ("tall", None),
        ] {
            assert_eq!(mark_of(text), wanted, "{text}");
        }
    }
}
