//! What the names of types mean: those of SQL, of programs and of people who write dictionaries.

use super::model::DraftField;
use crate::schema::raw::KindName;

/// What a type says.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct Typed {
    pub(super) kind: Option<KindName>,
    /// The numbers in its brackets.
    pub(super) sizes: Vec<u32>,
    /// What else stands in brackets.
    pub(super) inner: Option<String>,
    pub(super) many: bool,
    pub(super) percent: bool,
}

/// What a type says; nothing of its kind where it is not understood.
pub(super) fn read(text: &str) -> Typed {
    let lower = text.to_lowercase();
    let (outside, inside) = match (lower.find('('), lower.rfind(')')) {
        (Some(open), Some(close)) if open < close => (
            format!(
                "{} {}",
                lower.get(..open).unwrap_or_default(),
                lower.get(close + 1..).unwrap_or_default()
            ),
            text.get(open + 1..close).map(str::trim).map(ToOwned::to_owned),
        ),
        _ => (lower.clone(), None),
    };
    let words: Vec<&str> =
        outside.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
    let joined = format!(" {} ", words.join(" "));
    let holds = |word: &str| joined.contains(&format!(" {word} ")) || joined.contains(&format!(" {word}s "));
    let words_of = |kind: KindName| kind.facts().words.iter().map(move |word| (*word, kind));
    let all = KindName::by_words().flat_map(words_of);
    let known = all.filter(|(word, _)| holds(word)).max_by_key(|(word, _)| word.len()).map(|word| word.1);
    // `nvarchar2` and others of the kind.
    let by_part = || {
        let parts = [("char", KindName::Text), ("clob", KindName::Text), ("datetime", KindName::Datetime)];
        parts.into_iter().find(|(part, _)| joined.contains(part)).map(|(_, kind)| kind)
    };
    let source = inside.as_deref().unwrap_or_default();
    let mut sizes = numbers(source);
    if sizes.is_empty() && source.is_empty() {
        // `decimal 8,2`
        sizes = numbers(&outside);
    }
    let has_brackets = !source.is_empty();
    let many = ["several", "multi", "multiple", "multiselect", "array", "set"];
    let is_many = words.iter().any(|word| many.contains(word)) || source.eq_ignore_ascii_case("several");
    let percent = words.iter().any(|word| word.starts_with("percent"));
    let inner = inside.filter(|inner| !inner.is_empty() && numbers(inner).is_empty() && !is_many);
    let kind =
        known.or_else(by_part).or((is_many && joined.contains("select")).then_some(KindName::Picklist));
    // A number without decimals is whole.
    let kind = match (kind, sizes.as_slice()) {
        (Some(KindName::Decimal), [_, 0]) => Some(KindName::Integer),
        // ISO/IEC 9075-2, 6.1: a scale that is not given is nought.
        (Some(KindName::Decimal), [_])
            if words.first().is_some_and(|word| ["dec", "decimal", "numeric", "number"].contains(word))
                && has_brackets =>
        {
            Some(KindName::Integer)
        }
        (kind, _) => kind,
    };
    Typed { kind, sizes, inner, many: is_many, percent }
}

fn numbers(text: &str) -> Vec<u32> {
    text.split(|c: char| !c.is_ascii_digit()).filter_map(|part| part.parse().ok()).collect()
}

impl Typed {
    /// Takes over what the type says of lengths and digits.
    pub(super) fn apply(&self, field: &mut DraftField) {
        match (field.kind, self.sizes.as_slice()) {
            (KindName::Decimal, [all, after, ..]) => {
                field.digits = (Some(all.saturating_sub(*after)), Some(*after));
            }
            (KindName::Text | KindName::Email | KindName::Url, [max]) if *max > 0 => {
                field.length.1 = Some(*max);
            }
            (KindName::Text, [min, max]) if min <= max => field.length = (Some(*min), Some(*max)),
            _ => {}
        }
        if self.percent {
            field.remarks.push("a percentage: add `percent = true` if files write 12.5 %".to_owned());
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_of_types_are_understood() {
        for (text, kind, sizes) in [
            ("VARCHAR(50)", Some(KindName::Text), vec![50]),
            ("nvarchar2(20)", Some(KindName::Text), vec![20]),
            ("NUMBER(10,2)", Some(KindName::Decimal), vec![10, 2]),
            ("NUMBER(6,0)", Some(KindName::Integer), vec![6, 0]),
            ("DEC(8,2)", Some(KindName::Decimal), vec![8, 2]),
            ("DEC(8)", Some(KindName::Integer), vec![8]),
            ("CHAR(3)", Some(KindName::Text), vec![3]),
            ("CHARACTER VARYING(40)", Some(KindName::Text), vec![40]),
            ("INT", Some(KindName::Integer), vec![]),
            ("decimal 8,2", Some(KindName::Decimal), vec![8, 2]),
            ("Whole number", Some(KindName::Integer), vec![]),
            ("Date/Time", Some(KindName::Datetime), vec![]),
            ("Yes/No", Some(KindName::Boolean), vec![]),
            ("Drop-down list", Some(KindName::Picklist), vec![]),
            ("Lookup(Site)", Some(KindName::Reference), vec![]),
            ("E-mail", Some(KindName::Email), vec![]),
            ("UUID", Some(KindName::Uuid), vec![]),
            ("geometry", None, vec![]),
        ] {
            let read = read(text);
            assert_eq!((read.kind, read.sizes), (kind, sizes), "{text}");
        }
        assert_eq!(read("Lookup(Site)").inner.as_deref(), Some("Site"));
        assert!(read("Picklist (several)").many && read("multi-select").kind == Some(KindName::Picklist));
    }
}
