//! Letters that are not simply shown: those that command a terminal, turn the reading direction, or are not to be seen; and
//! texts that a spreadsheet would run.

use crate::value::Number;
use std::borrow::Cow;

/// Whether a character is invisible, or changes how what stands beside it is shown (Unicode, Cf and the like).
fn is_hidden(c: char) -> bool {
    matches!(c, '\u{AD}' | '\u{61C}' | '\u{180E}' | '\u{200B}'..='\u{200F}' | '\u{2028}'..='\u{202E}'
        | '\u{2060}'..='\u{206F}' | '\u{FEFF}' | '\u{FFF9}'..='\u{FFFB}' | '\u{E0000}'..='\u{E007F}')
}

/// Whether a character is not simply shown: it commands, or is hidden.
#[must_use]
pub fn is_odd(c: char) -> bool {
    c.is_control() || is_hidden(c)
}

/// A JSON text in which characters that are not simply shown stand as escapes: the same JSON (RFC 8259, section 7).
#[must_use]
pub fn in_json(text: &str) -> Cow<'_, str> {
    // Line breaks stand between values alone.
    let is_escaped = |c: char| is_odd(c) && c != '\n';
    if !text.contains(is_escaped) {
        return Cow::Borrowed(text);
    }
    let mut safe = String::with_capacity(text.len() + 64);
    for c in text.chars() {
        if is_escaped(c) {
            let mut units = [0; 2];
            for unit in c.encode_utf16(&mut units) {
                safe.push_str(&format!("\\u{unit:04x}"));
            }
        } else {
            safe.push(c);
        }
    }
    Cow::Owned(safe)
}

/// The text with an apostrophe before it where a spreadsheet would run it.
///
/// ```
/// use tidy_gate_core::letters::harmless;
/// assert_eq!(harmless("oak"), "oak");
/// assert_eq!((harmless("=1+1"), harmless("-4.5")), ("'=1+1".into(), "-4.5".into()));
/// ```
#[must_use]
pub fn harmless(text: &str) -> Cow<'_, str> {
    let runs = match text.chars().next() {
        Some('=' | '@' | '\t' | '\r') => true,
        Some('+' | '-') => Number::decimal(text).is_none(),
        _ => false,
    };
    if runs { format!("'{text}").into() } else { text.into() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn escapes_change_no_json() {
        for text in ["plain é 日本", "a\u{9b}b\u{202e}c\u{e0041}\u{7f}\u{feff}", "", "\u{85}"] {
            let json = serde_json::to_string_pretty(&[text]).unwrap_or_default();
            let safe = in_json(&json);
            assert!(!safe.contains(|c: char| is_odd(c) && c != '\n'), "{safe}");
            assert_eq!(serde_json::from_str::<Vec<String>>(&safe).unwrap_or_default(), [text]);
        }
    }

    #[test]
    fn what_a_spreadsheet_would_run_is_made_harmless() {
        for (text, wanted) in [
            ("=1+1", "'=1+1"),
            ("@SUM(A1)", "'@SUM(A1)"),
            ("-1+cmd|' /C calc'!A0", "'-1+cmd|' /C calc'!A0"),
            ("-12.5", "-12.5"),
            ("+44 1", "'+44 1"),
            ("\t=1", "'\t=1"),
            ("plain", "plain"),
            ("", ""),
        ] {
            assert_eq!(harmless(text), wanted);
        }
    }
}
