//! E-mail addresses: the dot-atom form of RFC 5322 §3.2.3 before the `@`, a host name of RFC 1123 §2.1 with
//! at least two labels behind it, the lengths of RFC 5321 §4.5.3.1. Host labels may hold letters of any
//! script (RFC 5890); the part before the `@` is ASCII, as nearly every target demands.

use thiserror::Error;

/// The longest address.
pub const LONGEST: usize = 254;

/// Why a text is no address.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum EmailFault {
    /// No `@`.
    #[error("there is no @")]
    NoAt,
    /// Several, or a list of addresses.
    #[error("there is more than one @")]
    SeveralAt,
    /// A space.
    #[error("there is a space in it")]
    Space,
    /// Nothing before the `@`, or characters that may not stand there.
    #[error("the part before the @ is not well formed")]
    Local,
    /// The part before the `@` holds letters beyond ASCII.
    #[error("the part before the @ holds letters beyond a-z")]
    LocalLetters,
    /// The host is no host name.
    #[error("the part behind the @ is not a host name")]
    Host,
    /// The host has one label only.
    #[error("the part behind the @ has no dot")]
    NoDot,
    /// Longer than permitted.
    #[error("it is longer than 254 characters")]
    TooLong,
}

/// Tells whether the text is one plain address.
///
/// # Errors
/// The first thing that is wrong with it.
pub fn judge(text: &str) -> Result<(), EmailFault> {
    let (local, host) = text.split_once('@').ok_or(EmailFault::NoAt)?;
    if text.contains(char::is_whitespace) {
        return Err(EmailFault::Space);
    }
    if host.contains('@') {
        return Err(EmailFault::SeveralAt);
    }
    if text.len() > LONGEST {
        return Err(EmailFault::TooLong);
    }
    if local.chars().any(|c| !c.is_ascii() && c.is_alphabetic()) {
        return Err(EmailFault::LocalLetters);
    }
    if local.len() > 64 || !local.split('.').all(|atom| !atom.is_empty() && atom.bytes().all(is_atom_text)) {
        return Err(EmailFault::Local);
    }
    let labels: Vec<_> = host.split('.').collect();
    if !labels.iter().all(|label| is_label(label)) {
        return Err(EmailFault::Host);
    }
    match labels.as_slice() {
        [_] => Err(EmailFault::NoDot),
        [.., top] if !is_top(top) => Err(EmailFault::Host),
        _ => Ok(()),
    }
}

/// `atext` of RFC 5322 §3.2.3.
fn is_atom_text(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || b"!#$%&'*+-/=?^_`{|}~".contains(&byte)
}

fn is_label(label: &str) -> bool {
    !label.is_empty()
        && label.len() <= 63
        && !label.starts_with('-')
        && !label.ends_with('-')
        && label.chars().all(|c| c == '-' || c.is_ascii_alphanumeric() || (!c.is_ascii() && is_word_part(c)))
}

fn is_word_part(c: char) -> bool {
    c.is_alphanumeric() || unicode_normalization::char::is_combining_mark(c)
}

/// The last label: two letters at least, or a label in its ASCII encoding (`xn--…`).
fn is_top(label: &str) -> bool {
    label.chars().count() >= 2
        && (label.starts_with("xn--") || !label.chars().any(|c| c.is_ascii_digit() || c == '-'))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_are_told_from_what_merely_looks_like_them() {
        for good in [
            "j.marsh@harrowmere.example",
            "o'neil+trees@ward-7.harrowmere.example",
            "A@b.co",
            "x_y@münster.example",
            "a@b.xn--p1ai",
            "a@1st.example",
        ] {
            assert_eq!(judge(good), Ok(()), "{good}");
        }
        for (bad, fault) in [
            ("j.marsh", EmailFault::NoAt),
            ("", EmailFault::NoAt),
            ("a@b@c.example", EmailFault::SeveralAt),
            ("a@b.example, c@d.example", EmailFault::Space),
            ("a@b.example;c@d.example", EmailFault::SeveralAt),
            ("J Marsh <a@b.example>", EmailFault::Space),
            ("@b.example", EmailFault::Local),
            (".a@b.example", EmailFault::Local),
            ("a..b@c.example", EmailFault::Local),
            ("\"a b\"@c.example", EmailFault::Space),
            ("\"ab\"@c.example", EmailFault::Local),
            ("jürgen@b.example", EmailFault::LocalLetters),
            ("a@harrowmere", EmailFault::NoDot),
            ("a@b..example", EmailFault::Host),
            ("a@-b.example", EmailFault::Host),
            ("a@b.example.", EmailFault::Host),
            ("a@[127.0.0.1]", EmailFault::Host),
            ("a@127.0.0.1", EmailFault::Host),
            ("a@b_c.example", EmailFault::Host),
            ("a@b.c", EmailFault::Host),
        ] {
            assert_eq!(judge(bad), Err(fault), "{bad}");
        }
        assert_eq!(judge(&format!("a@{}.example", "b.".repeat(130))), Err(EmailFault::TooLong));
    }
}
