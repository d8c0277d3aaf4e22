//! Records of several rows: which row of a block begins one, and what the others take over from it. What a block
//! takes over from the rows above it is handed from block to block, in order; all else is done beside each other.

use super::cells::{Cells, text_of};
use super::describe::LineCounter;
use super::judge::Mark;
use super::program::Given;
use super::wording::{counted, grouped};
use super::{Column, Gate};
use crate::block::Block;
use crate::catalogue::{Code, Level, entry};
use crate::finding::Finding;
use crate::headings::OWN_HEADINGS;
use crate::schema::RecordSchema;
use std::collections::{BTreeMap, HashMap};
use std::sync::{Arc, Condvar, Mutex, PoisonError};

/// How the rows of a table make records.
#[derive(Debug)]
pub(crate) struct Lines {
    /// The columns of the header's fields, those of the key first.
    header: Vec<usize>,
    /// How many of them are the key's.
    keys: usize,
    /// What stands above each block, as far as it is known.
    known: Mutex<Known>,
    news: Condvar,
}

#[derive(Debug, Default)]
struct Known {
    /// By the number of the block, while rows are read for the first time.
    by_number: HashMap<u64, Arc<Above>>,
    /// By the first row of the block, for reading it again.
    by_row: BTreeMap<u64, Arc<Above>>,
}

/// What stands above a row: the record that it may belong to.
#[derive(Debug, Clone, Default)]
pub(crate) struct Above {
    /// The row that begins the record; nothing where none has begun.
    row: Option<u64>,
    /// The header's cells in that row, as they stand.
    cells: Vec<Vec<u8>>,
    /// Whether a row of the wrong width stands above all records: it may have begun one.
    is_broken: bool,
}

/// Which rows of a block begin a record, and where each finds its header.
#[derive(Debug, Default)]
pub(crate) struct Taken {
    header: Vec<usize>,
    /// For each judged row, the judged row that begins its record.
    heads: Vec<Head>,
    above: Arc<Above>,
    /// Header cells that stand blank, by judged row and place in the header.
    blanks: Vec<u64>,
    /// Cells that differ from the first row of their record.
    differs: Vec<(usize, usize)>,
    /// Lines without a record.
    orphans: Vec<usize>,
}

/// Where the record of a row begins.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Head {
    /// In this row.
    Here,
    /// In a judged row of the block.
    Row(usize),
    /// Above the block.
    Above,
    /// Nowhere: it is a line without a record.
    None,
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
        let key: Vec<usize> = schema.key.iter().map(column).collect::<Option<_>>()?;
        let rest = lines.header.iter().skip(key.len()).filter_map(column);
        let (keys, header) = (key.len(), key.iter().copied().chain(rest).collect());
        Some(Self { header, keys, known: Mutex::default(), news: Condvar::new() })
    }

    /// Forgets what stands above the blocks: cells are read in another way now.
    pub(super) fn forget(&self) {
        *self.known.lock().unwrap_or_else(PoisonError::into_inner) = Known::default();
    }

    /// What stands above a block, and whether it was not known before; waits for the judge of the block before it.
    fn above(&self, block: &Block) -> (Arc<Above>, bool) {
        let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        loop {
            if let Some(above) = known.by_row.get(&block.first_row) {
                return (Arc::clone(above), false);
            }
            let above = match known.by_number.remove(&block.number) {
                None if block.number == 0 => Some(Arc::default()),
                above => above,
            };
            if let Some(above) = above {
                known.by_row.insert(block.first_row, Arc::clone(&above));
                return (above, true);
            }
            known = self.news.wait(known).unwrap_or_else(PoisonError::into_inner);
        }
    }

    fn hand_on(&self, block: &Block, above: Arc<Above>) {
        let mut known = self.known.lock().unwrap_or_else(PoisonError::into_inner);
        known.by_number.insert(block.number + 1, above);
        self.news.notify_all();
    }

    /// A block that is judged by nobody hands on what it finds.
    pub(super) fn pass(&self, block: &Block) {
        let (above, is_new) = self.above(block);
        if is_new {
            self.hand_on(block, above);
        }
    }

    /// Finds the records of a block whose cells are laid out.
    pub(super) fn enter(&self, gate: &Gate, block: &Block, cells: &mut Cells) {
        let (above, is_new) = self.above(block);
        let mut taken = Taken { header: self.header.clone(), above: Arc::clone(&above), ..Taken::default() };
        taken.blanks.resize((cells.len() * self.header.len()).div_ceil(64), 0);
        let begins = cells.misfits.iter().find(|misfit| misfit.judged.is_none()).map(|misfit| misfit.place);
        // A row of the wrong width belongs to whatever stands above it; above all else it is a record nobody knows.
        let mut head = match above.row {
            Some(_) => Head::Above,
            None => Head::None,
        };
        for row in 0..cells.len() {
            let mut blank_keys = 0;
            for (at, column) in self.header.iter().enumerate() {
                if is_blank(gate, block, cells, row, *column) {
                    taken.set_blank(row, at);
                    blank_keys += usize::from(at < self.keys);
                }
            }
            let of_head = |column: usize, at: usize| -> &[u8] {
                match head {
                    Head::Row(head) => bytes(block, cells, head, column),
                    _ => above.cells.get(at).map(Vec::as_slice).unwrap_or_default(),
                }
            };
            let same = |at: usize, column: usize| {
                let (one, other) = (bytes(block, cells, row, column), of_head(column, at));
                one == other || is_equal(gate, column, one, other)
            };
            let continues = head != Head::None
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
            } else if blank_keys == self.keys && head == Head::None {
                if !above.is_broken && begins.is_none_or(|place| place > cells.place(row)) {
                    taken.orphans.push(row);
                }
                taken.heads.push(Head::None);
            } else {
                head = Head::Row(row);
                taken.heads.push(Head::Here);
            }
        }
        if is_new {
            let below = match head {
                Head::Row(row) => Arc::new(Above {
                    row: Some(block.first_row + u64::from(cells.place(row))),
                    cells: self
                        .header
                        .iter()
                        .map(|column| bytes(block, cells, row, *column).to_vec())
                        .collect(),
                    is_broken: false,
                }),
                Head::None if begins.is_some() => Arc::new(Above { is_broken: true, ..Above::default() }),
                _ => above,
            };
            self.hand_on(block, below);
        }
        cells.taken = Some(taken);
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
    pub(super) fn mark(&self, gate: &Gate, block: &Block, cells: &Cells, marks: &mut Vec<Mark>) {
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
        let reasons = gate.table.headings.iter().position(|heading| heading.trim() == OWN_HEADINGS[1]);
        let (Some(reasons), Some(key)) = (reasons, self.header.first()) else { return };
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
        gate: &Gate,
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
            finding.message =
                "the key is blank, which means \"as above\", but no record stands above".to_owned();
            finding.expect("the record's key in its first row".to_owned());
            finding.set_value("", false);
            return true;
        }
        let masked = gate.is_sensitive(column);
        let text = |raw: &[u8]| {
            let text = text_of(raw, gate.table.dialect).map(|text| text.trim().to_owned());
            text.unwrap_or_default()
        };
        finding.set_value(&text(bytes(block, cells, row, column)), masked);
        let Some((head, raw)) = cells.taken.as_ref().and_then(|taken| taken.head(block, cells, row, column))
        else {
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

impl Gate {
    /// A block that is judged by nobody hands on what stands above it.
    pub(crate) fn pass_lines(&self, block: &Block) {
        self.lines.iter().for_each(|lines| lines.pass(block));
    }

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

impl Taken {
    fn bit(&self, row: usize, at: usize) -> (usize, u64) {
        let bit = row * self.header.len() + at;
        (bit / 64, 1 << (bit % 64))
    }

    fn set_blank(&mut self, row: usize, at: usize) {
        let (word, bit) = self.bit(row, at);
        if let Some(word) = self.blanks.get_mut(word) {
            *word |= bit;
        }
    }

    fn is_blank(&self, row: usize, at: usize) -> bool {
        let (word, bit) = self.bit(row, at);
        self.blanks.get(word).is_some_and(|word| word & bit != 0)
    }

    /// Whether the row does not begin a record.
    pub(crate) fn is_below(&self, row: usize) -> bool {
        self.heads.get(row).is_some_and(|head| *head != Head::Here)
    }

    /// Whether a cell is blank and means "as above".
    pub(crate) fn takes_over(&self, row: usize, column: usize) -> bool {
        self.is_below(row)
            && self
                .header
                .iter()
                .position(|header| *header == column)
                .is_some_and(|at| self.is_blank(row, at))
    }

    /// The row in which the record of a judged row begins, and its cell of a header's column.
    fn head<'a>(
        &'a self,
        block: &'a Block,
        cells: &'a Cells,
        row: usize,
        column: usize,
    ) -> Option<(u64, &'a [u8])> {
        match self.heads.get(row)? {
            Head::Row(head) => {
                Some((block.first_row + u64::from(cells.place(*head)), bytes(block, cells, *head, column)))
            }
            Head::Above => {
                let at = self.header.iter().position(|header| *header == column)?;
                Some((self.above.row?, self.above.cells.get(at)?))
            }
            Head::Here | Head::None => None,
        }
    }

    /// What a cell takes over, if it does.
    pub(crate) fn over<'a>(
        &'a self,
        block: &'a Block,
        cells: &'a Cells,
        row: usize,
        column: usize,
    ) -> Option<&'a [u8]> {
        self.takes_over(row, column).then(|| self.head(block, cells, row, column))?.map(|head| head.1)
    }
}

/// The bytes of a cell as it stands.
fn bytes<'a>(block: &'a Block, cells: &Cells, row: usize, column: usize) -> &'a [u8] {
    let (start, end) = cells.cell(row, column);
    block.buffer.get(start..end).unwrap_or_default()
}

fn is_blank(gate: &Gate, block: &Block, cells: &Cells, row: usize, column: usize) -> bool {
    let raw = bytes(block, cells, row, column);
    let Some(column) = gate.columns.get(column) else { return true };
    raw.is_empty() || text_of(raw, gate.table.dialect).is_ok_and(|text| column.is_blank(text.trim()))
}

/// Whether two cells of a column have the same value.
fn is_equal(gate: &Gate, column: usize, one: &[u8], other: &[u8]) -> bool {
    let dialect = gate.table.dialect;
    let Some(Column { program, .. }) = gate.columns.get(column) else { return false };
    let (Ok(left), Ok(right)) = (text_of(one, dialect), text_of(other, dialect)) else { return false };
    let (left, right) = (left.trim(), right.trim());
    let value = |text, raw| {
        let given = Given::of(text, raw, dialect);
        program.standard(given, &gate.schema.picklists)
    };
    match (value(left, one), value(right, other)) {
        (Some(left), Some(right)) => left == right,
        _ => left == right,
    }
}
