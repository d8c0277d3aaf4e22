//! Judging blocks: one judge a thread, each with its own lists and counts, joined at the end.

use super::assembly::Gate;
use super::clues::{ClueMaker, Clues};
use super::compiled::Column;
use super::evidence::Votes;
use super::gathered::{Gathered, Kept, MOST_KEPT, Rewriting};
use super::hashing::{Scratch, hash_keys};
use super::keystore::KeyStore;
use super::lines::RecordRows;
use super::mark::{Mark, Sorter};
use super::marking::mark_column;
use super::memo::Memo;
use super::places::LineCounter;
use super::probes::Shares;
use super::standing::There;
use super::state::RunState;
use super::tallies::Tallies;
use super::translated::Translated;
use super::words::Words;
use crate::aside::Aside;
use crate::block::Block;
use crate::catalogue::{Code, Level, Tag};
use crate::existing::Keys;
use crate::finding::Finding;
use crate::rows::{BlankRun, Cells, Milestone};
use std::collections::BTreeMap;

/// What judging a block gave, for the merging in order.
#[derive(Debug, Default)]
pub struct Judged {
    /// Rows that count as records or misfits.
    pub rows: u64,
    /// Rows that are passed over.
    pub passed: u64,
    /// Rows held, by their place in the block; nothing when none is.
    pub held: Option<Box<[u64]>>,
    /// Runs of rows without a value: first and last row, and whether one holds delimiters.
    pub blank: Vec<(u64, u64, bool)>,
    /// What its findings may come from, in order, where that is wanted.
    pub clues: Clues,
    /// All findings, in order, where all are wanted.
    pub findings: Vec<Finding>,
    /// Rows at which reading the block again can begin.
    pub(crate) milestones: Box<[Milestone]>,
    /// The row in which a NUL byte stands: then this is no text.
    pub nul: Option<u64>,
    /// Which rows make records, where several do.
    pub records: Option<RecordRows>,
    /// What rows share with other records that are there, and what their own give up.
    pub shares: (Vec<Shares>, Vec<Shares>),
    /// Whether it holds bytes beyond ASCII.
    pub beyond_ascii: bool,
    /// Whether it holds bytes that are no UTF-8.
    pub broken_text: bool,
}

/// Judges blocks, in ascending order, on one thread.
#[derive(Debug)]
pub struct Judge<'g> {
    gate: &'g Gate,
    state: &'g RunState,
    cells: Cells,
    marks: Vec<Mark>,
    sorter: Sorter,
    held: Vec<u64>,
    keys: Vec<KeyStore>,
    tallies: Tallies,
    filled: Vec<u64>,
    votes: Vec<Votes>,
    rewriting: Vec<Rewriting>,
    words: Vec<Words>,
    translated: BTreeMap<usize, Translated>,
    kept: Kept,
    memos: Vec<Memo>,
    all: bool,
    clues: Option<ClueMaker<'g>>,
    /// Whether rows that are passed over are laid out all the same.
    sees_passed: bool,
    /// Whether rows that the file may not change are laid out all the same.
    sees_outside: bool,
    scratch: Scratch,
    /// All rows of the block, where some are left out since the file may not change them.
    unfiltered: Cells,
    /// The judged rows of those that it may not change, or whose record is not there, each with what it is told by.
    outside: Vec<(u32, Code)>,
    /// What stands under the key of each row, where existing records are known.
    there: Vec<There<'g>>,
    shares: (Vec<Shares>, Vec<Shares>),
    key: Vec<u8>,
    keys_of_rows: Keys,
}

impl<'g> Judge<'g> {
    /// A judge; `all` when every finding is wanted with its words.
    #[must_use]
    pub fn new(gate: &'g Gate, state: &'g RunState, all: bool) -> Self {
        Self {
            gate,
            state,
            cells: Cells::default(),
            marks: Vec::new(),
            sorter: Sorter::default(),
            held: Vec::new(),
            keys: gate.keysets.iter().map(|_| KeyStore::new()).collect(),
            tallies: Tallies::of_width(gate.width()),
            filled: vec![0; gate.width()],
            votes: vec![Votes::default(); gate.width()],
            rewriting: vec![Rewriting::default(); gate.width()],
            words: gate.columns.iter().map(|_| Words::default()).collect(),
            translated: BTreeMap::new(),
            kept: Kept::default(),
            memos: gate.columns.iter().map(|_| Memo::new(gate.columns.len())).collect(),
            all,
            clues: None,
            sees_passed: false,
            sees_outside: false,
            scratch: Scratch::default(),
            unfiltered: Cells::default(),
            outside: Vec::new(),
            there: Vec::new(),
            shares: Default::default(),
            key: Vec::new(),
            keys_of_rows: Keys::default(),
        }
    }

    /// One that tells what its findings may come from; whether cells may stand one column too far right.
    pub(crate) fn with_clues(self, may_shift: bool) -> Self {
        Self { clues: Some(ClueMaker::new(self.gate, may_shift)), ..self }
    }

    /// One that lays out the rows that are passed over, too.
    pub(crate) fn seeing_passed(gate: &'g Gate, state: &'g RunState) -> Self {
        Self { sees_passed: true, ..Self::new(gate, state, false) }
    }

    /// One that lays out all rows as they stand.
    pub(crate) fn seeing_all(gate: &'g Gate, state: &'g RunState) -> Self {
        Self { sees_outside: true, ..Self::seeing_passed(gate, state) }
    }

    /// Judges a block.
    pub fn judge(&mut self, block: &Block) -> Judged {
        crate::misfire::point("judge");
        self.mark(block);
        for (keyset, store) in self.gate.keysets.iter().zip(&mut self.keys) {
            hash_keys(self.gate, keyset, (block, &self.cells, &self.there), &mut self.scratch, store);
        }
        self.gate.share(block, &self.cells, &self.there, &mut self.shares);
        let held = self.hold(block);
        let nul = self.cells.oddities.control.then(|| memchr::memchr(0, block.content())).flatten();
        let findings = self.tell(block);
        let clues = self.clues(block);
        let misfits = self.cells.misfits.iter().filter(|misfit| misfit.judged.is_none()).count();
        Judged {
            rows: (self.cells.len() + misfits) as u64,
            passed: self.cells.passed.len() as u64,
            held,
            blank: self.cells.blank.iter().map(|run| blank_rows(block, *run)).collect(),
            clues,
            findings,
            shares: std::mem::take(&mut self.shares),
            records: self.gate.lines.as_ref().and_then(|lines| lines.rows(block, &self.cells)),
            // What stands above a row is known at the beginning of its block alone.
            milestones: match self.gate.lines {
                None => self.cells.milestones(block),
                Some(_) => Box::default(),
            },
            nul: nul.map(|at| block.first_row + rows_before(block, at)),
            beyond_ascii: self.cells.oddities.non_ascii,
            broken_text: self.cells.broken_text,
        }
    }

    /// Puts the keys of its rows aside where they take more than the share of one of so many judges.
    pub(crate) fn keep_within<E: Send>(
        &mut self,
        aside: &dyn Aside<Error = E>,
        judges: usize,
    ) -> Result<(), E> {
        let held: usize = self.keys.iter().map(KeyStore::held).sum();
        match held > aside.room() / judges.max(1) {
            true => self.keys.iter_mut().try_for_each(|keys| keys.put_aside(aside)),
            false => Ok(()),
        }
    }

    /// Takes a block whose first row is no record: only the rows without a value behind it are told.
    pub(crate) fn pass_over_first(&mut self, block: &Block) -> Judged {
        self.lay_out(block);
        let blank = self.cells.blank.iter().map(|run| blank_rows(block, *run)).collect();
        Judged { rows: 1, blank, ..Judged::default() }
    }

    /// Lays out the block.
    pub(crate) fn lay_out(&mut self, block: &Block) {
        self.cells.short_rows_are_blank = self.gate.table.short_rows_are_blank;
        self.cells.needed = self.gate.needed_columns();
        self.cells.passed.clear();
        if !self.sees_passed {
            let passed = self.state.passed_in(block.first_row, block.rows).iter();
            let place = |row: &u64| u32::try_from(row - block.first_row).ok();
            self.cells.passed.extend(passed.filter_map(place));
        }
        if let Some(row) = self.gate.table.example_row
            && let Some(place) = row.checked_sub(block.first_row).filter(|place| *place < block.rows)
            && let Ok(place) = u32::try_from(place)
            && let Err(at) = self.cells.passed.binary_search(&place)
        {
            self.cells.passed.insert(at, place);
        }
        self.lay_out_rows(block);
        self.outside.clear();
        if self.sees_outside {
            return;
        }
        self.gate.find_there(block, &self.cells, (&mut self.keys_of_rows, &mut self.key), &mut self.there);
        if self.gate.leaves_out() {
            self.find_outside(block);
        }
        if self.gate.leaves_unmatched() {
            // Those outside the scope are in order.
            let is_new = |row: &u32| self.outside.binary_search_by_key(row, |outside| outside.0).is_err();
            let unmatched = (0..).zip(&self.there).filter(|(_, there)| matches!(there, There::Nothing));
            let unmatched: Vec<u32> = unmatched.map(|(row, _)| row).filter(is_new).collect();
            self.outside.extend(unmatched.into_iter().map(|row| (row, Code::KeyNotFound)));
        }
        if !self.outside.is_empty() {
            std::mem::swap(&mut self.cells, &mut self.unfiltered);
            self.cells.short_rows_are_blank = self.gate.table.short_rows_are_blank;
            self.cells.needed = self.gate.needed_columns();
            self.cells.passed.clone_from(&self.unfiltered.passed);
            let outside = self.outside.iter().map(|(row, _)| self.unfiltered.place(*row as usize));
            self.cells.passed.extend(outside);
            self.cells.passed.sort_unstable();
            self.lay_out_rows(block);
            self.gate.find_there(
                block,
                &self.cells,
                (&mut self.keys_of_rows, &mut self.key),
                &mut self.there,
            );
        }
    }

    fn find_outside(&mut self, block: &Block) {
        let Some(rules) = &self.gate.rules else { return };
        let mut rows = Vec::new();
        rules.outside(self.gate, block, (&self.cells, &self.there), &mut rows);
        self.outside.extend(rows.into_iter().map(|row| (row, Code::RowOutOfScope)));
    }

    fn lay_out_rows(&mut self, block: &Block) {
        self.cells.lay_out(block, self.gate.table.dialect, self.gate.width(), self.gate.probe);
        if let Some(lines) = &self.gate.lines {
            lines.enter(self.gate, &self.state.heads, block, &mut self.cells);
        }
    }

    /// Counts what the cells of the block laid out last say of how their columns are written, and nothing else.
    pub(super) fn vote(&mut self, block: &Block) {
        for (column, memo) in self.memos.iter_mut().enumerate() {
            let votes = |column: &&Column| column.field.is_some() && column.program.has_vote();
            if self.gate.columns.get(column).filter(votes).is_none() {
                continue;
            }
            let known = (memo, &mut self.translated);
            let found =
                mark_column(self.gate, column, (block, &self.cells, &self.there), known, &mut self.marks);
            if let Some(votes) = self.votes.get_mut(column) {
                votes.join(found.votes);
            }
            self.marks.clear();
        }
    }

    /// What all cells said of how their columns are written.
    pub(super) fn votes(&self) -> &[Votes] {
        &self.votes
    }

    /// Lays out the block and marks what is wrong in it.
    pub(super) fn mark(&mut self, block: &Block) {
        let gate = self.gate;
        self.lay_out(block);
        self.marks.clear();
        for (number, misfit) in (0..).zip(&self.cells.misfits) {
            if misfit.judged.is_some() && gate.table.sheet().is_some() {
                // The rows of a sheet end with their last cell.
                continue;
            }
            let level = if misfit.judged.is_some() { Level::Note } else { Level::Stop };
            // Records have cells for all keys, but for those that cannot be read.
            let code = if gate.table.is_records() { Code::RecordUnreadable } else { Code::RowWidth };
            let level = gate.told_level(code, level);
            self.marks.push(Mark { place: misfit.place, row: number, column: 0, rule: 0, code, level });
        }
        for &(row, column) in &self.cells.strays {
            let level = gate.told_level(Code::QuoteStray, Level::Warn);
            let (row, column) = (row as usize, column as usize + 1);
            self.marks.push(Mark::at(&self.cells, row, column, Code::QuoteStray, level));
        }
        for (column, memo) in self.memos.iter_mut().enumerate().filter(|(column, _)| gate.looks_at(*column)) {
            let known = (memo, &mut self.translated);
            let found = mark_column(gate, column, (block, &self.cells, &self.there), known, &mut self.marks);
            if let Some(rewriting) = self.rewriting.get_mut(column) {
                rewriting.unlike += found.unlike;
                rewriting.defaulted += found.defaulted;
            }
            if let Some(votes) = self.votes.get_mut(column) {
                votes.join(found.votes);
            }
            if let Some(filled) = self.filled.get_mut(column) {
                *filled += self.cells.len() as u64 - found.blanks;
            }
        }
        if let Some(lines) = &gate.lines {
            lines.mark(gate, block, &self.cells, &mut self.marks);
        }
        gate.mark_required(block, &self.cells, &self.there, &mut self.marks);
        gate.mark_unchangeable(block, &self.cells, &self.there, &mut self.marks);
        if let Some(rules) = &gate.rules {
            // Rules ask for each row which of its cells have a stop.
            self.sorter.sort(&mut self.marks);
            rules.mark(gate, block, (&self.cells, &self.there), &mut self.marks);
        }
        gate.mark_cycles(block, &self.cells, &mut self.key, &mut self.marks);
        gate.mark_numbered(block, &self.cells, &mut self.marks);
        gate.mark_there(&self.cells, &self.there, &mut self.marks);
        self.mark_outside(block);
    }

    /// Marks rows that the file may not change, or whose record is not there.
    fn mark_outside(&mut self, block: &Block) {
        let gate = self.gate;
        let left_out = self.outside.len();
        if !gate.leaves_out() {
            self.find_outside(block);
        }
        let key = gate.key_set().and_then(|keyset| keyset.columns.first()).map_or(0, |column| column + 1);
        for (number, (row, code)) in self.outside.iter().enumerate() {
            let (cells, natural) = match number < left_out {
                true => (&self.unfiltered, Level::Warn),
                false => (&self.cells, Level::Stop),
            };
            let column = if *code == Code::KeyNotFound { key } else { 0 };
            let level = gate.told_level(*code, natural);
            self.marks.push(Mark::at(cells, *row as usize, column, *code, level));
        }
    }

    /// Counts the marks, and the rows they hold.
    fn hold(&mut self, block: &Block) -> Option<Box<[u64]>> {
        let words = usize::try_from(block.rows).unwrap_or(0).div_ceil(64);
        self.held.clear();
        let mut any = false;
        for mark in &self.marks {
            if mark.level == Level::Stop {
                if !any {
                    self.held.resize(words, 0);
                    any = true;
                }
                if let Some(word) = self.held.get_mut(mark.place as usize / 64) {
                    *word |= 1 << (mark.place % 64);
                }
            }
        }
        any.then(|| self.held.clone().into_boxed_slice())
    }

    /// Counts every mark and puts into words what is kept or wanted.
    fn tell(&mut self, block: &Block) -> Vec<Finding> {
        let room = self.kept.first < MOST_KEPT;
        if self.all || room {
            self.sorter.sort(&mut self.marks);
        }
        let mut line = LineCounter::new(block);
        let mut findings = Vec::new();
        for mark in &self.marks {
            let row = block.first_row + u64::from(mark.place);
            let count = self.tallies.count_ruled(mark.counted(), row);
            if mark.code.is(Tag::Word)
                && let Some(column) = usize::from(mark.column).checked_sub(1)
                && let Some(words) = self.words.get_mut(column)
            {
                let (start, end) = self.cells.cell(mark.row as usize, column);
                let raw = block.buffer.get(start..end).unwrap_or_default();
                words.count(mark.code, raw, self.gate.table.dialect);
            }
            let among_first = self.kept.first < MOST_KEPT;
            let of_field = usize::from(mark.column).checked_sub(1).and_then(|at| self.gate.columns.get(at));
            if count == 1
                && of_field.is_some_and(|column| column.field.is_some())
                && self.tallies.has_one_level(usize::from(mark.column), mark.code)
            {
                self.kept.groups += 1;
            }
            let keep = among_first || count <= self.kept.of_each();
            if !keep && !self.all {
                continue;
            }
            let cells = cells_of(self.gate, (&self.cells, &self.unfiltered), mark);
            let finding = self.gate.describe(*mark, block, cells, &mut line);
            self.kept.first += usize::from(among_first);
            match (keep, self.all) {
                (true, true) => {
                    self.kept.findings.push(finding.clone());
                    findings.push(finding);
                }
                (true, false) => self.kept.findings.push(finding),
                (false, _) => findings.push(finding),
            }
        }
        findings
    }

    /// What the marks of the block judged last may come from; nothing where that is not wanted.
    pub(super) fn clues(&mut self, block: &Block) -> Clues {
        let Some(maker) = &mut self.clues else { return Clues::default() };
        self.sorter.sort(&mut self.marks);
        let (gate, cells) = (self.gate, (&self.cells, &self.unfiltered));
        maker.of(block, &self.marks, |mark| cells_of(gate, cells, mark))
    }

    /// What the run has learned.
    pub(super) fn state(&self) -> &'g RunState {
        self.state
    }

    /// What stands under the key of each row of the block judged last.
    pub(super) fn there(&self) -> &[There<'g>] {
        &self.there
    }

    /// The cells of the block judged last.
    pub(crate) fn cells(&self) -> &Cells {
        &self.cells
    }

    /// The marks of the block judged last.
    pub(super) fn marks(&mut self) -> &[Mark] {
        self.sorter.sort(&mut self.marks);
        &self.marks
    }

    /// What the judge has gathered.
    pub(crate) fn finish(self) -> Gathered {
        Gathered {
            tallies: self.tallies,
            filled: self.filled,
            votes: self.votes,
            rewriting: self.rewriting,
            words: self.words,
            translated: self.translated,
            kept: self.kept.findings,
            keys: self.keys,
        }
    }
}

/// The cells that a mark is of: all rows' where it is on one that is left out, else those of the judged ones.
fn cells_of<'c>(gate: &Gate, (cells, unfiltered): (&'c Cells, &'c Cells), mark: &Mark) -> &'c Cells {
    let is_left_out = match mark.code {
        Code::RowOutOfScope => gate.leaves_out(),
        Code::KeyNotFound => gate.leaves_unmatched(),
        _ => false,
    };
    if is_left_out { unfiltered } else { cells }
}

fn blank_rows(block: &Block, run: BlankRun) -> (u64, u64, bool) {
    (block.first_row + u64::from(run.first), block.first_row + u64::from(run.last), run.formatted)
}

fn rows_before(block: &Block, at: usize) -> u64 {
    let before = block.content().get(..at).unwrap_or_default();
    memchr::memchr_iter(b'\n', before).count() as u64
}
