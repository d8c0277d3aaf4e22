//! The marks of a file's rows, in order: the headings first, then block after block as it is judged once more.

use crate::book::{CellMark, Kind, RowMarks};
use crate::error::Error;
use crate::rows_file::said;
use crate::table_file::TableFile;
use std::collections::{BTreeMap, VecDeque};
use tidy_gate_core::block::Block;
use tidy_gate_core::catalogue::{Code, Level};
use tidy_gate_core::finding::Finding;
use tidy_gate_core::gate::{Gate, RowsOf};
use tidy_gate_core::headings::MARK_HEADINGS;
use tidy_gate_core::run::{BlockSource, Outcome, Watch};

/// What holds a row, and what is to be looked at: told apart by a sign, not by a colour alone.
const STOP: &str = "\u{25A0}";
const WARN: &str = "\u{25B2}";
/// A cell of a sheet holds so many characters, in UTF-16 units; some are left for what is put before them.
const LONGEST: usize = 32_000;
/// What is filled and noted; notes are not.
const TOLD: [Level; 2] = [Level::Stop, Level::Warn];

/// The marks, while they are made.
pub(super) struct Rows<'a> {
    file: &'a TableFile,
    gate: &'a Gate,
    outcome: &'a Outcome,
    rows: RowsOf<'a>,
    block: Block,
    /// The number of the next block.
    number: usize,
    made: VecDeque<RowMarks>,
    /// Findings that came when all rows were read, by their rows.
    late: BTreeMap<u64, Vec<&'a Finding>>,
    /// The first column of marks.
    own: Option<usize>,
    /// By how many rows the sheet counts further.
    shift: u64,
    /// How many reasons were cut.
    pub(super) cut: u64,
}

impl<'a> Rows<'a> {
    pub(super) fn new(
        file: &'a TableFile,
        gate: &'a Gate,
        outcome: &'a Outcome,
        own: Option<usize>,
        shift: u64,
    ) -> Self {
        let mut late: BTreeMap<u64, Vec<&Finding>> = BTreeMap::new();
        let is_of_row =
            |finding: &&Finding| TOLD.contains(&finding.level) && finding.code != Code::TotalWrong;
        for finding in outcome.late.iter().filter(is_of_row) {
            if let Some(row) = finding.row.filter(|row| *row >= gate.table().first_row) {
                late.entry(row).or_default().push(finding);
            }
        }
        let rows = RowsOf::new(gate, &outcome.state);
        let mut all = Self {
            file,
            gate,
            outcome,
            rows,
            block: Block::default(),
            number: 0,
            made: VecDeque::new(),
            late,
            own,
            shift,
            cut: 0,
        };
        all.headings();
        all
    }

    /// The next row with marks.
    pub(super) fn next(&mut self, watch: &dyn Watch) -> Result<Option<RowMarks>, Error> {
        while self.made.is_empty() {
            let Some(extent) = self.outcome.extents.blocks().get(self.number) else {
                let Some((row, findings)) = self.late.pop_first() else { return Ok(None) };
                let marks = self.marks(row, &findings, true);
                return Ok(Some(marks));
            };
            self.number += 1;
            let number = self.number - 1;
            let rows = extent.first_row + extent.rows
                - self.outcome.extents.blocks().first().map_or(0, |first| first.first_row);
            watch.judged(rows, extent.offset + extent.len as u64);
            if self.has_marks(number) {
                self.file.again(extent, &mut self.block)?;
                self.judge(number);
            }
        }
        Ok(self.made.pop_front())
    }

    /// Whether any row of a block may have marks: warnings are counted for the whole file alone.
    fn has_marks(&self, number: usize) -> bool {
        let outcome = self.outcome;
        let warns =
            outcome.tallies.iter().any(|(counted, tally)| counted.level == Level::Warn && tally.count > 0);
        outcome.all_held || outcome.held.any_in(number) || warns || !self.late.is_empty()
    }

    fn judge(&mut self, number: usize) {
        let (outcome, block) = (self.outcome, std::mem::take(&mut self.block));
        let told = self.rows.told(&block, &outcome.repeats, &TOLD);
        let mut by_row: BTreeMap<u64, (bool, Vec<&Finding>)> = BTreeMap::new();
        for finding in &told {
            if let Some(row) = finding.row {
                by_row.entry(row).or_default().1.push(finding);
            }
        }
        let end = block.first_row + block.rows;
        let later = self.late.split_off(&end);
        for (row, findings) in std::mem::replace(&mut self.late, later) {
            let known = &mut by_row.entry(row).or_default().1;
            let is_new = |finding: &&Finding| {
                !known.iter().any(|known| known.code == finding.code && known.column == finding.column)
            };
            let more: Vec<&Finding> = findings.into_iter().filter(is_new).collect();
            known.extend(more);
        }
        if outcome.all_held {
            self.rows.read(&block);
            for row in self.rows.rows(&block) {
                by_row.entry(row.row).or_default().0 = true;
            }
        } else {
            for place in (0..block.rows).filter(|place| outcome.held.is_held(number, *place)) {
                by_row.entry(block.first_row + place).or_default().0 = true;
            }
        }
        if let Some(wrong) = &outcome.wrong_total
            && let Some(row) = wrong.row.filter(|row| (block.first_row..end).contains(row))
        {
            // What is called a total was not judged as a record.
            by_row.insert(row, (true, vec![wrong]));
        }
        by_row.retain(|row, _| !outcome.is_ending(*row));
        for (row, (is_held, findings)) in by_row {
            let marks = self.marks(row, &findings, is_held);
            self.made.push_back(marks);
        }
        self.block = block;
    }

    /// The marks of one row.
    fn marks(&mut self, row: u64, findings: &[&Finding], is_held: bool) -> RowMarks {
        let reasons: Vec<String> = findings.iter().map(|finding| reason(finding)).collect();
        let is_stopped = findings.iter().any(|finding| finding.level == Level::Stop);
        let with_others = (is_held && !is_stopped).then(|| match self.outcome.all_held {
            true => format!("{STOP} held with the whole file, see the sheet in front"),
            false => format!("{STOP} held with its record: another row of it has a stop"),
        });
        let text = with_others.into_iter().chain(reasons).collect::<Vec<_>>().join("; ");
        let short = short(&text);
        self.cut += u64::from(short.len() < text.len());
        let (word, kind) = match is_held {
            true => (format!("{STOP} held"), Kind::Stop),
            false => (format!("{WARN} look at it"), Kind::Warn),
        };
        let cells = self.cells(findings);
        RowMarks { row: row + self.shift, counts: true, own: [(word, kind), (short, kind)], cells }
    }

    /// The cells that findings mean: one each, with all that is to be said of it.
    fn cells(&self, findings: &[&Finding]) -> Vec<CellMark> {
        let mut cells: BTreeMap<usize, (Level, Vec<String>)> = BTreeMap::new();
        for finding in findings {
            for column in self.columns(finding) {
                let cell = cells.entry(column).or_insert((Level::Warn, Vec::new()));
                if finding.level == Level::Stop {
                    cell.0 = Level::Stop;
                }
                let note = note(finding);
                if !cell.1.contains(&note) {
                    cell.1.push(note);
                }
            }
        }
        let one = |(column, (level, notes)): (usize, (Level, Vec<String>))| CellMark {
            column,
            level: Some(level),
            note: notes.join("\n"),
        };
        cells.into_iter().map(one).collect()
    }

    /// The columns that a finding means, from 0: its own, else those of its fields.
    fn columns(&self, finding: &Finding) -> Vec<usize> {
        if let Some(column) = finding.column.and_then(|column| column.checked_sub(1)) {
            return vec![column];
        }
        let schema = self.gate.schema();
        let names = finding.fields.iter().chain(&finding.field);
        let column = |name: &String| {
            let number = schema.field(name)?;
            self.gate.pairing().column_of.get(number).copied().flatten()
        };
        names.filter_map(column).collect()
    }

    /// What is said of the headings, and those of the columns of marks.
    fn headings(&mut self) {
        let Some(row) = self.gate.table().heading_row else { return };
        let findings: Vec<&Finding> = self
            .gate
            .opening()
            .iter()
            .chain(&self.outcome.late)
            .filter(|finding| TOLD.contains(&finding.level) && finding.column.is_some())
            .filter(|finding| finding.row.is_none_or(|known| known == row))
            .collect();
        let mut cells = self.cells(&findings);
        if let Some(own) = self.own {
            cells.push(CellMark { column: own, level: None, note: LEGEND.to_owned() });
        }
        let own = MARK_HEADINGS.map(|heading| (heading.to_owned(), Kind::ColumnHeading));
        self.made.push_back(RowMarks { row: row + self.shift, counts: false, own, cells });
    }
}

/// What the signs mean, for whoever has the sheet alone before him.
const LEGEND: &str = "\u{25A0} held: the row cannot be loaded until what is wrong is put right. \u{25B2} look at it: it \
can be loaded, but see whether it is meant so. Nobody reads these two columns, the colours or the notes when the \
workbook comes back: they need not be taken away.";

/// A finding as a reason of its row.
fn reason(finding: &Finding) -> String {
    let sign = if finding.level == Level::Stop { STOP } else { WARN };
    match finding.heading.as_deref().map(str::trim).filter(|heading| !heading.is_empty()) {
        Some(heading) => format!("{sign} {heading}: {} [{}]", said(finding), finding.code),
        None => format!("{sign} {} [{}]", said(finding), finding.code),
    }
}

/// A finding as a note on its cell.
fn note(finding: &Finding) -> String {
    let sign = if finding.level == Level::Stop { STOP } else { WARN };
    format!("{sign} {} [{}]", said(finding), finding.code)
}

/// As much of a text as a cell holds.
fn short(text: &str) -> String {
    let mut units = 0;
    let fits = |c: &char| {
        units += c.len_utf16();
        units <= LONGEST
    };
    let short: String = text.chars().take_while(fits).collect();
    if short.len() < text.len() { format!("{short} …") } else { short }
}
