//! The results of blocks, joined in their order.

use super::outcome::Outcome;
use super::records::Records;
use super::source::{BlockSource, FindingSink};
use crate::block::{Extent, OpenRow};
use crate::catalogue::{Code, Level};
use crate::finding::Finding;
use crate::gate::{Ending, Gate, Judged, MOST_KEPT, Shares};
use crate::numerals::grouped;

/// A block that begins with one of the last rows of the table.
pub(super) struct Deferred {
    /// What the row may be, if it may be no record.
    pub(super) ending: Option<Ending>,
    pub(super) extent: Extent,
    pub(super) open: Option<OpenRow>,
}

/// Joins the results of blocks, in order.
pub(super) struct Merge {
    pub(super) outcome: Outcome,
    pub(super) records: Records,
    /// What rows share with other records that are there, and what their own give up.
    pub(super) shares: (Vec<Shares>, Vec<Shares>),
    /// Rows without a value at the end of what was merged so far: first, last, whether one holds delimiters.
    pending: Option<(u64, u64, bool)>,
    first_row: u64,
    /// The last rows, if they may be a total and notes: then they are judged when all others are.
    pub(super) deferred: Vec<Deferred>,
    /// Whether a byte beyond ASCII was met.
    beyond_ascii: bool,
    sheet: Option<String>,
    /// The levels of rows without a value between others and at the end.
    blank_levels: (Level, Level),
}

impl Merge {
    pub(super) fn new(gate: &Gate) -> Self {
        Self {
            outcome: Outcome::of_width(gate.width()),
            records: Records::default(),
            shares: Default::default(),
            pending: None,
            first_row: gate.table().first_row,
            deferred: Vec::new(),
            beyond_ascii: false,
            sheet: gate.table().sheet().map(str::to_owned),
            blank_levels: (
                gate.told_level(Code::RowBlank, Level::Note),
                gate.told_level(Code::BlankTail, Level::Note),
            ),
        }
    }

    /// Looks whether a block that was judged is no text; the first one beyond ASCII tells whether the encoding is another.
    pub(super) fn look_at_text<S: BlockSource>(
        &mut self,
        judged: &Judged,
        source: &S,
        extent: &Extent,
    ) -> Result<(), S::Error> {
        if let Some(row) = judged.nul {
            return Err(source.not_text(row));
        }
        if !judged.beyond_ascii || std::mem::replace(&mut self.beyond_ascii, true) || !judged.broken_text {
            return Ok(());
        }
        source.other_encoding(extent).map_or(Ok(()), Err)
    }

    pub(super) fn take<E>(
        &mut self,
        judged: Judged,
        extent: Extent,
        open: Option<OpenRow>,
        sink: &mut Option<&mut dyn FindingSink<E>>,
    ) -> Result<(), E> {
        self.outcome.counts.rows += judged.rows + judged.passed;
        self.outcome.counts.left_out += judged.passed;
        self.outcome.counts.held += self.outcome.held.push(judged.held);
        self.shares.0.extend(judged.shares.0);
        self.shares.1.extend(judged.shares.1);
        self.records.push(judged.records);
        self.outcome.extents.push(extent, judged.milestones);
        self.outcome.evidence.take(&judged.clues, None, &[]);
        let mut findings = judged.findings.iter().peekable();
        let end = extent.first_row + extent.rows;
        for run in judged.blank {
            match &mut self.pending {
                Some(pending) if pending.1 + 1 == run.0 => {
                    pending.1 = run.1;
                    pending.2 |= run.2;
                }
                _ => {
                    self.settle_blank(sink)?;
                    self.pending = Some(run);
                }
            }
            if run.1 + 1 < end {
                if let Some(sink) = sink {
                    while let Some(finding) = findings.next_if(|finding| finding.row < Some(run.0)) {
                        sink.take(finding)?;
                    }
                }
                self.settle_blank(sink)?;
            }
        }
        if judged.rows + judged.passed > 0 || open.is_some() {
            // Rows with a value stand behind the run, unless it is the last thing of this block.
            let is_tail = self.pending.is_some_and(|pending| pending.1 + 1 == end && open.is_none());
            if !is_tail {
                self.settle_blank(sink)?;
            }
        }
        if let Some(sink) = sink {
            findings.try_for_each(|finding| sink.take(finding))?;
        }
        if let Some(open) = open {
            // Headings that never close are no row.
            self.outcome.counts.rows += u64::from(open.row >= self.first_row);
            self.outcome.open = Some(open);
        }
        Ok(())
    }

    /// The pending run stands between rows: it is told.
    fn settle_blank<E>(&mut self, sink: &mut Option<&mut dyn FindingSink<E>>) -> Result<(), E> {
        let Some((first, last, _)) = self.pending.take() else { return Ok(()) };
        let level = self.blank_levels.0;
        let finding = blank_rows(Code::RowBlank, level, (first, last), &self.sheet);
        let count = self.outcome.tallies.count_rows(Code::RowBlank, level, first, last - first + 1);
        if let Some(sink) = sink {
            sink.take(&finding)?;
        }
        if count <= MOST_KEPT as u64 {
            self.outcome.kept.push(finding);
        }
        Ok(())
    }

    /// The end of the file: a run that is still pending is its tail.
    pub(super) fn end(&mut self) {
        if let Some((first, last, true)) = self.pending.take() {
            let level = self.blank_levels.1;
            self.outcome.tallies.count_rows(Code::BlankTail, level, first, last - first + 1);
            let finding = blank_rows(Code::BlankTail, level, (first, last), &self.sheet);
            self.outcome.kept.push(finding.clone());
            self.outcome.late.push(finding);
        }
    }
}

fn blank_rows(code: Code, level: Level, (first, last): (u64, u64), sheet: &Option<String>) -> Finding {
    let message = match (code, last - first + 1) {
        (Code::RowBlank, 1) => "the row holds no value".to_owned(),
        (Code::RowBlank, n) => format!("{} rows without a value, to row {last}", grouped(n)),
        (_, 1) => "the last row holds no value".to_owned(),
        (_, n) => format!("the last {} rows hold no value", grouped(n)),
    };
    let mut finding = Finding::new(code, level, message);
    finding.row = Some(first);
    finding.row_last = (last > first).then_some(last);
    finding.sheet.clone_from(sheet);
    finding
}
