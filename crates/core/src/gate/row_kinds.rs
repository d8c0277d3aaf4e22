//! Rows that are no records, or whose cells do not stand right, told by their cells.

use super::assembly::Gate;
use super::total_words::is_total_word;
use super::verdict::Verdict;
use crate::headings::loose;
use crate::rows::text_of;

/// What a row is instead of a record.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum RowKind {
    /// The headings once more.
    Headings,
    /// A total of the rows above it.
    Total,
    /// A note: one cell alone is filled.
    Note,
    /// Its cells stand one column further right than they belong.
    Shifted,
    /// It has more cells than there are columns.
    Wide,
}

/// What tells from a few bytes of a row that it is nothing but a record.
#[derive(Debug)]
pub(super) struct RowSigns {
    /// The first letter or digit of each heading, in lower case; nothing where that takes a closer look.
    firsts: Vec<Option<u8>>,
}

impl RowSigns {
    pub(super) fn of(gate: &Gate) -> Self {
        let first = |heading: &String| {
            let first = heading.chars().find(|c| c.is_alphanumeric())?;
            first.is_ascii().then(|| first.to_ascii_lowercase() as u8)
        };
        Self { firsts: gate.table().headings.iter().map(first).collect() }
    }

    /// Whether it takes a closer look ([`of`]) to say what a row is: of its raw cells, and the first column in which a
    /// finding was made, where there are several.
    pub(super) fn may_be_one<'a>(
        &self,
        gate: &Gate,
        raw: impl Fn(usize) -> &'a [u8],
        first_marked: Option<usize>,
    ) -> bool {
        // Cells that may begin with the letter of their heading; those that surely do not.
        let (mut open, mut other, mut leads) = (0, 0, None);
        let is_blank = |cell: &[u8]| {
            !cell.first().is_some_and(u8::is_ascii_alphanumeric)
                && text_of(cell, gate.table().dialect).is_ok_and(|text| text.trim().is_empty())
        };
        for at in 0..gate.width() {
            let cell = raw(at);
            if is_blank(cell) {
                continue;
            }
            match (cell.first(), self.firsts.get(at).copied().flatten()) {
                (Some(byte), Some(first))
                    if byte.is_ascii_alphanumeric() && byte.to_ascii_lowercase() != first =>
                {
                    other += 1;
                }
                _ => open += 1,
            }
            leads = leads.or(Some(cell));
        }
        let may_be_headings = open >= 2 && open * 4 >= (open + other) * 3;
        let is_word = |cell: &[u8]| {
            let text = text_of(cell, gate.table().dialect);
            text.map_or(true, |text| is_total_word(text.trim()))
        };
        let leads_total = leads.is_some_and(|cell| !cell.iter().any(u8::is_ascii_digit) && is_word(cell));
        may_be_headings
            || leads_total
            || open + other <= 1
            || first_marked.is_some_and(|first| moves(gate, raw, first))
    }
}

/// Whether the first cell that would have moved, were the row shifted, fits the column on its left.
fn moves<'a>(gate: &Gate, raw: impl Fn(usize) -> &'a [u8], first: usize) -> bool {
    let Some(at) = (first + 2..gate.width()).find(|at| !raw(*at).trim_ascii().is_empty()) else {
        return false;
    };
    let Some(column) = gate.columns.get(at - 1).filter(|column| column.field.is_some()) else { return true };
    match text_of(raw(at), gate.table().dialect) {
        Ok(text) => {
            let text = text.trim();
            text.is_empty() || column.program.judge(text, &gate.schema().picklists) == Verdict::SOUND
        }
        Err(_) => true,
    }
}

/// What a row is instead of a record: of its trimmed texts, and the columns in which findings were made.
pub(super) fn of(gate: &Gate, texts: &[String], marked: &[usize]) -> Option<RowKind> {
    let filled: Vec<usize> =
        (0..texts.len()).filter(|at| texts.get(*at).is_some_and(|text| !text.is_empty())).collect();
    if is_headings(gate, texts, &filled) {
        return Some(RowKind::Headings);
    }
    if is_total(gate, texts, &filled) {
        return Some(RowKind::Total);
    }
    // A record of which only the key is filled is one all the same: a note fits not even where it stands.
    if let [only] = filled.as_slice()
        && gate.width() > 2
        && marked.len() > 1
        && marked.contains(only)
    {
        return Some(RowKind::Note);
    }
    is_shifted(gate, texts, marked).then_some(RowKind::Shifted)
}

/// Whether the headings stand there once more.
fn is_headings(gate: &Gate, texts: &[String], filled: &[usize]) -> bool {
    let headings = &gate.table().headings;
    let first = |text: &str| text.chars().find(|c| c.is_alphanumeric()).map(|c| c.to_ascii_lowercase());
    let is_own = |at: &&usize| {
        let cells = headings.get(**at).zip(texts.get(**at));
        // Most cells are told from headings by their first letter.
        cells.is_some_and(|(heading, text)| first(heading) == first(text) && loose(heading) == loose(text))
    };
    let same = filled.iter().filter(is_own).count();
    same >= 2 && same * 4 >= filled.len() * 3 && same * 2 >= headings.len().min(4)
}

/// Whether a word for a total stands where the key does, or before all numbers; and all else that is filled are numbers.
fn is_total(gate: &Gate, texts: &[String], filled: &[usize]) -> bool {
    let text = |at: &usize| texts.get(*at).map(String::as_str).unwrap_or_default();
    let Some((word, rest)) = filled.split_first() else { return false };
    if text(word).bytes().any(|byte| byte.is_ascii_digit()) {
        return false;
    }
    let is_number = |at: &&usize| {
        text(at).chars().all(|c| c.is_ascii_digit() || ".,- '%€$£".contains(c) || c.is_whitespace())
            && text(at).chars().any(|c| c.is_ascii_digit())
    };
    let is_key = gate.key_set().is_none_or(|keyset| {
        keyset.columns.iter().all(|column| text(column).is_empty()) || keyset.columns.contains(word)
    });
    is_total_word(text(word))
        && is_key
        && !rest.is_empty()
        && rest.iter().filter(is_number).count() * 2 >= rest.len()
}

/// Whether from some column on each value fits the column on its left, and some do not fit their own.
fn is_shifted(gate: &Gate, texts: &[String], marked: &[usize]) -> bool {
    let (Some(first), true) = (marked.iter().min(), marked.len() > 1) else { return false };
    let fits = |at: usize, text: &str| {
        let Some(column) = gate.columns.get(at).filter(|column| column.field.is_some()) else { return true };
        match text.is_empty() {
            true => column.blank.is_none(),
            false => column.program.judge(text, &gate.schema().picklists) == Verdict::SOUND,
        }
    };
    let text = |at: usize| texts.get(at).map(String::as_str).unwrap_or_default();
    // What was cut in two stands in its own column or the one behind it; the rest has moved.
    let behind = first + 1..texts.len();
    let moved = behind.clone().filter(|at| !text(*at).is_empty());
    let tells = |at: &usize| gate.columns.get(at - 1).is_some_and(|column| column.program.tells_apart());
    let (count, telling) =
        (moved.clone().count(), moved.clone().filter(|at| *at > first + 1 && tells(at)).count());
    let all = moved.filter(|at| *at > first + 1).all(|at| fits(at - 1, text(at)));
    count >= 2 && telling >= 2 && all && marked.iter().any(|at| *at > *first && !fits(*at, text(*at)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::gate::Settings;
    use crate::mode::Mode;
    use crate::schema::{NoLists, RecordSchema};
    use crate::table::Table;
    use crate::value::Date;
    use proptest::prelude::*;
    use proptest::sample::{select, subsequence};

    const FIELDS: [(&str, &str); 5] = [
        ("tag", "text"),
        ("planted_on", "date"),
        ("stems", "integer"),
        ("girth", "decimal"),
        ("seen_on", "date"),
    ];
    const HEADINGS: [&str; 7] = ["tag", "Planted on", "stems", "girth", "seen_on", "-", "Ørsted"];
    const CELLS: [&str; 24] = [
        "",
        "",
        " ",
        "\u{A0}",
        "\"\"",
        "\" \u{A0}\"",
        "Total",
        "\"Grand total\"",
        "Summe 5",
        "tag",
        "TAG ",
        "\"Planted on\"",
        "planted_on",
        "stems",
        "-",
        "ørsted",
        "HT-1",
        "12",
        "1.5",
        "2020-01-01",
        "2020-02-31",
        "oak",
        "\"a \"\"b\"\"\"",
        "über",
    ];

    fn gate() -> Gate {
        let field = |(name, kind)| format!("[[field]]\nname = \"{name}\"\nkind = \"{kind}\"\n");
        let schema = format!("format = 1\nrecord = \"r\"\nkey = [\"tag\"]\n{}", FIELDS.map(field).concat());
        let schema = RecordSchema::read(&schema, &mut NoLists).unwrap();
        let settings = Settings::plain(Mode::Add, Date::new(2026, 11, 25).unwrap());
        Gate::new(schema, settings, Table::with_headings(HEADINGS.map(str::to_owned).to_vec()))
    }

    proptest! {
        #[test]
        fn what_is_no_record_is_never_passed_over(
            cells in prop::collection::vec(select(&CELLS[..]), 7),
            marked in subsequence(vec![0_usize, 1, 2, 3, 4], 1..=5),
        ) {
            let gate = gate();
            let dialect = gate.table().dialect;
            let texts: Vec<String> =
                cells.iter().map(|raw| text_of(raw.as_bytes(), dialect).unwrap().trim().to_owned()).collect();
            let first = marked.first().copied().filter(|_| marked.len() > 1);
            if let Some(kind) = of(&gate, &texts, &marked) {
                let signs = RowSigns::of(&gate);
                prop_assert!(signs.may_be_one(&gate, |at| cells[at].as_bytes(), first), "{cells:?} {kind:?}");
            }
        }
    }
}
