//! Looking at a file without judging it: its layout, what its columns hold.

use super::setup::layout_of;
use crate::args::LayoutArgs;
use crate::interrupt::INTERRUPTED;
use crate::progress::Progress;
use std::path::Path;
use tidy_gate_core::block::Block;
use tidy_gate_core::gate::{Contents, Gate, Settings};
use tidy_gate_core::peek::PeekColumn;
use tidy_gate_core::profile::{ColumnProfile, Profiler, RowLook};
use tidy_gate_core::report::columns;
use tidy_gate_core::run::{BlockSource, Watch};
use tidy_gate_core::schema::RecordSchema;
use tidy_gate_files::{Error, Input, ReadOptions, TableFile};

/// So many bytes of text are looked at, unless all are asked for.
const SAMPLE: u64 = 4 << 20;

/// What to look at, and how.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Look<'a> {
    pub(crate) file: &'a Path,
    pub(crate) layout: &'a LayoutArgs,
    /// The record schema that helps to find the table.
    pub(crate) schema: Option<&'a RecordSchema>,
    pub(crate) settings: &'a Settings,
    /// Whether all rows are looked at, not only the first ones.
    pub(crate) all: bool,
    /// So many of the first rows are kept.
    pub(crate) rows: usize,
}

/// A file and what was seen of it.
pub(crate) struct Seen {
    pub(crate) file: TableFile,
    pub(crate) gate: Gate,
    pub(crate) contents: Contents,
    profiler: Profiler,
    pub(crate) is_whole: bool,
    /// How many bytes of text were looked at.
    pub(crate) text_read: u64,
    /// The last row, if it looks like a total.
    pub(crate) total_row: Option<u64>,
}

impl Look<'_> {
    /// Looks.
    pub(crate) fn look(&self) -> Result<Seen, Error> {
        let empty = RecordSchema::empty();
        let schema = self.schema.unwrap_or(&empty);
        let (options, sheet) = layout_of(self.file, self.layout, &self.settings.plan, schema)?;
        options.reading(|options| self.read(options, sheet), Error::itself)
    }

    fn read(&self, options: &ReadOptions, sheet: Option<&str>) -> Result<Seen, Error> {
        let input = Input::open(self.file)?;
        let plan = &self.settings.plan;
        let widened = self.schema.map(|schema| plan.widened(schema.clone()));
        let file = TableFile::open_sheet(input, sheet, options, widened.as_ref(), false, &INTERRUPTED)?;
        let table = file.table();
        let profiler = Profiler::new(&table.headings, table.dialect, self.rows, self.settings.today);
        let profiler = profiler.filling_short_rows(table.short_rows_are_blank);
        let progress = Progress::new(file.size());
        let schema = self.schema.cloned().unwrap_or_else(RecordSchema::empty);
        let gate = Gate::new(schema, self.settings.clone(), table.clone());
        let contents = Contents::new(&gate);
        let mut seen = Seen { profiler, is_whole: true, text_read: 0, total_row: None, file, gate, contents };
        let (mut block, mut is_ascii) = (Block::default(), true);
        while seen.file.next(&mut block)? {
            if is_ascii && !block.content().is_ascii() {
                is_ascii = false;
                if std::str::from_utf8(block.content()).is_err()
                    && let Some(error) = seen.file.other_encoding(&block.extent())
                {
                    return Err(error);
                }
            }
            if seen.gate.may_be_total(&block) {
                seen.total_row = Some(block.first_row);
            } else {
                seen.profiler.look_at(&block);
                if self.schema.is_some() {
                    seen.contents.look_at(&seen.gate, &block);
                }
            }
            seen.text_read = block.offset + block.len as u64;
            progress.judged(seen.profiler.rows(), seen.text_read);
            if !self.all && seen.text_read >= SAMPLE && !block.last {
                seen.is_whole = false;
                break;
            }
        }
        Ok(seen)
    }
}

/// What is left of a look when its rows have gone by.
pub(crate) struct Profiled {
    pub(crate) file: TableFile,
    pub(crate) gate: Gate,
    pub(crate) contents: Contents,
    pub(crate) rows: RowLook,
    profiles: Vec<ColumnProfile>,
    pub(crate) is_whole: bool,
    pub(crate) text_read: u64,
    pub(crate) total_row: Option<u64>,
}

impl Seen {
    /// The profiles of the columns.
    pub(crate) fn profiled(self) -> Profiled {
        let Self { file, gate, contents, profiler, is_whole, text_read, total_row } = self;
        let (profiles, rows) = profiler.finish();
        Profiled { file, gate, contents, rows, profiles, is_whole, text_read, total_row }
    }
}

impl Profiled {
    /// The columns with their profiles, as a gate pairs them; values of sensitive fields are masked.
    pub(crate) fn columns(&self, gate: &Gate) -> Vec<PeekColumn> {
        let filled: Vec<u64> = self.profiles.iter().map(|profile| profile.filled).collect();
        columns(gate, &filled)
            .into_iter()
            .zip(&self.profiles)
            .enumerate()
            .map(|(number, (column, profile))| {
                PeekColumn::new(column, profile.clone(), gate.is_sensitive(number))
            })
            .collect()
    }
}
