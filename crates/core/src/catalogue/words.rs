//! The words of reports, and what is meant by them.

/// A word of reports.
#[derive(Debug, Clone, Copy)]
pub struct Word {
    /// The word.
    pub name: &'static str,
    /// What it means, in one line.
    pub title: &'static str,
    /// What hangs on it.
    pub more: &'static str,
    /// A command that shows it, on the demo data.
    pub example: &'static str,
}

/// All words, in their order.
pub const WORDS: &[Word] = &[
    word(
        "cause",
        "one explanation that covers many findings",
        "A cause names the one thing that removes its findings: lines for the plan, something that mend does, rows to delete, or a sentence for the sender. A finding belongs to one cause at most.",
        "tidy-gate check ward-7-survey.csv --record tree.record.toml",
    ),
    word(
        "effects",
        "what loading the ready rows would do to the records that are there",
        "Records added, changed and left as they are; of each field how many values are filled, overwritten and emptied. Values are compared in standard form: 12.50 is 12.5.",
        "tidy-gate effects ward-3-survey.csv --record tree.record.toml --mode both --existing registry.db#tree",
    ),
    word(
        "fingerprint",
        "eight bytes that stand for a finding or a row, and show nothing of it",
        "Made of the code, the field or rule, and the key of the row, or of its sound cells where it has none, with a salt that is carried on from report to report. By them a later report follows findings beyond those that it lists. Whoever has the report and guesses a key can test the guess: treat a report of sensitive keys like its file.",
        "tidy-gate check ward-7-survey.csv --record tree.record.toml --report first.json",
    ),
    word(
        "gone",
        "held in the round before, and no longer in the file",
        "The findings of such a row are settled. A row is followed by its key, and by its sound cells where it has none or where the key itself had a finding.",
        "tidy-gate check ward-7-answer.xlsx --plan ward-7-words.plan.toml --since ward-7-second.json",
    ),
    word(
        "held",
        "a row with a stop",
        "Held rows are not handed over. They go back with their reasons: --held writes them as they came, --marked marks them in the sender's own workbook.",
        "tidy-gate check ward-7-survey.csv --record tree.record.toml --held held.csv",
    ),
    word(
        "left-out",
        "a row that is no record, or that the plan passes over",
        "Titles, units, totals, notes below the table, repeats that the plan drops. They are always counted and said.",
        "tidy-gate check ward-7-survey.csv --record tree.record.toml",
    ),
    word(
        "new",
        "not there in the round before",
        "A finding that the earlier report did not have, or a row that is held now and was not. A rule that was added meanwhile makes new findings, too: what changed is told first.",
        "tidy-gate check ward-7-mended.csv --plan ward-7-words.plan.toml --since ward-7-first.json",
    ),
    word(
        "open",
        "still there since the round before; or, of the gate: the file may be loaded",
        "An open finding is the same code at the same field, or of the same rule, in the same row, wherever that stands now.",
        "tidy-gate check ward-7-mended.csv --plan ward-7-words.plan.toml --since ward-7-first.json",
    ),
    word(
        "ready",
        "a row without a stop",
        "Ready rows are written in the target's own form: its names, codes, dates and numbers. Load them, and not the file, where the verdict says so.",
        "tidy-gate check ward-7-survey.csv --record tree.record.toml --ready ready.csv",
    ),
    word(
        "receipt",
        "a small file that says which bytes passed, and what they were judged by",
        "It holds the size and the SHA-256 of the input, the ready rows, the record schema, its lists and the plan, and hashes over the keys of existing records and references. A signature says who vouches for it. Without one it shows accidents, and not intent.",
        "tidy-gate receipt ward-7-ready.csv --with ward-7-receipt.json",
    ),
    word(
        "released",
        "ready rows that were handed over in an earlier round",
        "They count as there, for keys, unique combinations and references, so that a mended row takes nothing that they have taken.",
        "tidy-gate check ward-3-second-round.csv --record tree.record.toml --existing registry.db#tree --released ward-3-ready.csv",
    ),
    word(
        "round",
        "a file that comes back after mending",
        "--report FILE.json keeps what was found, --since FILE.json says in the next round what of it is settled, still open, new or gone. What changed in the record schema, the plan and the columns is told first.",
        "tidy-gate check ward-7-mended.csv --plan ward-7-words.plan.toml --since ward-7-first.json",
    ),
    word(
        "seal",
        "the SHA-256 of a receipt over itself",
        "It is taken of the canonical form (RFC 8785), without the seal and the signature. A receipt that was changed shows it, unless somebody sealed it anew: that only a signature shows.",
        "tidy-gate receipt ward-7-ready.csv --with ward-7-receipt.json",
    ),
    word(
        "settled",
        "there in the round before, and no more",
        "A finding whose cell was put right, whose row is gone, or which nothing asks for any more. A settled row was held and is ready now.",
        "tidy-gate check ward-7-mended.csv --plan ward-7-words.plan.toml --since ward-7-first.json",
    ),
];

const fn word(name: &'static str, title: &'static str, more: &'static str, example: &'static str) -> Word {
    Word { name, title, more, example }
}
