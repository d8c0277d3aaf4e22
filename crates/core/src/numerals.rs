//! Counts as people read them.

/// How many of something.
pub(crate) fn counted(count: u64, one: &str, several: &str) -> String {
    format!("{} {}", grouped(count), if count == 1 { one } else { several })
}

/// A whole number with commas between its thousands.
///
/// ```
/// use tidy_gate_core::numerals::grouped;
/// assert_eq!(grouped(1_048_576), "1,048,576");
/// ```
#[must_use]
pub fn grouped(number: u64) -> String {
    group_digits(&number.to_string())
}

/// A plain decimal with commas between the thousands before its point.
pub(crate) fn group_digits(number: &str) -> String {
    let (sign, digits) = number.strip_prefix('-').map_or(("", number), |rest| ("-", rest));
    let (whole, part) = digits.split_once('.').map_or((digits, None), |(whole, part)| (whole, Some(part)));
    let mut grouped = String::new();
    for (i, digit) in whole.chars().enumerate() {
        if i > 0 && (whole.len() - i).is_multiple_of(3) {
            grouped.push(',');
        }
        grouped.push(digit);
    }
    let part = part.map(|part| format!(".{part}")).unwrap_or_default();
    format!("{sign}{grouped}{part}")
}
