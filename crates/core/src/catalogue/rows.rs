use super::{Code, Entry, Level, Scope};

pub(super) const ENTRIES: &[Entry] = &[Entry {
    code: Code::RowBlank,
    level: Level::Note,
    otherwise: None,
    scope: Scope::Rows,
    title: "rows without a value stand between the others",
    why: "Blank rows are no records and are in no count; some programs stop reading at the first of them.",
    remedy: "Delete them if another program reads the file; the check passes over them.",
    bad: "an empty line between two records",
    good: "(no such line)",
}];
