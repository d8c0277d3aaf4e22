//! Days with the names of months in another language than English, which are drafted as the texts that they are: how they
//! would be read.

use super::affix::who;
use crate::draft::sample::Column;
use crate::value::MonthNames;

/// What is said of a column of texts of which so many have one of these words between day and year; nothing where no language
/// has all of them for months.
pub(super) fn said(words: &[&str], count: u64, column: &Column) -> Option<String> {
    const MOST: usize = 3;
    let languages = MonthNames::languages_of(words);
    let named: Vec<String> = languages.iter().take(MOST).map(|tag| format!("{tag:?}")).collect();
    let named = match named.as_slice() {
        [] => return None,
        [others @ .., last] if !others.is_empty() => format!("{} or {last}", others.join(", ")),
        [language, ..] => language.clone(),
    };
    let who = who(count, column.filled);
    Some(format!(
        "LOOK: {who} look like days with the name of their month: kind = \"date\", and language = {named} under [read] \
         of a plan, read them"
    ))
}
