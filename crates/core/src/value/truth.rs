//! Boolean words.

/// The words for yes, in lower case.
pub const YES: [&str; 4] = ["true", "yes", "y", "1"];
/// The words for no, in lower case.
pub const NO: [&str; 4] = ["false", "no", "n", "0"];

/// Reads a boolean word, in any case.
#[must_use]
pub fn read(text: &str) -> Option<bool> {
    let among = |words: &[&str]| words.iter().any(|word| word.eq_ignore_ascii_case(text));
    if among(&YES) {
        Some(true)
    } else if among(&NO) {
        Some(false)
    } else {
        None
    }
}

/// The target's form.
#[must_use]
pub const fn written(value: bool) -> &'static str {
    if value { "true" } else { "false" }
}
