//! A whole check: every block judged, repeats confirmed, the verdict on every row settled.

mod extents;
mod held;
mod misfit;
mod records;
mod replay;

pub use extents::Extents;
pub use held::Held;
pub use records::RecordCounts;
pub use replay::Replay;

use crate::block::{Block, Extent, OpenRow};
use crate::catalogue::{Code, Level, entry};
use crate::finding::{Finding, letter};
use crate::gate::{
    Confirm, Ending, FIRST_OF_EACH, Gate, Judge, Judged, MOST_KEPT, Repeats, Rewriting, Suspects, Tallies,
    Votes, Words, at_heading,
};
use crate::headings::Paired;
use crate::order::in_order;
use records::Records;

/// Where blocks come from: once in order, and again by their place.
pub trait BlockSource: Sync {
    /// What can go wrong with reading.
    type Error: Send;

    /// Fills the block with the next rows; false when there are none. The number of each block is one
    /// more than that of the block before.
    ///
    /// # Errors
    /// When the bytes cannot be read.
    fn next(&self, block: &mut Block) -> Result<bool, Self::Error>;

    /// Fills the block with rows that were read before.
    ///
    /// # Errors
    /// When the bytes cannot be read again, or are not those that were read before.
    fn again(&self, extent: &Extent, block: &mut Block) -> Result<(), Self::Error>;

    /// The error for a file that holds a NUL byte in this row: no text.
    fn not_text(&self, row: u64) -> Self::Error;

    /// What is known of the table only when it is read to its end, for a table of so many columns.
    fn closing(&self, _width: usize) -> Vec<Finding> {
        Vec::new()
    }

    /// The error for a file whose bytes beyond ASCII, first met in this block, are those of another encoding than
    /// was taken; nothing where that cannot be.
    fn other_encoding(&self, _: &Extent) -> Option<Self::Error> {
        None
    }
}

/// Told of the progress; may ask for an end.
pub trait Watch: Sync {
    /// So many rows and bytes have been judged so far.
    fn judged(&self, rows: u64, bytes: u64);
}

/// For runs that nobody watches.
#[derive(Debug, Clone, Copy, Default)]
pub struct Unwatched;

impl Watch for Unwatched {
    fn judged(&self, _: u64, _: u64) {}
}

/// Takes every finding of the rows, in order; what the end of the file teaches comes from [`Outcome::late`].
pub trait FindingSink<E>: Send {
    /// Takes one.
    ///
    /// # Errors
    /// When it cannot be kept.
    fn take(&mut self, finding: &Finding) -> Result<(), E>;
}

/// How many rows there are, and what became of them.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Counts {
    /// The rows read, from the first below the headings.
    pub rows: u64,
    /// The rows with a stop.
    pub held: u64,
    /// The rows that are no records.
    pub left_out: u64,
}

impl Counts {
    /// The rows that are records.
    #[must_use]
    pub fn records(self) -> u64 {
        self.rows - self.left_out
    }
}

/// What a check found.
#[derive(Debug, Default)]
pub struct Outcome {
    /// The rows.
    pub counts: Counts,
    /// Every row with a stop of its own.
    pub held: Held,
    /// Whether a stop without a row holds all of them.
    pub all_held: bool,
    /// The findings by column, code and level.
    pub tallies: Tallies,
    /// How many cells of each column hold something.
    pub filled: Vec<u64>,
    /// What the cells of each column say of how it is written.
    pub votes: Vec<Votes>,
    /// What of each column is handed on otherwise than it stands.
    pub rewriting: Vec<Rewriting>,
    /// The wrong words of each column.
    pub words: Vec<Words>,
    /// The findings kept for the report, not in order.
    pub kept: Vec<Finding>,
    /// The confirmed repeats.
    pub repeats: Repeats,
    /// Findings that only the end of the file could tell, repeats aside, in order.
    pub late: Vec<Finding>,
    /// The blocks.
    pub extents: Extents,
    /// The last row, if a quoted cell in it never closes.
    pub open: Option<OpenRow>,
    /// The last row, if it is a total or a note and was left out.
    pub last_left_out: Option<u64>,
    /// What holds the last row, if it is called a total but does not sum.
    pub wrong_total: Option<Finding>,
    /// The records, where several rows make one.
    pub records: Option<RecordCounts>,
}

/// Judges the whole file.
///
/// # Errors
/// When it cannot be read to its end, or a finding cannot be kept.
pub fn judge<S: BlockSource>(
    gate: &Gate,
    source: &S,
    threads: usize,
    watch: &dyn Watch,
    mut sink: Option<&mut dyn FindingSink<S::Error>>,
) -> Result<Outcome, S::Error> {
    if gate.ends_work() {
        let (tallies, filled) = (Tallies::of_width(gate.width()), vec![0; gate.width()]);
        return Ok(Outcome {
            all_held: true,
            tallies,
            filled,
            votes: vec![Votes::default(); gate.width()],
            rewriting: vec![Rewriting::default(); gate.width()],
            ..Outcome::default()
        });
    }
    let wants_all = sink.is_some();
    let mut merge = Merge::new(gate);
    let states = in_order(
        threads,
        || (Judge::new(gate, wants_all), Block::default()),
        |(_, block)| Ok(source.next(block)?.then_some(block.number)),
        |(judge, block)| match gate.ending(block) {
            // What the row is, only the rows above it can tell.
            Some(ending) => {
                gate.pass_lines(block);
                (Judged::default(), block.extent(), block.open, Some(ending))
            }
            None => (judge.judge(block), block.extent(), block.open, None),
        },
        |(judged, extent, open, ending)| {
            if let Some(ending) = ending {
                merge.ending = Some((ending, extent, open));
                return Ok(());
            }
            if let Some(row) = judged.nul {
                return Err(source.not_text(row));
            }
            if judged.beyond_ascii && !merge.beyond_ascii {
                merge.beyond_ascii = true;
                if judged.broken_text
                    && let Some(error) = source.other_encoding(&extent)
                {
                    return Err(error);
                }
            }
            merge.take(judged, extent, open, &mut sink)?;
            watch.judged(merge.counts.rows, extent.offset + extent.len as u64);
            Ok(())
        },
    )?;
    let mut states: Vec<_> = states.into_iter().map(|(judge, _)| judge).collect();
    settle_ending(gate, source, &mut merge, &mut states, &mut sink)?;
    merge.end();
    for finding in source.closing(gate.width()).into_iter().map(|finding| gate.told(finding)) {
        merge.tallies.count(0, finding.code, finding.level, finding.row.unwrap_or_default());
        let finding = gate.table().placed(finding);
        merge.kept.push(finding.clone());
        merge.late.push(finding);
    }
    merge.counts.rows += gate.table().left_out;
    merge.counts.left_out += gate.table().left_out;
    let mut outcome = Outcome {
        counts: merge.counts,
        held: merge.held,
        all_held: gate.holds_all() || merge.open.is_some(),
        tallies: merge.tallies,
        filled: vec![0; gate.width()],
        votes: vec![Votes::default(); gate.width()],
        rewriting: vec![Rewriting::default(); gate.width()],
        words: (0..gate.width()).map(|_| Words::default()).collect(),
        kept: merge.kept,
        repeats: Repeats::default(),
        late: merge.late,
        extents: merge.extents,
        open: merge.open,
        last_left_out: merge.last_left_out,
        wrong_total: merge.wrong_total,
        records: None,
    };
    let mut stores = Vec::new();
    for judge in states {
        let found = judge.finish();
        outcome.votes.iter_mut().zip(found.votes).for_each(|(sum, votes)| sum.join(votes));
        outcome.tallies.join(&found.tallies);
        outcome.filled.iter_mut().zip(found.filled).for_each(|(sum, filled)| *sum += filled);
        for (sum, one) in outcome.rewriting.iter_mut().zip(found.rewriting) {
            sum.unlike += one.unlike;
            sum.defaulted += one.defaulted;
        }
        outcome.words.iter_mut().zip(found.words).for_each(|(sum, words)| sum.join(words));
        outcome.kept.extend(found.kept);
        stores.push(found.keys);
    }
    confirm_repeats(gate, source, Suspects::find(stores, threads), &mut outcome)?;
    settle_records(gate, &merge.records, &mut outcome);
    keep_repeats(gate, source, &mut outcome)?;
    settle_columns(gate, &mut outcome);
    misfit::settle(gate, source, &mut outcome)?;
    let holds_all = |finding: &&Finding| finding.level == Level::Stop && finding.code != Code::TotalWrong;
    outcome.all_held |= outcome.late.iter().any(|finding| holds_all(&finding));
    if outcome.all_held {
        outcome.counts.held = outcome.counts.records();
        outcome.records.iter_mut().for_each(|records| records.held = records.all);
    }
    Ok(outcome)
}

/// Joins the results of blocks, in order.
struct Merge {
    counts: Counts,
    held: Held,
    records: Records,
    extents: Extents,
    tallies: Tallies,
    kept: Vec<Finding>,
    late: Vec<Finding>,
    /// Rows without a value at the end of what was merged so far: first, last, whether one holds delimiters.
    pending: Option<(u64, u64, bool)>,
    open: Option<OpenRow>,
    first_row: u64,
    /// The last block, if its row may be a total: then it is judged when all others are.
    ending: Option<(Ending, Extent, Option<OpenRow>)>,
    last_left_out: Option<u64>,
    wrong_total: Option<Finding>,
    /// Whether a byte beyond ASCII was met.
    beyond_ascii: bool,
    sheet: Option<String>,
    /// The levels of rows without a value between others and at the end.
    blank_levels: (Level, Level),
}

impl Merge {
    fn new(gate: &Gate) -> Self {
        Self {
            counts: Counts::default(),
            held: Held::default(),
            records: Records::default(),
            extents: Extents::default(),
            tallies: Tallies::of_width(gate.width()),
            kept: Vec::new(),
            late: Vec::new(),
            pending: None,
            open: None,
            first_row: gate.table().first_row,
            ending: None,
            last_left_out: None,
            wrong_total: None,
            beyond_ascii: false,
            sheet: gate.table().sheet.clone(),
            blank_levels: (
                gate.told_level(Code::RowBlank, Level::Note),
                gate.told_level(Code::BlankTail, Level::Note),
            ),
        }
    }

    fn take<E>(
        &mut self,
        judged: Judged,
        extent: Extent,
        open: Option<OpenRow>,
        sink: &mut Option<&mut dyn FindingSink<E>>,
    ) -> Result<(), E> {
        self.counts.rows += judged.rows + judged.passed;
        self.counts.left_out += judged.passed;
        self.counts.held += self.held.push(judged.held);
        self.records.push(judged.records);
        self.extents.push(extent, judged.milestones);
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
            self.counts.rows += u64::from(open.row >= self.first_row);
            self.open = Some(open);
        }
        Ok(())
    }

    /// The pending run stands between rows: it is told.
    fn settle_blank<E>(&mut self, sink: &mut Option<&mut dyn FindingSink<E>>) -> Result<(), E> {
        let Some((first, last, _)) = self.pending.take() else { return Ok(()) };
        let level = self.blank_levels.0;
        let finding = blank_rows(Code::RowBlank, level, (first, last), &self.sheet);
        let count = self.tallies.count_rows(Code::RowBlank, level, first, last - first + 1);
        if let Some(sink) = sink {
            sink.take(&finding)?;
        }
        if count <= MOST_KEPT as u64 {
            self.kept.push(finding);
        }
        Ok(())
    }

    /// The end of the file: a run that is still pending is its tail.
    fn end(&mut self) {
        if let Some((first, last, true)) = self.pending.take() {
            let level = self.blank_levels.1;
            self.tallies.count_rows(Code::BlankTail, level, first, last - first + 1);
            let finding = blank_rows(Code::BlankTail, level, (first, last), &self.sheet);
            self.kept.push(finding.clone());
            self.late.push(finding);
        }
    }
}

fn blank_rows(code: Code, level: Level, (first, last): (u64, u64), sheet: &Option<String>) -> Finding {
    let message = match (code, last - first + 1) {
        (Code::RowBlank, 1) => "the row holds no value".to_owned(),
        (Code::RowBlank, n) => format!("{} rows without a value, to row {last}", crate::gate::grouped(n)),
        (_, 1) => "the last row holds no value".to_owned(),
        (_, n) => format!("the last {} rows hold no value", crate::gate::grouped(n)),
    };
    let mut finding = Finding::new(code, level, message);
    finding.row = Some(first);
    finding.row_last = (last > first).then_some(last);
    finding.sheet.clone_from(sheet);
    finding
}

/// Judges the last row when it may be a total: left out if it is one, else judged as any other.
fn settle_ending<S: BlockSource>(
    gate: &Gate,
    source: &S,
    merge: &mut Merge,
    judges: &mut [Judge<'_>],
    sink: &mut Option<&mut dyn FindingSink<S::Error>>,
) -> Result<(), S::Error> {
    let (Some((ending, extent, open)), Some(judge)) = (merge.ending.take(), judges.first_mut()) else {
        return Ok(());
    };
    let mut block = Block::default();
    let (mut sums, mut all) = (ending.sums(), ending.sums());
    let mut seeing_all = gate.passes_rows().then(|| Judge::seeing_all(gate));
    for before in merge.extents.blocks() {
        source.again(before, &mut block)?;
        gate.add_up(&ending, judge, &block, &mut sums);
        if let Some(judge) = &mut seeing_all {
            gate.add_up(&ending, judge, &block, &mut all);
        }
    }
    source.again(&extent, &mut block)?;
    let what = ending.what(&sums, if seeing_all.is_some() { &all } else { &sums });
    let Some(finding) = gate.last_row(&block, &what) else {
        let judged = judge.judge(&block);
        if let Some(row) = judged.nul {
            return Err(source.not_text(row));
        }
        return merge.take(judged, extent, open, sink);
    };
    let mut judged = judge.pass_over_first(&block);
    let is_held = finding.code == Code::TotalWrong;
    if is_held {
        judged.held = Some(Box::new([1]));
    }
    merge.take(judged, extent, open, sink)?;
    merge.tallies.count(finding.column.unwrap_or(0), finding.code, finding.level, extent.first_row);
    merge.kept.push(finding.clone());
    if is_held {
        merge.wrong_total = Some(finding.clone());
    } else {
        merge.counts.left_out += 1;
        merge.last_left_out = Some(extent.first_row);
    }
    merge.late.push(finding);
    Ok(())
}

fn confirm_repeats<S: BlockSource>(
    gate: &Gate,
    source: &S,
    mut suspects: Suspects,
    outcome: &mut Outcome,
) -> Result<(), S::Error> {
    let mut block = Block::default();
    if let Some(finding) = gate.drop_common(&mut suspects, outcome.counts.records()) {
        outcome.tallies.count(0, finding.code, finding.level, 0);
        outcome.kept.push(finding.clone());
        outcome.late.push(finding);
    }
    if !suspects.rows.is_empty() {
        let mut judge = Judge::new(gate, false);
        let mut confirm = Confirm::default();
        for (extent, rows) in outcome.extents.around(&suspects.rows, |suspect| suspect.row) {
            source.again(&extent, &mut block)?;
            gate.confirm(&mut judge, &block, rows, &mut confirm);
        }
        outcome.repeats = confirm.finish(|keyset| gate.is_near(keyset));
    }
    let passed = gate.passed().into_iter().flat_map(Repeats::by_keyset).map(|found| (found, Level::Warn));
    let told = outcome.repeats.told(|keyset| gate.is_apart(keyset));
    let repeats = told.map(|found| (found, gate.repeat_level(found.0)));
    for ((keyset, row), level) in repeats.chain(passed) {
        outcome.tallies.count_ruled(gate.repeat_counted(keyset, level), row);
    }
    for row in outcome.repeats.rows_of(|keyset| gate.repeat_holds(keyset)) {
        outcome.counts.held += u64::from(outcome.held.hold(row, outcome.extents.blocks()));
    }
    Ok(())
}

/// Where several rows make a record: a stop in one of them holds them all.
fn settle_records(gate: &Gate, records: &Records, outcome: &mut Outcome) {
    let Some(lines) = &gate.schema().lines else { return };
    let extents = outcome.extents.blocks();
    let mut miscounted = records.miscounted(&outcome.held, extents, |lines_of| lines.count.holds(&lines_of));
    for (row, count) in &miscounted {
        let (code, level) = gate.miscounted(*count);
        outcome.tallies.count(0, code, level, *row);
        if level == Level::Stop {
            outcome.counts.held += u64::from(outcome.held.hold(*row, extents));
        }
    }
    outcome.repeats.miscounted.append(&mut miscounted);
    let again: Vec<u64> = outcome.repeats.again(|keyset| gate.is_apart(keyset));
    let (more, counts) = records.hold(&mut outcome.held, extents, &again);
    outcome.counts.held += more;
    outcome.records = Some(counts);
}

/// Keeps the first findings of repeats.
fn keep_repeats<S: BlockSource>(gate: &Gate, source: &S, outcome: &mut Outcome) -> Result<(), S::Error> {
    let mut kept = Vec::new();
    let _ = each_repeat(gate, source, outcome, &mut |finding| {
        kept.push(finding.clone());
        Ok(kept.len() < MOST_KEPT + FIRST_OF_EACH as usize)
    })?;
    outcome.kept.extend(kept);
    Ok(())
}

/// Reads the repeated rows again and gives the finding of each, in order, until told to stop. False when it
/// was.
///
/// # Errors
/// When the rows cannot be read again, or an error of `take`.
pub fn each_repeat<S: BlockSource>(
    gate: &Gate,
    source: &S,
    outcome: &Outcome,
    take: &mut dyn FnMut(&Finding) -> Result<bool, S::Error>,
) -> Result<bool, S::Error> {
    let passed = gate.passed().into_iter().flat_map(Repeats::rows);
    let mut rows: Vec<u64> = outcome.repeats.rows().chain(passed).collect();
    rows.sort_unstable();
    rows.dedup();
    let (mut judge, mut block) = (Judge::seeing_passed(gate), Block::default());
    for (extent, _) in outcome.extents.around(&rows, |row| *row) {
        source.again(&extent, &mut block)?;
        for finding in gate.repeat_findings(&mut judge, &block, &outcome.repeats) {
            if !take(&finding)? {
                return Ok(false);
            }
        }
    }
    Ok(true)
}

/// Columns without a heading are findings when they hold values.
fn settle_columns(gate: &Gate, outcome: &mut Outcome) {
    let mut found = Vec::new();
    for (column, paired) in gate.pairing().columns.iter().enumerate() {
        let filled = outcome.filled.get(column).copied().unwrap_or_default();
        if *paired != Paired::Blank || filled == 0 {
            continue;
        }
        let values = if filled == 1 { "value" } else { "values" };
        let message = format!(
            "the column has no heading but holds {} {values}; it is left out",
            crate::gate::grouped(filled)
        );
        let finding = gate.told(at_heading(gate, Code::HeadingBlank, column, message));
        let row = gate.table().heading_row.unwrap_or_default();
        outcome.tallies.count(column + 1, Code::HeadingBlank, finding.level, row);
        found.push(gate.table().placed(finding));
    }
    if let Some(open) = outcome.open {
        found.push(open_quote(gate, open));
        outcome.tallies.count(
            open.column.min(gate.width().saturating_sub(1)) + 1,
            Code::QuoteOpen,
            Level::Stop,
            open.row,
        );
    }
    for (number, votes) in outcome.votes.clone().into_iter().enumerate() {
        let Some(finding) = gate.told_way(number, votes) else { continue };
        let row = gate.table().heading_row.unwrap_or_default();
        outcome.tallies.count(number + 1, Code::FormGuessed, finding.level, row);
        found.push(gate.table().placed(finding));
    }
    outcome.kept.extend(found.iter().cloned());
    outcome.late.extend(found);
    outcome.late.sort_by_key(Finding::order);
}

fn open_quote(gate: &Gate, open: OpenRow) -> Finding {
    let message = if open.cell_line > open.line {
        format!(
            "the quoted cell that begins on line {} never closes; all that follows was swallowed",
            open.cell_line
        )
    } else {
        "the quoted cell never closes; all that follows was swallowed".to_owned()
    };
    let mut finding = Finding::new(Code::QuoteOpen, entry(Code::QuoteOpen).level, message);
    finding.row = Some(open.row);
    finding.line = Some(open.line);
    finding.column = Some(open.column + 1);
    finding.letter = Some(letter(open.column));
    finding.heading = gate.heading(open.column);
    finding.expect("a closing quote".to_owned());
    finding
}

#[cfg(test)]
mod tests;
