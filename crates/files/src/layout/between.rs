//! Rows between the headings and the data: technical names, units, the template's example.

use super::fact::Fact;
use super::first_rows::{FirstRow, Rows};
use super::units::is_unit;
use tidy_gate_core::catalogue::{Code, entry};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::headings::PlanPairing;
use tidy_gate_core::headings::{HeadingWords, pair};
use tidy_gate_core::schema::{Field, RecordSchema};

/// Leaves out the rows right below the headings that are plainly no records.
///
/// A row is the template's example only where the file is known as a template of the record, or the row of technical
/// names stands above it, as in templates that are texts.
pub(super) fn leave_out(
    rows: &[FirstRow],
    heading: usize,
    schema: Option<&RecordSchema>,
    is_template: bool,
    found: &mut Rows,
) {
    let Some(headings) = rows.get(heading) else { return };
    let (fields, key) =
        schema.map_or((&[][..], &[][..]), |schema| (schema.fields.as_slice(), schema.key.as_slice()));
    let pairing = pair(&headings.cells, fields, &PlanPairing::default());
    let mut columns = vec![None; headings.cells.len()];
    for (field, column) in pairing.column_of.iter().enumerate() {
        if let Some(slot) = column.and_then(|column| columns.get_mut(column)) {
            *slot = Some(field);
        }
    }
    let below = Below { fields, key, words: HeadingWords::of(fields), columns };
    let mut pass_over = |row: &FirstRow| {
        found.left_out += 1;
        found.first_row = row.number + 1;
    };
    let mut rest = rows.iter().skip(heading + 1).peekable();
    let mut facts = Vec::new();
    let mut may_be_example = is_template;
    while let Some(row) = rest.peek() {
        let what = if below.is_technical(row) {
            may_be_example = true;
            ("technical names", "every filled cell is the name or label of its column's field")
        } else if below.is_units(row) {
            ("units", "no key, and every filled cell is a unit or a word in brackets")
        } else {
            break;
        };
        let mut fact =
            Fact::guessed("left out", format!("row {} holds {}", row.number, what.0), what.1.to_owned());
        fact.row = Some(row.number);
        facts.push(fact);
        pass_over(row);
        rest.next();
    }
    if let Some(row) = rest.next().filter(|row| may_be_example && below.is_example(row)) {
        pass_over(row);
        found.notices.push(example(row.number, entry(Code::ExampleRow).title));
    }
    found.facts.extend(facts);
}

/// What is said of an example that is left out.
pub(super) fn example(row: u64, what: &str) -> Finding {
    let message = format!("{what}; it was left out");
    let mut finding = Finding::new(Code::ExampleRow, entry(Code::ExampleRow).level, message);
    finding.row = Some(row);
    finding
}

/// What the headings say of the columns below them.
struct Below<'a> {
    fields: &'a [Field],
    key: &'a [usize],
    words: HeadingWords<'a>,
    /// The field of each column.
    columns: Vec<Option<usize>>,
}

impl Below<'_> {
    fn field(&self, column: usize) -> Option<(usize, &Field)> {
        let number = self.columns.get(column).copied().flatten()?;
        Some((number, self.fields.get(number)?))
    }

    /// Every filled cell is the name or label of its column's field, three at least.
    fn is_technical(&self, row: &FirstRow) -> bool {
        let names = |(column, cell): (usize, &String)| {
            self.field(column).is_some_and(|(number, _)| self.words.field(cell) == Some(number))
        };
        row.filled() >= 3 && filled(row).all(names)
    }

    /// No key, and every filled cell is a unit; two at least where the record has no key.
    fn is_units(&self, row: &FirstRow) -> bool {
        let is_key = |column: usize| self.field(column).is_some_and(|(number, _)| self.key.contains(&number));
        let has_key = (0..self.columns.len()).any(is_key);
        row.filled() >= if has_key { 1 } else { 2 }
            && filled(row).all(|(column, cell)| !is_key(column) && is_unit(cell))
    }

    /// Every example of the columns' fields stands in the row, two at least. Where the key has none, nothing else does: a record
    /// that has the same values has a key besides.
    fn is_example(&self, row: &FirstRow) -> bool {
        let has_example =
            |field: &usize| self.fields.get(*field).is_some_and(|field| field.example.is_some());
        let tells_key = !self.key.is_empty() && self.key.iter().all(has_example);
        let mut examples = 0;
        let all = (0..self.columns.len()).all(|column| {
            let cell = row.cells.get(column).map(String::as_str).unwrap_or_default();
            let Some(example) = self.field(column).and_then(|(_, field)| field.example.as_deref()) else {
                return tells_key || cell.is_empty();
            };
            examples += 1;
            cell == example.trim()
        });
        all && examples >= 2
    }
}

fn filled(row: &FirstRow) -> impl Iterator<Item = (usize, &String)> {
    row.cells.iter().enumerate().filter(|(_, cell)| !cell.is_empty())
}
