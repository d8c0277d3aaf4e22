//! All entries, and the entry of each code.

use super::code::Code;
use super::entry::{Entry, Tag};
use super::level::Level;
use super::{file, headings, keys, lines, rows, sheets, values, writing};

/// Scope by scope.
const ALL: [&[Entry]; 8] = [
    file::ENTRIES,
    sheets::ENTRIES,
    headings::ENTRIES,
    values::ENTRIES,
    writing::ENTRIES,
    rows::ENTRIES,
    keys::ENTRIES,
    lines::ENTRIES,
];

/// The entries in the order of codes. A code without an entry does not compile.
#[expect(clippy::indexing_slicing, reason = "counted up to the length, when compiled")]
static BY_CODE: [&Entry; Code::ALL.len()] = {
    let mut entries = [found(Code::BlankTail); Code::ALL.len()];
    let mut at = 0;
    while at < entries.len() {
        entries[at] = found(Code::ALL[at]);
        at += 1;
    }
    entries
};

#[expect(clippy::indexing_slicing, clippy::panic, reason = "counted up to the length, when compiled")]
const fn found(code: Code) -> &'static Entry {
    let mut scope = 0;
    while scope < ALL.len() {
        let entries = ALL[scope];
        let mut at = 0;
        while at < entries.len() {
            if entries[at].code as usize == code as usize {
                return &entries[at];
            }
            at += 1;
        }
        scope += 1;
    }
    panic!("a code has no entry")
}

/// All entries, scope by scope.
pub fn entries() -> impl Iterator<Item = &'static Entry> {
    ALL.into_iter().flatten()
}

/// The entry of a code.
///
/// ```
/// use tidy_gate_core::catalogue::{Code, Level, entry};
/// assert_eq!(entry(Code::KeyRepeated).level, Level::Stop);
/// ```
#[must_use]
pub fn entry(code: Code) -> &'static Entry {
    BY_CODE.get(code as usize).unwrap_or_else(|| unreachable!("a code is a number among all of them"))
}

impl Code {
    /// Whether something holds of it.
    #[must_use]
    pub fn is(self, tag: Tag) -> bool {
        entry(self).tags.contains(&tag)
    }
}

/// The least level that a plan may give a code.
#[must_use]
pub fn least(code: Code) -> Level {
    entry(code).least
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_code_has_one_whole_entry_and_a_well_formed_name() {
        let names: Vec<_> = Code::ALL.iter().map(|code| code.name()).collect();
        assert!(names.is_sorted(), "codes are compared by their names");
        for code in Code::ALL {
            let found: Vec<_> = entries().filter(|entry| entry.code == *code).collect();
            assert_eq!(found.len(), 1, "{code}");
            let entry = found[0];
            for text in [entry.title, entry.why, entry.remedy, entry.bad, entry.good] {
                assert!(!text.trim().is_empty(), "{code}");
            }
            assert!(
                !entry.title.ends_with('.') && entry.why.ends_with('.') && entry.remedy.ends_with('.'),
                "{code}"
            );
            assert!(code.name().bytes().all(|b| b.is_ascii_lowercase() || b == b'-'), "{code}");
            assert_eq!(code.name().parse(), Ok(*code));
        }
    }
}
