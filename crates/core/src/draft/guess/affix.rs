//! Numbers with something before or behind them, which are drafted as the texts that they are: how they would be read.

use crate::draft::sample::Column;
use crate::profile::Class;
use crate::value::is_number_somehow;

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
    const LONGEST: usize = 8;
    let is_digit = |c: char| c.is_ascii_digit();
    let (first, last) = (text.find(is_digit)?, text.rfind(is_digit)? + 1);
    let (before, behind) = (text.get(..first)?.trim(), text.get(last..)?.trim());
    let (mark, number, is_before) = match (before, behind) {
        ("" | "-" | "+", behind) => (behind, text.get(..last)?, false),
        (before, "") => (before, text.get(first..)?, true),
        _ => return None,
    };
    let is_mark = (1..=LONGEST).contains(&mark.chars().count()) && !mark.contains(char::is_control);
    // Codes and the names of things have something before their digits, too.
    let is_sure = !is_before || is_currency(mark);
    (is_mark && is_sure && is_number_somehow(number.trim())).then_some((mark, is_before))
}

/// Whether a mark is one of a currency: a sign, or a code of ISO 4217.
fn is_currency(mark: &str) -> bool {
    let is_sign =
        |c: char| matches!(c, '$' | '£' | '¥' | '€' | '₹' | '₽' | '₺' | '₴' | '₩' | '₪' | '₫' | '₱' | '₦');
    mark.contains(is_sign) || iso_currency::Currency::from_code(mark).is_some()
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
