//! Texts and names as TOML writes them.

/// A text on one line, in double quotes (TOML 1.0, "String").
pub(crate) fn quoted(text: &str) -> String {
    let mut quoted = String::from("\"");
    for c in text.chars() {
        match c {
            '"' | '\\' => quoted.extend(['\\', c]),
            c if c.is_control() => quoted.push_str(&format!("\\u{:04X}", u32::from(c))),
            c => quoted.push(c),
        }
    }
    quoted.push('"');
    quoted
}

/// A key: as it stands where it may (TOML 1.0, "Keys"), else in quotes.
pub(crate) fn bare_or_quoted(name: &str) -> String {
    let is_bare = |c: char| c.is_ascii_alphanumeric() || c == '-' || c == '_';
    if !name.is_empty() && name.chars().all(is_bare) { name.to_owned() } else { quoted(name) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_come_back_as_they_were() {
        for text in ["", "Silver brich", "a \"b\" \\c", "tab\tline\nend\u{7f}", "日本", "\u{1F333}"] {
            let document: toml_edit::DocumentMut =
                format!("{} = {}", quoted(text), quoted(text)).parse().unwrap();
            assert_eq!(document.get(text).and_then(|value| value.as_str()), Some(text));
        }
        assert_eq!(
            (bare_or_quoted("tag_no"), bare_or_quoted("Tag no")),
            ("tag_no".to_owned(), "\"Tag no\"".to_owned())
        );
    }
}
