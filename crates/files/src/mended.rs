//! Mended copies: the file as it came, with those cells rewritten that can be mended without a guess, and a log of each.

mod text;

use crate::book::{self, NewCell};
use crate::error::Error;
use crate::json::{self, Edit};
use crate::output::Output;
use crate::row_output::RowOutput;
use crate::table_file::TableFile;
use crate::{plain_book, plain_list};
use std::collections::BTreeMap;
use std::fs::File;
use std::path::Path;
use std::sync::{Arc, Mutex, PoisonError};
use text::Patch;
use tidy_gate_core::block::Block;
use tidy_gate_core::catalogue::{Code, entry};
use tidy_gate_core::finding::{Finding, MASK, letter};
use tidy_gate_core::gate::{Gate, Mend, Mender};
use tidy_gate_core::run::{BlockSource, Outcome};

/// The endings of workbooks whose cells can be patched in place.
pub const MENDED_ENDINGS: &str = ".csv, .tsv, .tab, .txt, .xlsx, .xlsm, .ods, .json, .ndjson or .jsonl";

/// What was mended.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct MendSum {
    /// Cells that were rewritten.
    pub cells: u64,
    /// Rows that were taken out.
    pub rows: u64,
    /// How often each code was mended.
    pub by_code: BTreeMap<Code, u64>,
    /// The same by column, from 0.
    pub by_column: BTreeMap<(usize, Code), u64>,
}

/// The codes of rows that are taken out.
const ROWS: [Code; 4] = [Code::TotalRow, Code::FooterRow, Code::ExampleRow, Code::RowBlank];

/// Which findings are mended: those of these codes, or all that can be.
#[derive(Debug, Clone, Copy)]
pub struct Mending<'a> {
    /// The file itself.
    pub path: &'a Path,
    /// The codes; all where there are none.
    pub only: &'a [Code],
}

/// Writes the file with its cells mended, and a log of them where one is wanted.
///
/// # Errors
/// When the file cannot be read again, its form cannot be patched, or an output cannot be written.
pub fn mend(
    file: &TableFile,
    gate: &Gate,
    outcome: &Outcome,
    mending: Mending<'_>,
    (log, output): (&mut Option<RowOutput>, &mut Output),
) -> Result<MendSum, Error> {
    let form = file.form();
    if let Some(log) = log.as_mut() {
        let names = ["row", "column", "heading", "field", "before", "after", "codes", "why"];
        plain_list::begin(log, "Mended", names.map(str::to_owned).to_vec())?;
    }
    let (is_text, is_json) = (form == "csv", matches!(form, "json" | "ndjson"));
    let mut walk = Walk {
        gate,
        sum: MendSum::default(),
        patches: Vec::new(),
        cells: BTreeMap::new(),
        later: BTreeMap::new(),
    };
    let mut mender = Mender::new(gate, &outcome.state, mending.only);
    let mut block = Block::default();
    let has_numbers = outcome.tallies.iter().any(|(counted, _)| counted.code == Code::DateAsNumber);
    for extent in outcome.extents.blocks().iter().filter(|_| has_numbers) {
        file.again(extent, &mut block)?;
        mender.look_at(&block);
    }
    let rows = walk.rows(outcome, mending.only, is_text);
    let mut rows = rows.into_iter().peekable();
    for extent in outcome.extents.blocks() {
        file.again(extent, &mut block)?;
        let end = block.first_row + block.rows;
        for mend in mender.of(&block) {
            while let Some((row, code)) = rows.next_if(|row| row.0 < mend.row) {
                walk.take_out(&block, (row, code), is_text, log)?;
            }
            // What stands in a row that goes away goes with it.
            if rows.peek().is_none_or(|row| row.0 != mend.row) {
                match is_json {
                    true => walk.later.entry(mend.row).or_default().push(mend),
                    false => walk.take(&block, mend, is_text, log)?,
                }
            }
        }
        while let Some(row) = rows.next_if(|row| row.0 < end) {
            walk.take_out(&block, row, is_text, log)?;
        }
    }
    match is_text {
        true => text::write(file, &walk.patches, output)?,
        false if is_json => write_records(file, &mut walk, mending.path, (log, output))?,
        false => {
            let (part, number) = file.sheet_part().unwrap_or_default();
            let number = (form == "ods").then_some(number);
            match is_mended_anew(form) {
                true => write_anew(file, gate, &walk.cells, output)?,
                false => book::patch((mending.path, None), (part, number), &walk.cells, output)?,
            }
        }
    }
    Ok(walk.sum)
}

/// Whether a file of this form is written anew as XLSX when it is mended, since nothing else of its package can be kept.
#[must_use]
pub fn is_mended_anew(form: &str) -> bool {
    matches!(form, "xls" | "xlsb")
}

/// Writes the sheet of a workbook as a workbook of its own, with these cells rewritten.
fn write_anew(
    file: &TableFile,
    gate: &Gate,
    cells: &BTreeMap<(u64, usize), NewCell>,
    output: &mut Output,
) -> Result<(), Error> {
    let folder = tempfile::tempdir().map_err(Error::temporary)?;
    let frame = plain_book::frame(plain_book::sheet_name(file), folder.path())?;
    let (place, fault) = (output.path().to_owned(), Arc::new(Mutex::new(None)));
    let mut made = plain_book::Sheet::new(file, gate, gate.table().heading_row, &place, Arc::clone(&fault));
    let written = book::patch((&frame, Some(&mut made)), (plain_book::PART, None), cells, output);
    let fault = fault.lock().unwrap_or_else(PoisonError::into_inner).take();
    fault.map_or(written, Err)
}

/// Writes records of JSON with their values rewritten where they stand.
fn write_records(
    file: &TableFile,
    walk: &mut Walk<'_>,
    path: &Path,
    (log, output): (&mut Option<RowOutput>, &mut Output),
) -> Result<(), Error> {
    let not_mended = || Error::NotMended { path: path.to_owned(), form: file.form() };
    let shape = file.shape_of_records().ok_or_else(not_mended)?;
    // What reads the records has a place in the file of its own.
    let text = File::open(path).map_err(|source| Error::Read { path: path.to_owned(), source })?;
    let records = file.originals()?.ok_or_else(not_mended)?;
    let later = std::mem::take(&mut walk.later);
    let edit = |mend: &Mend| Edit { names: walk.names(mend.column), after: mend.after.clone() };
    let edits = later.iter().map(|(row, mends)| (*row, mends.iter().map(edit).collect())).collect();
    let mut done = |row: u64, number: usize| match later.get(&row).and_then(|mends| mends.get(number)) {
        Some(mend) => walk.count(mend, log),
        None => Ok(()),
    };
    json::rewrite((path, text), records, shape, &edits, &mut done, output)
}

struct Walk<'g> {
    gate: &'g Gate,
    sum: MendSum,
    /// Of a text, in order.
    patches: Vec<Patch>,
    /// Of a sheet, by row and column.
    cells: BTreeMap<(u64, usize), NewCell>,
    /// Of records, by row: which of them are texts or numbers is known when they are written.
    later: BTreeMap<u64, Vec<Mend>>,
}

impl Walk<'_> {
    /// The rows that are taken out: totals, notes, examples and blank ones. Of a sheet those below all records alone,
    /// since what refers to rows below would go astray.
    fn rows(&self, outcome: &Outcome, only: &[Code], is_text: bool) -> Vec<(u64, Code)> {
        let is_meant = |code: Code| ROWS.contains(&code) && (only.is_empty() || only.contains(&code));
        let is_last = |code: Code| is_text || matches!(code, Code::TotalRow | Code::FooterRow);
        let told = outcome.late.iter().filter(|finding| is_meant(finding.code) && is_last(finding.code));
        let rows = |finding: &Finding| {
            let first = finding.row.unwrap_or_default();
            (first..=finding.row_last.unwrap_or(first))
                .map(move |row| (row, finding.code))
                .collect::<Vec<_>>()
        };
        let mut rows: Vec<(u64, Code)> = told.flat_map(rows).filter(|row| row.0 > 0).collect();
        let example = self.gate.table().example_row.filter(|_| is_text && is_meant(Code::ExampleRow));
        rows.extend(example.map(|row| (row, Code::ExampleRow)));
        rows.sort_unstable();
        rows.dedup_by_key(|row| row.0);
        rows
    }

    /// The paths of keys under which a value of a column may stand.
    fn names(&self, column: usize) -> Vec<String> {
        let table = self.gate.table();
        let heading = table.headings.get(column).cloned().unwrap_or_default();
        let field = self.gate.field_name(column).and_then(|name| self.gate.schema().field(&name));
        let field = field.and_then(|number| self.gate.schema().fields.get(number));
        // Records may spell a key otherwise than the first of them.
        let others = field.into_iter().flat_map(|field| {
            [field.name.clone(), field.label.clone()].into_iter().chain(field.also.clone())
        });
        std::iter::once(heading).chain(others).collect()
    }

    /// Counts a mended cell, and logs it.
    fn count(&mut self, mend: &Mend, log: &mut Option<RowOutput>) -> Result<(), Error> {
        self.sum.cells += 1;
        for code in &mend.codes {
            *self.sum.by_code.entry(*code).or_default() += 1;
            *self.sum.by_column.entry((mend.column, *code)).or_default() += 1;
        }
        if let Some(log) = log.as_mut() {
            let codes: Vec<&str> = mend.codes.iter().map(|code| code.name()).collect();
            let why: Vec<&str> = mend.codes.iter().map(|code| entry(*code).title).collect();
            let shown = |text: &str| match self.gate.is_sensitive(mend.column) {
                true => MASK.to_owned(),
                false => text.to_owned(),
            };
            let line = [
                mend.row.to_string(),
                letter(mend.column),
                self.gate.table().headings.get(mend.column).cloned().unwrap_or_default(),
                self.gate.field_name(mend.column).unwrap_or_default(),
                shown(&mend.before),
                shown(&mend.after),
                codes.join(" "),
                why.join("; "),
            ];
            plain_list::write(log, line.into_iter())?;
        }
        Ok(())
    }

    fn take(
        &mut self,
        block: &Block,
        mend: Mend,
        is_text: bool,
        log: &mut Option<RowOutput>,
    ) -> Result<(), Error> {
        self.count(&mend, log)?;
        if !is_text {
            let cell = if mend.is_number { NewCell::Number(mend.after) } else { NewCell::Text(mend.after) };
            self.cells.insert((mend.row, mend.column), cell);
            return Ok(());
        }
        let (start, end) = mend.span;
        let raw = block.buffer.get(start..end).unwrap_or_default();
        let dialect = self.gate.table().dialect;
        let text = text::cell(&mend.after, raw, dialect.delimiter, dialect.quote);
        let (from, to) = (block.offset + start as u64, block.offset + end as u64);
        self.patches.push(Patch { from, to, text: text.into_boxed_slice() });
        Ok(())
    }

    fn take_out(
        &mut self,
        block: &Block,
        (row, code): (u64, Code),
        is_text: bool,
        log: &mut Option<RowOutput>,
    ) -> Result<(), Error> {
        self.sum.rows += 1;
        *self.sum.by_code.entry(code).or_default() += 1;
        let (start, end) = text::row(block, row, self.gate.table().dialect);
        if let Some(log) = log.as_mut() {
            let raw = block.buffer.get(start..end).unwrap_or_default();
            let is_marked = self.gate.table().dialect.marks;
            let text: String =
                String::from_utf8_lossy(raw).chars().filter(|c| !is_marked || !c.is_control()).collect();
            let any_masked = (0..self.gate.width()).any(|column| self.gate.is_sensitive(column));
            let before = if any_masked { MASK.to_owned() } else { text.trim_end().to_owned() };
            let blank = String::new();
            let line = [
                row.to_string(),
                blank.clone(),
                blank.clone(),
                blank.clone(),
                before,
                blank,
                code.name().to_owned(),
                format!("{}; the row is taken out", entry(code).title),
            ];
            plain_list::write(log, line.into_iter())?;
        }
        if is_text {
            let (from, to) = (block.offset + start as u64, block.offset + end as u64);
            self.patches.push(Patch { from, to, text: Box::default() });
        } else {
            (0..self.gate.width())
                .for_each(|column| drop(self.cells.insert((row, column), NewCell::Nothing)));
        }
        Ok(())
    }
}
