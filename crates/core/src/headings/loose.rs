//! How headings are compared.

use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;

/// A heading with everything taken off that does not count: Unicode form (NFKC), case, spaces, underscores,
/// hyphens, punctuation, camel case, invisible characters. Letters, marks and digits stay; accents count.
#[must_use]
pub fn loose(heading: &str) -> String {
    if heading.is_ascii() {
        let letters = heading.bytes().filter(u8::is_ascii_alphanumeric);
        return letters.map(|byte| char::from(byte.to_ascii_lowercase())).collect();
    }
    let composed: String = heading.nfkc().collect();
    let folded = caseless::default_case_fold_str(&composed);
    folded.nfkc().filter(|c| (c.is_alphanumeric() || is_combining_mark(*c)) && !is_selector(*c)).collect()
}

/// Marks without a look of their own: variation selectors, the grapheme joiner.
fn is_selector(c: char) -> bool {
    matches!(c, '\u{34F}' | '\u{180B}'..='\u{180F}' | '\u{FE00}'..='\u{FE0F}' | '\u{E0100}'..='\u{E01EF}')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_does_not_count_is_taken_off() {
        for heading in [
            "tag_no",
            "Tag No",
            "TAG-NO.",
            "tagNo",
            " tag\u{200B}no\u{FEFF}",
            "Tag\u{A0}(No)",
            "ＴＡＧ　ＮＯ",
        ] {
            assert_eq!(loose(heading), "tagno", "{heading}");
        }
        assert_eq!(loose("Canopy (m²)"), loose("canopy_m2"));
        assert_eq!(loose("Stra\u{DF}e"), loose("STRASSE"));
        assert_eq!(loose("e\u{301}tat"), loose("état"));
        assert_ne!(loose("état"), loose("etat"));
        assert_eq!(loose("№ ‰ -"), "no");
        assert_eq!(loose("?!"), "");
    }
}
