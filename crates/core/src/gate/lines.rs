//! Records of several rows: which row of a block begins one, and what the others take over from it. What a block
//! takes over from the rows above it is handed from block to block, in order; all else is done beside each other.

use super::compiled::{Column, Compiled};
use super::heads::Heads;
use super::mark::Mark;
use super::places::LineCounter;
use super::seen::Seen;
use super::verdict::Given;
use crate::block::Block;
use crate::catalogue::{Code, Level, entry};
use crate::finding::Finding;
use crate::headings::is_own;
use crate::numerals::{counted, grouped};
use crate::rows::{Above, Cells, Head, Taken, text_of};
use crate::schema::RecordSchema;
use std::sync::Arc;

/// How the rows of a table make records.
#[derive(Debug)]
pub(crate) struct Lines {
    /// The columns of the header's fields, those of the key first.
    header: Vec<usize>,
    /// How many of them are the key's.
    keys: usize,
    /// Whether the target numbers the records: then one without a key is new.
    is_numbered: bool,
}

/// The rows of a block that belong to records, and those of them that begin one: one bit a row.
#[derive(Debug, Default)]
pub struct RecordRows {
    pub(crate) rows: Box<[u64]>,
    pub(crate) starts: Box<[u64]>,
}

impl Lines {
    /// Of a record whose header's key has its columns; nothing where rows are records, or a column is lacking.
    pub(super) fn of(schema: &RecordSchema, column_of: &[Option<usize>]) -> Option<Self> {
        let lines = schema.lines.as_ref()?;
        let column = |field: &usize| column_of.get(*field).copied().flatten();
        // The column of a key that the target numbers may be absent.
        let is_given = |field: &&usize| {
            schema.fields.get(**field).is_none_or(|field| !field.numbered) || column(field).is_some()
        };
        let key: Vec<usize> = schema.key.iter().filter(is_given).map(column).collect::<Option<_>>()?;
        let rest = lines.header.iter().filter(|field| !schema.key.contains(field)).filter_map(column);
        let (keys, header) = (key.len(), key.iter().copied().chain(rest).collect());
        let is_numbered =
            schema.key.iter().any(|field| schema.fields.get(*field).is_some_and(|field| field.numbered));
        Some(Self { header, keys, is_numbered })
    }

    /// Whether a cell takes over what stands above it in a record that the target will number: in such a record the
    /// header stands in the first row alone, so that it is one record when it is read again.
    pub(super) fn stays_blank(
        &self,
        gate: &Compiled,
        block: &Block,
        cells: &Cells,
        row: usize,
        column: usize,
    ) -> bool {
        self.is_numbered
            && cells.takes_over(row, column)
            && self.header.iter().take(self.keys).all(|key| {
                let raw = cells.bytes(block, row, *key);
                raw.is_empty()
                    || gate
                        .columns
                        .get(*key)
                        .is_none_or(|key| matches!(key.see(raw, gate.table.dialect), Seen::Blank { .. }))
            })
    }

    /// Finds the records of a block whose cells are laid out.
    pub(super) fn enter(&self, gate: &Compiled, heads: &Heads, block: &Block, cells: &mut Cells) {
        let (above, is_new) = heads.above(block);
        let mut taken = Taken::new(&self.header, Arc::clone(&above), cells.len());
        let begins = cells.misfits.iter().find(|misfit| misfit.judged.is_none()).map(|misfit| misfit.place);
        // A row of the wrong width belongs to whatever stands above it; above all else it is a record nobody knows.
        let mut head = match above.row {
            Some(_) => Head::Above,
            None => Head::None,
        };
        let mut is_lost = false;
        for row in 0..cells.len() {
            let (has_no_key, is_own) = self.find_blanks(gate, block, cells, row, &mut taken);
            let of_head = |column: usize, at: usize| -> &[u8] {
                match head {
                    Head::Row(head) => cells.stored(block, head, column),
                    _ => above.cells.get(at).map(Vec::as_slice).unwrap_or_default(),
                }
            };
            let same = |at: usize, column: usize| {
                let (one, other) = (cells.stored(block, row, column), of_head(column, at));
                one == other || is_equal(gate, column, one, other)
            };
            let continues = head != Head::None
                && !is_own
                && (0..self.keys).all(|at| {
                    taken.is_blank(row, at) || self.header.get(at).is_some_and(|column| same(at, *column))
                });
            if continues {
                for (at, column) in self.header.iter().enumerate().skip(self.keys) {
                    if !taken.is_blank(row, at) && !same(at, *column) {
                        taken.differs.push((row, *column));
                    }
                }
                taken.heads.push(head);
            } else if is_own && self.is_numbered {
                head = Head::Row(row);
                taken.heads.push(Head::Here);
            } else if has_no_key && (head == Head::None || is_own) {
                is_lost |= is_own;
                if is_lost || !above.is_broken && begins.is_none_or(|place| place > cells.place(row)) {
                    taken.orphans.push(row);
                }
                head = Head::None;
                taken.heads.push(Head::None);
            } else {
                head = Head::Row(row);
                taken.heads.push(Head::Here);
            }
        }
        if is_new {
            let below = match head {
                Head::Row(row) => Arc::new(self.above_next(block, cells, row)),
                Head::None if is_lost => Arc::new(Above::default()),
                Head::None if begins.is_some() => Arc::new(Above { is_broken: true, ..Above::default() }),
                _ => above,
            };
            heads.hand_on(block, below);
        }
        cells.taken = Some(taken);
    }

    /// Finds the blank cells of a row's header. Whether it has no key, and whether it has none and header cells of its own:
    /// then it belongs to no record above it.
    fn find_blanks(
        &self,
        gate: &Compiled,
        block: &Block,
        cells: &Cells,
        row: usize,
        taken: &mut Taken,
    ) -> (bool, bool) {
        let (mut blank_keys, mut is_filled) = (0, false);
        for (at, column) in self.header.iter().enumerate() {
            if is_blank(gate, block, cells, row, *column) {
                taken.set_blank(row, at);
                blank_keys += usize::from(at < self.keys);
            } else {
                is_filled |= at >= self.keys;
            }
        }
        let has_no_key = blank_keys == self.keys;
        (has_no_key, has_no_key && is_filled)
    }

    /// What stands above the next block, where this row begins the last record.
    fn above_next(&self, block: &Block, cells: &Cells, row: usize) -> Above {
        let stored = |column: &usize| cells.stored(block, row, *column).to_vec();
        Above {
            row: Some(block.first_row + u64::from(cells.place(row))),
            cells: self.header.iter().map(stored).collect(),
            is_broken: false,
        }
    }

    /// Which rows of the block belong to records, and which begin one.
    pub(super) fn rows(&self, block: &Block, cells: &Cells) -> Option<RecordRows> {
        let taken = cells.taken.as_ref()?;
        let words = usize::try_from(block.rows.div_ceil(64)).ok()?;
        let mut found =
            RecordRows { rows: vec![0; words].into_boxed_slice(), starts: vec![0; words].into_boxed_slice() };
        let set = |bits: &mut Box<[u64]>, place: u32| {
            if let Some(word) = bits.get_mut(place as usize / 64) {
                *word |= 1 << (place % 64);
            }
        };
        for (row, head) in taken.heads.iter().enumerate() {
            // What belongs to no record holds none; what stands below a row that goes astray may belong to that.
            if *head == Head::None && taken.orphans.binary_search(&row).is_ok() {
                continue;
            }
            set(&mut found.rows, cells.place(row));
            if *head == Head::Here {
                set(&mut found.starts, cells.place(row));
            }
        }
        let misfits = cells.misfits.iter().filter(|misfit| misfit.judged.is_none());
        misfits.for_each(|misfit| set(&mut found.rows, misfit.place));
        Some(found)
    }

    /// Marks rows that disagree with the first of their record, and lines without a record.
    pub(super) fn mark(&self, gate: &Compiled, block: &Block, cells: &Cells, marks: &mut Vec<Mark>) {
        let Some(taken) = &cells.taken else { return };
        let mut push = |row: usize, column: usize, code: Code| {
            let level = gate.told_level(code, entry(code).level);
            marks.push(Mark::at(cells, row, column + 1, code, level));
        };
        if let Some(key) = self.header.first() {
            taken.orphans.iter().for_each(|row| push(*row, *key, Code::LineWithoutHeader));
        }
        for (row, column) in &taken.differs {
            push(*row, *column, Code::HeaderDiffers);
        }
        // Among held rows alone nothing stands between the runs of a record any more: what holds them is the reason they
        // came with, until it is taken away.
        let (true, Some(key)) = (is_own(&gate.table.headings), self.header.first()) else { return };
        let reasons = 1;
        for row in 0..cells.len() {
            let text = text_of(cells.bytes(block, row, reasons), gate.table.dialect).unwrap_or_default();
            if text.contains(Code::LinesApart.name()) {
                push(row, *key, Code::LinesApart);
            }
        }
    }

    /// Puts a mark of lines into words; false where it is none.
    pub(super) fn describe(
        &self,
        gate: &Compiled,
        mark: Mark,
        block: &Block,
        cells: &Cells,
        lines: &mut LineCounter<'_>,
        finding: &mut Finding,
    ) -> bool {
        if !matches!(mark.code, Code::LineWithoutHeader | Code::HeaderDiffers | Code::LinesApart) {
            return false;
        }
        let (row, Some(column)) = (mark.row as usize, usize::from(mark.column).checked_sub(1)) else {
            return false;
        };
        finding.line = Some(lines.of(mark.place, cells.row(row).0));
        gate.place(column, finding);
        finding.key = gate.key_of(block, cells, row);
        if mark.code == Code::LinesApart {
            finding.message =
                "it was held because the rows of its record stood apart; once they stand together, empty its reasons"
                    .to_owned();
            return true;
        }
        if mark.code == Code::LineWithoutHeader {
            let is_own = self.header.iter().skip(self.keys);
            let is_own = is_own.clone().any(|column| !is_blank(gate, block, cells, row, *column));
            if is_own {
                finding.message =
                    "the key is blank, and the row has header cells of its own: nothing says which \
                                   record it belongs to"
                        .to_owned();
                finding.expect("the record's key, or blank header cells below the record".to_owned());
            } else {
                finding.message =
                    "the key is blank, which means \"as above\", but no record stands above".to_owned();
                finding.expect("the record's key in its first row".to_owned());
            }
            finding.set_value("", false);
            return true;
        }
        let masked = gate.is_sensitive(column);
        let text = |raw: &[u8]| {
            let text = text_of(raw, gate.table.dialect).map(|text| text.trim().to_owned());
            text.unwrap_or_default()
        };
        finding.set_value(&text(cells.stored(block, row, column)), masked);
        let Some((head, raw)) = cells.head(block, row, column) else {
            return true;
        };
        let of_head = text(raw);
        finding.message = format!("differs from row {head}, where the record begins");
        finding.expect(match (masked, of_head.is_empty()) {
            (_, true) => "blank, as in that row".to_owned(),
            (true, _) => "the value of that row, or blank".to_owned(),
            (false, _) => format!("{of_head}, or blank"),
        });
        true
    }
}

impl Compiled {
    /// What it is that a record has so many lines.
    pub(crate) fn miscounted(&self, count: u64) -> (Code, Level) {
        let max = self.schema.lines.as_ref().and_then(|lines| lines.count.max);
        let code = if max.is_some_and(|max| count > max) { Code::LinesTooMany } else { Code::LinesTooFew };
        (code, self.told_level(code, entry(code).level))
    }

    pub(super) fn miscounted_finding(&self, count: u64) -> Finding {
        let (code, level) = self.miscounted(count);
        let lines = counted(count, "line", "lines");
        let mut finding = Finding::new(code, level, format!("the record that begins here has {lines}"));
        finding.set_value(&lines, false);
        let range = self.schema.lines.as_ref().map(|lines| &lines.count);
        let expected = match range.map(|range| (range.min, range.max)) {
            Some((Some(min), Some(max))) => format!("{} to {} lines", grouped(min), grouped(max)),
            Some((Some(min), None)) => format!("at least {}", counted(min, "line", "lines")),
            Some((None, Some(max))) => format!("at most {}", counted(max, "line", "lines")),
            _ => return finding,
        };
        finding.expect(expected);
        finding
    }
}

fn is_blank(gate: &Compiled, block: &Block, cells: &Cells, row: usize, column: usize) -> bool {
    let raw = cells.stored(block, row, column);
    let Some(column) = gate.columns.get(column) else { return true };
    raw.is_empty() || matches!(column.see(raw, gate.table.dialect), Seen::Blank { .. } | Seen::Stale)
}

/// Whether two cells of a column have the same value.
fn is_equal(gate: &Compiled, column: usize, one: &[u8], other: &[u8]) -> bool {
    let dialect = gate.table.dialect;
    let Some(column_of) = gate.columns.get(column) else { return false };
    let Column { program, .. } = column_of;
    let (Ok(left), Ok(right)) = (text_of(one, dialect), text_of(other, dialect)) else { return false };
    let put = |text: &str| column_of.reading.replaced(text.trim()).unwrap_or_else(|| text.trim().to_owned());
    let (left, right) = (put(&left), put(&right));
    let (left, right) = (left.as_str(), right.as_str());
    let value = |text, raw| {
        let given = Given::of(text, raw, dialect);
        program.standard(given, &gate.schema.picklists)
    };
    match (value(left, one), value(right, other)) {
        (Some(left), Some(right)) => left == right,
        _ => left == right,
    }
}
