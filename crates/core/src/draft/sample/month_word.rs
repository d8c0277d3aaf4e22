//! The word between day and year of what looks like a day with the name of its month.

/// The word, in lower case, of a text such as `5 mars 2024`, `5. März 2024`, `5-Mai-2024` or `mars 5, 2024`.
pub(super) fn month_word(text: &str) -> Option<String> {
    const LONGEST: usize = 40;
    if text.len() > LONGEST {
        return None;
    }
    let is_mark = |c: char| matches!(c, ' ' | '.' | ',' | '-' | '\u{A0}');
    let mut parts = text.split(is_mark).filter(|part| !part.is_empty());
    let (first, second, year) = (parts.next()?, parts.next()?, parts.next()?);
    let is_day = |part: &str| part.parse::<u8>().is_ok_and(|day| (1..=31).contains(&day)) && part.len() <= 2;
    let is_word = |part: &str| part.chars().count() > 1 && !part.contains(|c: char| c.is_ascii_digit());
    let is_year = year.len() == 4 && year.bytes().all(|byte| byte.is_ascii_digit());
    let word = match (is_day(first), is_day(second)) {
        (true, false) => second,
        (false, true) => first,
        _ => return None,
    };
    (is_year && is_word(word) && parts.next().is_none()).then(|| word.to_lowercase())
}
