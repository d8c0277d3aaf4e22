//! Lines of a plan, as remedies show them.

use crate::toml_text::{bare_or_quoted, quoted};

/// The lines of one table, whose name has these parts; keys are the sender's own words.
pub(super) fn table(name: &[&str], entries: &[(String, String)]) -> String {
    let name: Vec<String> = name.iter().map(|part| bare_or_quoted(part)).collect();
    let lines = entries.iter().map(|(key, value)| format!("{key} = {value}\n"));
    format!("[{}]\n{}", name.join("."), lines.collect::<String>())
}

/// What a word becomes: yes and no stand as such.
pub(super) fn word(to: &str) -> String {
    if matches!(to, "true" | "false") { to.to_owned() } else { quoted(to) }
}

/// A list of texts.
pub(super) fn texts<'a>(texts: impl IntoIterator<Item = &'a str>) -> String {
    format!("[{}]", texts.into_iter().map(quoted).collect::<Vec<_>>().join(", "))
}
