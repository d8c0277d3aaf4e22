//! Technical names from headings and titles.

/// A plain name: letters, digits and underscores, in lower case.
pub(super) fn plain(text: &str) -> String {
    let mut name = String::new();
    let mut before = ' ';
    for c in text.trim().chars() {
        let begins =
            before.is_lowercase() && c.is_uppercase() || before.is_alphanumeric() && !c.is_alphanumeric();
        if begins && !name.ends_with('_') {
            name.push('_');
        }
        if c.is_alphanumeric() {
            name.extend(c.to_lowercase());
        }
        before = c;
    }
    let name = name.trim_matches('_').to_owned();
    match name.chars().next() {
        None => "field".to_owned(),
        Some(first) if first.is_numeric() => format!("f_{name}"),
        Some(_) => name,
    }
}

/// The technical name of a heading: the heading itself where it is one word, as exports and prefilled files carry the
/// target's own names.
pub(super) fn of_heading(heading: &str) -> String {
    let heading = heading.trim();
    let is_word = heading.chars().all(|c| c.is_alphanumeric() || "_-.:/".contains(c))
        && heading.starts_with(char::is_alphanumeric)
        && heading.ends_with(char::is_alphanumeric);
    if is_word { heading.to_owned() } else { plain(heading) }
}

/// The name, or one like it that is not taken (compared loosely).
pub(super) fn free(name: &str, taken: &[&str]) -> String {
    let is_taken = |name: &str| {
        let loose = crate::headings::loose(name);
        taken.iter().any(|other| crate::headings::loose(other) == loose)
    };
    if !is_taken(name) {
        return name.to_owned();
    }
    (2..).map(|number| format!("{name}_{number}")).find(|name| !is_taken(name)).unwrap_or_default()
}
