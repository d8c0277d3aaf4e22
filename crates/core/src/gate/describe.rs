//! From marks to findings with their places and values.

use super::assembly::Gate;
use super::compiled::Compiled;
use super::mark::Mark;
use super::numbers::hundredfold;
use super::places::LineCounter;
use super::wording;
use super::writing::Cell;
use crate::block::Block;
use crate::catalogue::{Code, Level, entry};
use crate::finding::Finding;
use crate::numerals::counted;
use crate::rows::{Cells, text_of};
use crate::scan::{SheetMark, mark_of, walk_row};
use std::borrow::Cow;

impl Gate {
    /// Puts a mark into words.
    pub(super) fn describe(
        &self,
        mark: Mark,
        block: &Block,
        cells: &Cells,
        lines: &mut LineCounter<'_>,
    ) -> Finding {
        let mut finding = Finding::new(mark.code, mark.level, String::new());
        finding.row = Some(block.first_row + u64::from(mark.place));
        if let Some(rules) = &self.rules
            && rules.describe(self, mark, block, cells, lines, &mut finding).is_some()
        {
            return self.table.placed(finding);
        }
        if let Some(records) = &self.lines
            && records.describe(self, mark, block, cells, lines, &mut finding)
        {
            return self.table.placed(finding);
        }
        if mark.code == Code::RequiredBlank && mark.column == 0 {
            self.describe_lacking(mark, block, cells, lines, &mut finding);
            return self.table.placed(finding);
        }
        let mut finding = self.describe_cell(mark, block, cells, lines, finding);
        match mark.code {
            Code::KeyExists | Code::KeyNotFound => self.describe_there(mark, block, cells, &mut finding),
            Code::ReferenceCycle => self.describe_cycle(mark, block, cells, &mut finding),
            Code::ReadOnlyChanged | Code::FieldOutOfScope => {
                self.describe_changed(mark, block, cells, &mut finding);
            }
            _ => {}
        }
        finding
    }
}

impl Compiled {
    fn describe_cell(
        &self,
        mark: Mark,
        block: &Block,
        cells: &Cells,
        lines: &mut LineCounter<'_>,
        mut finding: Finding,
    ) -> Finding {
        if mark.column == 0 {
            if mark.code == Code::RecordUnreadable {
                self.describe_unreadable(mark, block, cells, &mut finding);
            } else {
                self.describe_width(mark, cells, lines, &mut finding);
            }
            return self.table.placed(finding);
        }
        let (row, column) = (mark.row as usize, usize::from(mark.column) - 1);
        finding.line = Some(lines.of(mark.place, cells.row(row).0));
        self.place(column, &mut finding);
        finding.key = self.key_of(block, cells, row);
        let (start, end) = cells.cell(row, column);
        let raw = block.buffer.get(start..end).unwrap_or_default();
        let text = match text_of(raw, self.table.dialect) {
            Ok(text) => text.into_owned(),
            Err(bytes) => String::from_utf8_lossy(&bytes).into_owned(),
        };
        let sensitive = self.is_sensitive(column);
        let as_percent = self.as_percent(column, &text, raw);
        let blank = matches!(mark.code, Code::RequiredBlank | Code::KeyBlank);
        let shown = match mark.code {
            // A word that a plan takes for blank is shown as it stands.
            _ if blank => text.trim(),
            // Outer spaces are what this is about.
            Code::SpaceStray => text.as_str(),
            _ => as_percent.as_deref().unwrap_or(text.trim()),
        };
        finding.set_value(shown, sensitive && !shown.is_empty());
        let program = self.columns.get(column).map(|column| &column.program);
        let cell = Cell::of(&text, raw, self.table.dialect);
        let kind = (mark.code, mark.level);
        let words =
            wording::of_cell(kind, self.field(column), program, &self.schema.picklists, cell, sensitive);
        (finding.message, finding.suggestion) = (words.message, words.suggestion);
        words.expected.into_iter().for_each(|expected| finding.expect(expected));
        self.table.placed(finding)
    }

    /// A stored number as the percentage that a person sees, in a column of percentages.
    #[must_use]
    pub fn as_percent(&self, column: usize, text: &str, raw: &[u8]) -> Option<String> {
        let is_meant = self.field(column).is_some_and(|field| field.stated.percent);
        let is_one = is_meant && mark_of(raw, self.table.dialect) == Some(SheetMark::Percent);
        let number = is_one.then(|| hundredfold(text.trim()))??;
        Some(format!("{number} %"))
    }

    /// What stands in the place of a record.
    fn describe_unreadable(&self, mark: Mark, block: &Block, cells: &Cells, finding: &mut Finding) {
        let Some(misfit) = cells.misfits.get(mark.row as usize) else { return };
        let row = block.buffer.get(misfit.start as usize..misfit.end as usize).unwrap_or_default();
        let mut first = None;
        walk_row(row, 0, self.table.dialect, |end| first = first.or(Some(end)), |_| ());
        let raw = row.get(..first.unwrap_or(row.len())).unwrap_or_default();
        let text = text_of(raw, self.table.dialect).map(Cow::into_owned).unwrap_or_default();
        // Nobody knows which of its values must not be shown.
        let is_sensitive = self.schema.fields.iter().any(|field| field.sensitive);
        finding.set_value(text.trim(), is_sensitive);
        finding.message = entry(Code::RecordUnreadable).title.to_owned();
        finding.expect("one whole object of keys and values".to_owned());
    }

    fn describe_width(&self, mark: Mark, cells: &Cells, lines: &mut LineCounter<'_>, finding: &mut Finding) {
        let Some(misfit) = cells.misfits.get(mark.row as usize) else { return };
        finding.line = Some(lines.of(mark.place, misfit.start as usize));
        finding.value = Some(counted(u64::from(misfit.cells), "cell", "cells"));
        let is_short = (misfit.cells as usize) < self.width();
        finding.message = if mark.level == Level::Note && is_short {
            "the row has fewer cells than there are headings; the missing ones are taken as blank".to_owned()
        } else if mark.level == Level::Note {
            "the row has more cells than there are headings; the surplus is blank".to_owned()
        } else if !is_short {
            "the row has more cells than there are headings; it is judged no further".to_owned()
        } else {
            "the row has fewer cells than there are headings; it is judged no further".to_owned()
        };
        finding.expect(counted(self.width() as u64, "cell", "cells"));
    }
}
