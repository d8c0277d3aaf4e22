//! Judging blocks: one judge a thread, each with its own lists and counts, joined at the end.

use super::cells::{BlankRun, Cells, text_of};
use super::evidence::{Says, Vote, Votes};
use super::keyset::{KeySet, KeyStore, folded};
use super::lines::RecordRows;
use super::memo::{Memo, Told};
use super::program::Given;
use super::words::Words;
use super::writing::{self, Cell};
use super::{Gate, alike, fast};
use crate::block::Block;
use crate::catalogue::{Code, Level};
use crate::finding::Finding;
use crate::scan::{Dialect, MARK_STALE, mark_of, plain_text};
use std::borrow::Cow;
use std::collections::BTreeMap;
use xxhash_rust::xxh3::xxh3_64;

/// Something noticed in a block: 16 bytes until somebody asks for words.
#[derive(Debug, Clone, Copy)]
pub(super) struct Mark {
    /// The place of the row in the block.
    pub(super) place: u32,
    /// The judged row; for a row of the wrong width, the number of its misfit.
    pub(super) row: u32,
    /// The column, from 1; 0 for the row as a whole.
    pub(super) column: u16,
    /// The number of the rule, block or combination, or of the field that has no column.
    pub(super) rule: u16,
    pub(super) code: Code,
    pub(super) level: Level,
}

impl Mark {
    /// At a cell of a judged row (`column` from 1), or at the row as a whole (0).
    pub(super) fn at(cells: &Cells, row: usize, column: usize, code: Code, level: Level) -> Self {
        let (place, row) = (cells.place(row), u32::try_from(row).unwrap_or(u32::MAX));
        Self { place, row, column: u16::try_from(column).unwrap_or(0), rule: 0, code, level }
    }

    /// What it counts as.
    fn counted(&self) -> Counted {
        let is_ruled = matches!(
            self.code,
            Code::RuleBroken
                | Code::RuleRequired
                | Code::RuleForbidden
                | Code::BlockIncomplete
                | Code::CombinationNotPermitted
        );
        let (column, code, level) = (usize::from(self.column), self.code, self.level);
        Counted { column, code, level, rule: is_ruled.then_some(self.rule) }
    }

    /// The same, made by a rule, block or combination of this number.
    pub(super) fn by(self, rule: usize) -> Self {
        Self { rule: u16::try_from(rule).unwrap_or(u16::MAX), ..self }
    }
}

/// How often a finding was made in a column, and where first.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Tally {
    /// The findings.
    pub count: u64,
    /// The rows they stand in.
    pub rows: u64,
    /// The first row; 0 when there is none.
    pub first: u64,
    /// The row counted last: a row counts once.
    last: u64,
}

impl Tally {
    fn add(&mut self, row: u64) {
        if self.count == 0 || row < self.first {
            self.first = row;
        }
        self.rows += u64::from(self.count == 0 || row != self.last);
        self.count += 1;
        self.last = row;
    }

    fn join(&mut self, other: Self) {
        if other.count == 0 {
            return;
        }
        self.first = if self.count == 0 { other.first } else { self.first.min(other.first) };
        self.count += other.count;
        self.rows += other.rows;
    }
}

/// Tallies by column, code and level; the first column is the row as a whole. What rules, blocks, combinations and keys
/// of several columns find is counted for each of them.
#[derive(Debug, Default)]
pub struct Tallies {
    /// Of each column the few codes that it has, in their order.
    columns: Vec<Vec<(Code, Level, Tally)>>,
    ruled: BTreeMap<Counted, Tally>,
}

/// What is counted: findings of a code at a level in a column (from 1; 0 for the row as a whole), made by the rule,
/// block, combination or key of this number, where one made them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Counted {
    /// The column, from 1; 0 for the row as a whole.
    pub column: usize,
    /// The code.
    pub code: Code,
    /// The level.
    pub level: Level,
    /// The number of the rule.
    pub rule: Option<u16>,
}

impl Tallies {
    pub(crate) fn of_width(width: usize) -> Self {
        Self { columns: vec![Vec::new(); width + 1], ruled: BTreeMap::new() }
    }

    fn slot(&mut self, column: usize, code: Code, level: Level) -> Option<&mut Tally> {
        let tallies = self.columns.get_mut(column)?;
        let at = tallies.partition_point(|tally| (tally.0, tally.1) < (code, level));
        if tallies.get(at).is_none_or(|tally| (tally.0, tally.1) != (code, level)) {
            tallies.insert(at, (code, level, Tally::default()));
        }
        tallies.get_mut(at).map(|tally| &mut tally.2)
    }

    /// Counts a finding (`column` from 1; 0 for the row as a whole); gives how many there are now.
    pub(crate) fn count(&mut self, column: usize, code: Code, level: Level, row: u64) -> u64 {
        self.slot(column, code, level).map_or(0, |tally| {
            tally.add(row);
            tally.count
        })
    }

    /// The same, of a finding that a rule, block, combination or key of this number made.
    pub(crate) fn count_ruled(&mut self, counted: Counted, row: u64) -> u64 {
        if counted.rule.is_none() {
            return self.count(counted.column, counted.code, counted.level, row);
        }
        let tally = self.ruled.entry(counted).or_default();
        tally.add(row);
        tally.count
    }

    /// Counts a finding that speaks of several rows.
    pub(crate) fn count_rows(&mut self, code: Code, level: Level, row: u64, rows: u64) -> u64 {
        self.slot(0, code, level).map_or(0, |tally| {
            tally.add(row);
            tally.rows += rows - 1;
            tally.count
        })
    }

    /// Whether the findings of a code in a column are all of one level.
    fn has_one_level(&self, column: usize, code: Code) -> bool {
        let tallies = self.columns.get(column).map(Vec::as_slice).unwrap_or_default();
        tallies.iter().filter(|tally| tally.0 == code).count() == 1
    }

    pub(crate) fn join(&mut self, other: &Self) {
        for (counted, tally) in other.iter() {
            if counted.rule.is_some() {
                self.ruled.entry(counted).or_default().join(tally);
            } else if let Some(slot) = self.slot(counted.column, counted.code, counted.level) {
                slot.join(tally);
            }
        }
    }

    /// All that is not zero, by column (from 1), code and level; what rules found comes last.
    pub fn iter(&self) -> impl Iterator<Item = (Counted, Tally)> {
        let plain = self.columns.iter().enumerate().flat_map(|(column, tallies)| {
            let counted = move |code, level| Counted { column, code, level, rule: None };
            tallies.iter().map(move |(code, level, tally)| (counted(*code, *level), *tally))
        });
        plain.chain(self.ruled.iter().map(|(counted, tally)| (*counted, *tally)))
    }
}

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
    /// All findings, in order, where all are wanted.
    pub findings: Vec<Finding>,
    /// Rows at which reading the block again can begin: place in the block and start, where lines are rows.
    pub milestones: Box<[(u32, u32)]>,
    /// The row in which a NUL byte stands: then this is no text.
    pub nul: Option<u64>,
    /// Which rows make records, where several do.
    pub records: Option<RecordRows>,
    /// Whether it holds bytes beyond ASCII.
    pub beyond_ascii: bool,
    /// Whether it holds bytes that are no UTF-8.
    pub broken_text: bool,
}

/// Judges blocks, in ascending order, on one thread.
#[derive(Debug)]
pub struct Judge<'g> {
    gate: &'g Gate,
    cells: Cells,
    marks: Vec<Mark>,
    held: Vec<u64>,
    keys: Vec<KeyStore>,
    tallies: Tallies,
    filled: Vec<u64>,
    votes: Vec<Votes>,
    rewriting: Vec<Rewriting>,
    words: Vec<Words>,
    kept: Kept,
    memos: Vec<Memo>,
    all: bool,
    /// Whether rows that are passed over are laid out all the same.
    sees_passed: bool,
    /// Whether rows that the file may not change are laid out all the same.
    sees_outside: bool,
    text: Vec<u8>,
    alike: Vec<alike::Sum>,
    /// All rows of the block, where some are left out since the file may not change them.
    unfiltered: Cells,
    /// The judged rows of those that it may not change.
    outside: Vec<u32>,
}

/// What of a column is handed on otherwise than it stands.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Rewriting {
    /// Cells that are written in another way than the target's.
    pub unlike: u64,
    /// Blank cells that a default fills.
    pub defaulted: u64,
}

/// What a judge has gathered of all its blocks.
#[derive(Debug)]
pub(crate) struct Gathered {
    pub(crate) tallies: Tallies,
    pub(crate) filled: Vec<u64>,
    pub(crate) votes: Vec<Votes>,
    pub(crate) rewriting: Vec<Rewriting>,
    pub(crate) words: Vec<Words>,
    pub(crate) kept: Vec<Finding>,
    pub(crate) keys: Vec<KeyStore>,
}

/// The findings kept with their words: the first of all, and the first of each code and column.
#[derive(Debug, Default)]
pub(crate) struct Kept {
    pub(crate) findings: Vec<Finding>,
    first: usize,
    /// The codes of fields seen so far.
    groups: usize,
}

impl Kept {
    /// How many of each code and field a report can show at most: fewer where there are many.
    fn of_each(&self) -> u64 {
        ((MOST_KEPT / self.groups.max(1)) as u64).min(FIRST_OF_EACH)
    }
}

/// The most findings a report holds.
pub(crate) const MOST_KEPT: usize = 1000;
/// The first so many of each code and field are among them.
pub(crate) const FIRST_OF_EACH: u64 = 10;

impl<'g> Judge<'g> {
    /// A judge; `all` when every finding is wanted with its words.
    #[must_use]
    pub fn new(gate: &'g Gate, all: bool) -> Self {
        Self {
            gate,
            cells: Cells::default(),
            marks: Vec::new(),
            held: Vec::new(),
            keys: gate.keysets.iter().map(|_| KeyStore::new()).collect(),
            tallies: Tallies::of_width(gate.width()),
            filled: vec![0; gate.width()],
            votes: vec![Votes::default(); gate.width()],
            rewriting: vec![Rewriting::default(); gate.width()],
            words: gate.columns.iter().map(|_| Words::default()).collect(),
            kept: Kept::default(),
            memos: gate.columns.iter().map(|_| Memo::new(gate.columns.len())).collect(),
            all,
            sees_passed: false,
            sees_outside: false,
            text: Vec::new(),
            alike: Vec::new(),
            unfiltered: Cells::default(),
            outside: Vec::new(),
        }
    }

    /// One that lays out the rows that are passed over, too.
    pub(crate) fn seeing_passed(gate: &'g Gate) -> Self {
        Self { sees_passed: true, ..Self::new(gate, false) }
    }

    /// One that lays out all rows as they stand.
    pub(crate) fn seeing_all(gate: &'g Gate) -> Self {
        Self { sees_outside: true, ..Self::seeing_passed(gate) }
    }

    /// Judges a block.
    pub fn judge(&mut self, block: &Block) -> Judged {
        crate::misfire::point("judge");
        self.mark(block);
        for number in 0..self.gate.keysets.len() {
            self.hash_keys(block, number);
        }
        let held = self.hold(block);
        let nul = self.cells.oddities.control.then(|| memchr::memchr(0, block.content())).flatten();
        let findings = self.tell(block);
        let misfits = self.cells.misfits.iter().filter(|misfit| misfit.judged.is_none()).count();
        Judged {
            rows: (self.cells.len() + misfits) as u64,
            passed: self.cells.passed.len() as u64,
            held,
            blank: self.cells.blank.iter().map(|run| blank_rows(block, *run)).collect(),
            findings,
            records: self.gate.lines.as_ref().and_then(|lines| lines.rows(block, &self.cells)),
            // What stands above a row is known at the beginning of its block alone.
            milestones: match block.lines == block.rows
                && self.gate.compares_rows()
                && self.gate.lines.is_none()
            {
                true => self.cells.milestones(),
                false => Box::default(),
            },
            nul: nul.map(|at| block.first_row + rows_before(block, at)),
            beyond_ascii: self.cells.oddities.non_ascii,
            broken_text: self.cells.broken_text,
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
            let passed = self.gate.passed_in(block.first_row, block.rows).iter();
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
        if !self.gate.leaves_out() || self.sees_outside {
            return;
        }
        self.find_outside(block);
        if !self.outside.is_empty() {
            std::mem::swap(&mut self.cells, &mut self.unfiltered);
            self.cells.short_rows_are_blank = self.gate.table.short_rows_are_blank;
            self.cells.needed = self.gate.needed_columns();
            self.cells.passed.clone_from(&self.unfiltered.passed);
            let outside = self.outside.iter().map(|row| self.unfiltered.place(*row as usize));
            self.cells.passed.extend(outside);
            self.cells.passed.sort_unstable();
            self.lay_out_rows(block);
        }
    }

    fn find_outside(&mut self, block: &Block) {
        if let Some(rules) = &self.gate.rules {
            rules.outside(self.gate, block, &self.cells, &mut self.outside);
        }
    }

    fn lay_out_rows(&mut self, block: &Block) {
        self.cells.lay_out(block, self.gate.table.dialect, self.gate.width(), self.gate.probe);
        if let Some(lines) = &self.gate.lines {
            lines.enter(self.gate, block, &mut self.cells);
        }
    }

    /// Lays out the block and marks what is wrong in it.
    pub(super) fn mark(&mut self, block: &Block) {
        let gate = self.gate;
        self.lay_out(block);
        self.marks.clear();
        for (number, misfit) in (0..).zip(&self.cells.misfits) {
            if misfit.judged.is_some() && gate.table.sheet.is_some() {
                // The rows of a sheet end with their last cell.
                continue;
            }
            let level = if misfit.judged.is_some() { Level::Note } else { Level::Stop };
            // Records have cells for all keys, but for those that cannot be read.
            let code = if gate.table.is_records { Code::RecordUnreadable } else { Code::RowWidth };
            let level = gate.told_level(code, level);
            self.marks.push(Mark { place: misfit.place, row: number, column: 0, rule: 0, code, level });
        }
        for &(row, column) in &self.cells.strays {
            let level = gate.told_level(Code::QuoteStray, Level::Warn);
            let (row, column) = (row as usize, column as usize + 1);
            self.marks.push(Mark::at(&self.cells, row, column, Code::QuoteStray, level));
        }
        for column in 0..gate.width() {
            self.mark_column(block, column);
        }
        if let Some(lines) = &gate.lines {
            lines.mark(gate, block, &self.cells, &mut self.marks);
        }
        if let Some(rules) = &gate.rules {
            rules.mark(gate, block, &self.cells, &mut self.marks);
        }
        let leaves_out = gate.leaves_out();
        if !leaves_out {
            self.find_outside(block);
        }
        let level = gate.told_level(Code::RowOutOfScope, if leaves_out { Level::Warn } else { Level::Stop });
        let cells = if leaves_out { &self.unfiltered } else { &self.cells };
        let outside = self.outside.iter().map(|row| *row as usize);
        self.marks.extend(outside.map(|row| Mark::at(cells, row, 0, Code::RowOutOfScope, level)));
    }

    fn mark_column(&mut self, block: &Block, number: usize) {
        let (gate, cells, marks) = (self.gate, &self.cells, &mut self.marks);
        let Some(column) = gate.columns.get(number) else { return };
        let dialect = gate.table.dialect;
        let (mut blanks, mut unlike, mut defaulted, mut looked_at) = (0, 0, 0, 0);
        let mut votes = Votes::default();
        let Some(memo) = self.memos.get_mut(number) else { return };
        let mut slow = |row: usize| {
            looked_at += 1;
            let (start, end) = cells.cell(row, number);
            let raw = block.buffer.get(start..end).unwrap_or_default();
            let mut push =
                |code: Code, level: Level| marks.push(Mark::at(cells, row, number + 1, code, level));
            let told = memo.of(raw, || match text_of(raw, dialect) {
                Err(_) => Told::Broken,
                Ok(text) if column.is_blank(text.trim()) => match mark_of(raw, dialect) {
                    Some(MARK_STALE) => Told::Stale,
                    _ => Told::Blank { is_word: !text.trim().is_empty() },
                },
                Ok(text) if column.reading.clears(text.trim()) => Told::Clear,
                Ok(text) => {
                    let cell = Cell::of(&text, raw, dialect);
                    let given = Given::of(text.trim(), raw, dialect);
                    let verdict = gate.judge_cell(column, cell);
                    let is_unlike = !verdict.codes().any(writing::leaves_no_value)
                        && gate.is_unlike(column, &text, given);
                    // What a sheet stores has no mark and no order of its own.
                    let vote = if given.is_stored { Vote::NONE } else { column.program.vote(given) };
                    Told::Verdict(verdict, vote, is_unlike)
                }
            });
            match told {
                Told::Broken => push(Code::EncodingDoubt, gate.level(Code::EncodingDoubt, number)),
                Told::Blank { .. } | Told::Stale => {
                    blanks += 1;
                    unlike += u64::from(matches!(told, Told::Blank { is_word: true }));
                    defaulted += u64::from(column.default.is_some() && !cells.takes_over(row, number));
                    if matches!(told, Told::Stale) && column.field.is_some() {
                        push(Code::FormulaStale, gate.level(Code::FormulaStale, number));
                    }
                    if let Some((code, level)) = column.blank
                        && !cells.takes_over(row, number)
                    {
                        push(code, level);
                    }
                }
                Told::Clear => {
                    if !column.may_clear {
                        push(Code::ClearNotAllowed, Level::Stop);
                    }
                }
                Told::Verdict(verdict, vote, is_unlike) => {
                    votes.add(vote);
                    unlike += u64::from(is_unlike);
                    for code in verdict.codes().filter(|code| !column.ignore.contains(code)) {
                        let level = match code {
                            // Text that was encoded twice can be read.
                            Code::EncodingDoubt => gate.told_level(code, Level::Warn),
                            Code::SpaceStray if !column.reading.trim && has_outer_space(raw, dialect) => {
                                gate.told_level(code, Level::Warn)
                            }
                            _ => gate.level(code, number),
                        };
                        push(code, level);
                    }
                }
            }
        };
        let blank_ok = column.blank.is_none() && column.default.is_none();
        let sweep = fast::Sweep {
            buffer: &block.buffer,
            cells,
            column: number,
            blank_ok,
            dialect,
            guard: column.guard.as_ref(),
            standing: column.standing.as_ref(),
            slow: &mut slow,
        };
        let swept = sweep.run(&column.program);
        blanks += swept.blanks;
        unlike += swept.unlike;
        if column.fast_is_unlike {
            unlike += (cells.len() as u64).saturating_sub(swept.blanks + looked_at);
        }
        if let Some(rewriting) = self.rewriting.get_mut(number) {
            rewriting.unlike += unlike;
            rewriting.defaulted += defaulted;
        }
        let point = |says| Vote { form: 0, says };
        votes.add_many(point(Says::First), swept.points);
        votes.add_many(point(Says::Open), swept.open_points);
        if let Some(sum) = self.votes.get_mut(number) {
            sum.join(votes);
        }
        if let Some(filled) = self.filled.get_mut(number) {
            *filled += cells.len() as u64 - blanks;
        }
    }

    fn hash_keys(&mut self, block: &Block, number: usize) {
        let gate = self.gate;
        let (Some(keyset), Some(store)) = (gate.keysets.get(number), self.keys.get_mut(number)) else {
            return;
        };
        if keyset.is_alike() {
            alike::hash(gate, keyset, block, &self.cells, &mut self.alike, store);
            return;
        }
        if let [column] = keyset.columns.as_slice()
            && !keyset.is_folded()
            && gate.lines.is_none()
            && gate
                .columns
                .get(*column)
                .is_some_and(|column| column.program.is_verbatim() && column.guard.is_none())
        {
            let (cells, text) = (&self.cells, &mut self.text);
            cells.each_in_column(*column, |row, start, end| {
                let raw = block.buffer.get(start..end).unwrap_or_default();
                if let Some(text) = plain_text(raw, gate.table.dialect) {
                    store.push(xxh3_64(text), block.first_row + u64::from(cells.place(row)));
                } else {
                    hash_values(gate, keyset, block, cells, row, text, store);
                }
            });
            return;
        }
        for row in 0..self.cells.len() {
            if keyset.per_record && self.cells.is_below(row) {
                continue;
            }
            hash_values(gate, keyset, block, &self.cells, row, &mut self.text, store);
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
            self.marks.sort_unstable_by_key(|mark| (mark.place, mark.column, mark.code, mark.rule));
        }
        let mut line = super::describe::LineCounter::new(block);
        let mut findings = Vec::new();
        for mark in &self.marks {
            let row = block.first_row + u64::from(mark.place);
            let count = self.tallies.count_ruled(mark.counted(), row);
            if Words::are_told_of(mark.code)
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
            let is_left_out = mark.code == Code::RowOutOfScope && self.gate.leaves_out();
            let cells = if is_left_out { &self.unfiltered } else { &self.cells };
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

    /// The cells of the block judged last.
    pub(super) fn cells(&self) -> &Cells {
        &self.cells
    }

    /// The marks of the block judged last.
    pub(super) fn marks(&mut self) -> &[Mark] {
        self.marks.sort_unstable_by_key(|mark| (mark.place, mark.column, mark.code, mark.rule));
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
            kept: self.kept.findings,
            keys: self.keys,
        }
    }
}

fn blank_rows(block: &Block, run: BlankRun) -> (u64, u64, bool) {
    (block.first_row + u64::from(run.first), block.first_row + u64::from(run.last), run.formatted)
}

fn rows_before(block: &Block, at: usize) -> u64 {
    let before = block.content().get(..at).unwrap_or_default();
    memchr::memchr_iter(b'\n', before).count() as u64
}

/// Whether spaces stand around the value of a raw cell.
fn has_outer_space(raw: &[u8], dialect: Dialect) -> bool {
    text_of(raw, dialect).is_ok_and(|text| text.trim().len() < text.len())
}

#[cold]
#[inline(never)]
fn hash_values(
    gate: &Gate,
    keyset: &KeySet,
    block: &Block,
    cells: &Cells,
    row: usize,
    text: &mut Vec<u8>,
    store: &mut KeyStore,
) {
    if values(gate, keyset, block, cells, row, text) {
        store.push(xxh3_64(text), block.first_row + u64::from(cells.place(row)));
    }
}

/// Writes the standard forms of a row's combination, so that equal values give equal bytes; false when a part
/// has no value.
pub(super) fn values(
    gate: &Gate,
    keyset: &KeySet,
    block: &Block,
    cells: &Cells,
    row: usize,
    into: &mut Vec<u8>,
) -> bool {
    if keyset.is_alike() {
        return alike::values(gate, keyset, block, cells, row, into);
    }
    into.clear();
    for &column in &keyset.columns {
        let raw = cells.bytes(block, row, column);
        let Ok(text) = text_of(raw, gate.table.dialect) else { return false };
        let text = text.trim();
        let Some(column) = gate.columns.get(column) else { return false };
        let is_blank = column.is_blank(text) || column.reading.clears(text);
        // A default fills what is blank, so that ready rows carry it.
        let filled = column.default.as_deref().filter(|_| !column.reading.clears(text));
        if is_blank && filled.is_none() && !keyset.takes_blanks() {
            return false;
        }
        let given = Given::of(text, raw, gate.table.dialect);
        let value = match column.program.standard(given, &gate.schema.picklists) {
            _ if is_blank => Cow::Borrowed(filled.unwrap_or_default()),
            Some(value) if keyset.is_folded() => Cow::Owned(folded(&value)),
            Some(value) => value,
            None if keyset.takes_blanks() => Cow::Borrowed(text),
            None => return false,
        };
        if keyset.columns.len() > 1 {
            into.extend((value.len() as u64).to_le_bytes());
        }
        into.extend(value.as_bytes());
    }
    true
}
