//! Which of the things that findings may come from are causes, and what removes each.

use super::catalogue::CauseCode;
use super::cause::{Cause, CauseSample, MOST_WORDS, Remedy};
use super::fragment;
use crate::catalogue::Code;
use crate::finding::{Finding, MASK, letter};
use crate::gate::{DateCount, Gate, RowKind};
use crate::headings::Paired;
use crate::mode::Mode;
use crate::numerals::{counted, grouped};
use crate::origins::{Evidence, Findings, Origin};
use crate::run::Outcome;
use crate::schema::Field;
use crate::toml_text::quoted;
use std::collections::BTreeMap;

/// So few findings need no cause.
const FEW: u64 = 2;
/// So many runs of rows are named.
const MOST_RUNS: usize = 1_000;

/// Weighs what was gathered.
pub(crate) struct Weigher<'a> {
    pub(crate) gate: &'a Gate,
    pub(crate) outcome: &'a Outcome,
    pub(crate) dates: &'a BTreeMap<usize, DateCount>,
}

/// The causes, and what none of them explains.
#[derive(Debug, Default)]
pub(crate) struct Weighed {
    pub(crate) causes: Vec<Cause>,
    pub(crate) rest: BTreeMap<Origin, Findings>,
}

impl Weigher<'_> {
    /// Tells what is a cause.
    pub(crate) fn weigh(&self, mut evidence: Evidence) -> Weighed {
        let mut weighed = Weighed::default();
        self.join_rows(&mut evidence);
        self.join_series(&mut evidence, &mut weighed);
        for (origin, found) in evidence.found {
            match self.cause(&origin, &found) {
                Some(cause) => weighed.causes.push(cause),
                None => drop(weighed.rest.insert(origin, found)),
            }
        }
        self.join_words(&mut weighed);
        weighed
    }

    /// Rows with a cell too many and rows that stand one to the right are of one cause; so are totals and notes.
    fn join_rows(&self, evidence: &mut Evidence) {
        for (from, to) in [(RowKind::Wide, RowKind::Shifted), (RowKind::Note, RowKind::Total)] {
            let Some(found) = evidence.found.remove(&Origin::Rows(from)) else { continue };
            match evidence.found.get_mut(&Origin::Rows(to)) {
                Some(known) => known.join(found),
                None => drop(evidence.found.insert(Origin::Rows(to), found)),
            }
        }
    }

    /// Columns whose values count on from row to row: what the values are like tells nothing there.
    fn join_series(&self, evidence: &mut Evidence, weighed: &mut Weighed) {
        for column in evidence.series.iter().filter(|series| series.1.is_telling()).map(|series| *series.0) {
            let is_of_series = |origin: &Origin| match origin {
                Origin::Words(words, _) => *words == column,
                Origin::Rest(at, code, _) => {
                    *at == column + 1 && matches!(code, Code::PatternBroken | Code::ReferenceUnknown)
                }
                // New records may well have such keys: then the mode is another.
                Origin::Key(Code::KeyNotFound) => evidence
                    .found
                    .get(origin)
                    .is_some_and(|found| self.mode(Code::KeyNotFound, found).is_none()),
                _ => false,
            };
            let origins: Vec<Origin> =
                evidence.found.keys().filter(|origin| is_of_series(origin)).cloned().collect();
            let mut all = origins.iter().filter_map(|origin| evidence.found.remove(origin));
            let Some(mut found) = all.next() else { continue };
            all.for_each(|other| found.join(other));
            weighed.causes.push(self.dragged(&found));
        }
    }

    /// Of a field whose words are told there is one cause: words that are like known ones, which a plan puts right, unless
    /// they are few beside the others. It tells of all words.
    fn join_words(&self, weighed: &mut Weighed) {
        let is_words = |cause: &Cause| matches!(cause.code, CauseCode::WordsOffList | CauseCode::YesNoWords);
        let (words, mut causes): (Vec<Cause>, Vec<Cause>) =
            std::mem::take(&mut weighed.causes).into_iter().partition(is_words);
        let mut of_fields: BTreeMap<Vec<String>, Vec<Cause>> = BTreeMap::new();
        for cause in words {
            of_fields.entry(cause.fields.clone()).or_default().push(cause);
        }
        for mut of_field in of_fields.into_values() {
            let all: u64 = of_field.iter().map(|cause| cause.findings).sum();
            of_field.sort_by_key(|cause| {
                (cause.remedy.plan.is_none() || cause.findings * 5 < all, cause.findings)
            });
            let mut of_field = of_field.into_iter();
            let Some(mut cause) = of_field.next() else { continue };
            for other in of_field {
                let more = other.words.len() as u64;
                let words = counted(more, "further word is", "further words are");
                cause.explanation = format!("{}; {words} like none of it", cause.explanation);
                cause.words.extend(other.words);
            }
            cause
                .words
                .sort_by(|one, other| other.count.cmp(&one.count).then_with(|| one.value.cmp(&other.value)));
            cause.words.truncate(MOST_WORDS);
            causes.push(cause);
        }
        weighed.causes = causes;
    }

    fn cause(&self, origin: &Origin, found: &Findings) -> Option<Cause> {
        match origin {
            Origin::Rows(kind) => self.rows(*kind, found),
            Origin::Swapped(column) => self.swapped(*column, found),
            _ if found.count < FEW => None,
            Origin::Stray => Some(self.stray(found)),
            Origin::Zeros => Some(self.mended(
                CauseCode::LeadingZeros,
                found,
                "lost the zeros before their digits: the pattern fits once they are put back",
                "put the zeros back",
                &[Code::ZerosLost],
            )),
            Origin::Case => Some(self.mended(
                CauseCode::LetterCase,
                found,
                "are in the wrong case and fit otherwise",
                "write them in the case that the schema asks for",
                &[Code::CaseWrong],
            )),
            Origin::Separator => Some(self.mended(
                CauseCode::SeparatorOther,
                found,
                "part their values by another mark than the schema's",
                "write the schema's mark between the values",
                &[Code::ListSeparator],
            )),
            Origin::Decoded => Some(self.sent(
                CauseCode::TextDecodedTwice,
                found,
                format!(
                    "{} were decoded twice: letters beyond ASCII have become two or three others",
                    cells(found)
                ),
                "Please export the file again as UTF-8: its accented letters arrive as two or three others.",
            )),
            Origin::Undecodable => Some(self.sent(
                CauseCode::EncodingWrong,
                found,
                format!("{} hold bytes that are no text in the file's encoding", cells(found)),
                "Please export the file again, all of it as UTF-8: parts of it are in another encoding.",
            )),
            Origin::Words(column, is_like) => self.words(*column, *is_like, found),
            Origin::Unit(column, unit) => self.unit(*column, unit, found),
            Origin::Dates(column, is_open) => self.dates(*column, *is_open, found),
            Origin::Times(column) => self.times(*column, found),
            Origin::Mark(column) => self.mark(*column, found),
            Origin::Moved(column, shift) => self.moved(*column, *shift, found),
            Origin::Blank(column) => self.blank(*column, found),
            Origin::Key(code) => self.mode(*code, found),
            Origin::Rest(..) => None,
        }
    }

    // What several of them need.

    pub(super) fn field(&self, column: usize) -> Option<&Field> {
        match self.gate.pairing().columns.get(column)? {
            Paired::Field { field, .. } => self.gate.schema().fields.get(*field),
            _ => None,
        }
    }

    pub(super) fn title(&self, column: usize) -> String {
        let heading = self.gate.table().headings.get(column).map(|heading| heading.trim().to_owned());
        let field = self.field(column).map(|field| field.name.clone());
        heading.filter(|heading| !heading.is_empty()).or(field).unwrap_or_else(|| letter(column))
    }

    pub(super) fn titles(&self, found: &Findings) -> String {
        let titles: Vec<String> = found.columns.iter().map(|column| self.title(*column)).collect();
        match titles.as_slice() {
            [first, second, third, rest @ ..] if !rest.is_empty() => {
                format!("{first}, {second}, {third} and {} more", grouped(rest.len() as u64))
            }
            titles => titles.join(", "),
        }
    }

    /// A cause with the fields, counts and example of what was found.
    pub(crate) fn of(&self, code: CauseCode, found: &Findings, explanation: String, remedy: Remedy) -> Cause {
        let names = found.columns.iter().filter_map(|column| self.field(*column));
        let sample = found.sample.as_ref().map(|(row, column, text)| CauseSample {
            row: *row,
            letter: column.filter(|_| !self.gate.table().is_records()).map(letter),
            value: column.map(|column| match self.gate.is_sensitive(column) && !text.is_empty() {
                true => MASK.to_owned(),
                false => text.chars().take(Finding::LONGEST_VALUE).collect(),
            }),
        });
        Cause {
            code,
            fields: names.map(|field| field.name.clone()).collect(),
            findings: found.count,
            rows: found.rows,
            explanation,
            remedy,
            words: Vec::new(),
            sample,
            claims: found.claims.clone(),
        }
    }

    fn mended(&self, code: CauseCode, found: &Findings, what: &str, does: &str, codes: &[Code]) -> Cause {
        let explanation = format!("{} of {} {what}", cells(found), self.titles(found));
        self.of(code, found, explanation, Remedy::mend(format!("Let `mend` {does}."), codes))
    }

    fn sent(&self, code: CauseCode, found: &Findings, explanation: String, text: &str) -> Cause {
        self.of(code, found, explanation, Remedy::sender(text))
    }

    // One by one.

    fn rows(&self, kind: RowKind, found: &Findings) -> Option<Cause> {
        let mut all = found.clone();
        self.claim_repeats(&mut all);
        let found = &all;
        let runs = found.runs.iter().take(MOST_RUNS).copied().collect();
        let rows = counted(found.rows, "row", "rows");
        let (code, explanation, remedy) = match kind {
            RowKind::Headings => (
                CauseCode::HeadingsRepeated,
                format!("{rows} hold{} the headings once more", if found.rows == 1 { "s" } else { "" }),
                Remedy::rows("Delete the rows that repeat the headings.", runs),
            ),
            RowKind::Total | RowKind::Note => (
                CauseCode::RowsNotRecords,
                format!(
                    "{rows} among the records {} a total or a note",
                    if found.rows == 1 { "is" } else { "are" }
                ),
                Remedy::rows("Delete the totals and notes.", runs),
            ),
            RowKind::Shifted | RowKind::Wide if found.rows >= FEW => {
                let first = found.runs.first().map_or(0, |run| run[0]);
                let text = "Please put texts that hold the delimiter in quotes, or export again: in the rows named, cells \
                            stand one column further right than they belong.";
                (
                    CauseCode::CellsShifted,
                    format!(
                        "in {rows}, from row {} on, cells stand one column further right than they belong",
                        grouped(first)
                    ),
                    Remedy { rows: runs, ..Remedy::sender(text) },
                )
            }
            RowKind::Shifted | RowKind::Wide => return None,
        };
        let mut cause = self.of(code, found, explanation, remedy);
        cause.fields.clear();
        Some(cause)
    }

    /// Takes up what repeats by rows that are no records: their own findings, and those of the only row that is left then.
    fn claim_repeats(&self, found: &mut Findings) {
        let is_meant = |row: u64| {
            let at = found.runs.partition_point(|run| run[1] < row);
            found.runs.get(at).is_some_and(|run| run[0] <= row)
        };
        let group_of = |keyset: usize, rows: &[u64]| (keyset, rows.first().copied().unwrap_or_default());
        let mut meant: BTreeMap<(usize, u64), u64> = BTreeMap::new();
        for (row, keyset, group) in self.outcome.repeats.each().filter(|found| is_meant(found.0)) {
            *meant.entry(group_of(keyset, &group.rows)).or_default() += u64::from(is_meant(row));
        }
        let mut claims = Vec::new();
        for (row, keyset, group) in self.outcome.repeats.each() {
            let gone = meant.get(&group_of(keyset, &group.rows)).copied().unwrap_or_default();
            if gone > 0 && (is_meant(row) || group.count - gone < 2) {
                claims.push(self.gate.repeat_counted(keyset, self.gate.repeat_level(keyset)));
            }
        }
        for counted in claims {
            *found.claims.entry(counted).or_default() += 1;
            found.count += 1;
        }
    }

    fn stray(&self, found: &Findings) -> Cause {
        let codes: Vec<Code> = [Code::CharactersInvisible, Code::SpaceStray]
            .into_iter()
            .filter(|code| found.claims.keys().any(|claim| claim.code == *code))
            .collect();
        self.mended(
            CauseCode::StrayCharacters,
            found,
            "hold spaces or invisible characters that nobody meant",
            "take them out",
            &codes,
        )
    }

    fn swapped(&self, column: usize, found: &Findings) -> Option<Cause> {
        let (one, other) = self.outcome.misfits.iter().copied().find(|pair| pair.0.min(pair.1) == column)?;
        let mut found = found.clone();
        for column in [one, other] {
            for (counted, tally) in self.outcome.tallies.iter() {
                if counted.column == column + 1 && counted.code == Code::ColumnMisfit {
                    found.claims.insert(counted, tally.count);
                    found.count += tally.count;
                }
            }
        }
        found.columns = [one, other].into();
        let heading = |column: usize| {
            let heading =
                self.gate.table().headings.get(column).map(|heading| heading.trim()).unwrap_or_default();
            let same = self.gate.table().headings.iter().filter(|other| other.trim() == heading).count();
            match heading.is_empty() || same > 1 || heading.starts_with('@') {
                true => format!("@{}", letter(column)),
                false => heading.to_owned(),
            }
        };
        let to = |column: usize| match self.field(column) {
            Some(field) => quoted(&field.name),
            None => "false".to_owned(),
        };
        let entries = vec![(quoted(&heading(one)), to(other)), (quoted(&heading(other)), to(one))];
        let explanation = format!(
            "the values of {} and {} stand under each other's headings",
            self.title(one),
            self.title(other)
        );
        let text = "Pair each column with the field whose values it holds.";
        let remedy = Remedy::plan(text, fragment::table(&["columns"], &entries));
        Some(self.of(CauseCode::ColumnsSwapped, &found, explanation, remedy))
    }

    fn blank(&self, column: usize, found: &Findings) -> Option<Cause> {
        let rows = self.outcome.counts.records();
        let begins = self.gate.table().first_row;
        let is_below = found.runs.first().is_some_and(|run| run[0] > begins) && found.has_all_runs;
        if !is_below || found.count * 2 < rows || found.runs.len() < 2 || found.count >= rows {
            return None;
        }
        let title = self.title(column);
        let explanation = format!(
            "{} of {title} are blank below one that is filled, as where a value was shown once for several rows",
            cells(found)
        );
        let text = format!("Please fill {title} down: each row needs its own value.");
        Some(self.of(CauseCode::BlankBelowGroups, found, explanation, Remedy::sender(text)))
    }

    fn mode(&self, code: Code, found: &Findings) -> Option<Cause> {
        // Rows that are left out for this are rows, too.
        let is_left_out = code == Code::KeyNotFound && self.gate.leaves_unmatched();
        let counts = self.outcome.counts;
        let rows = if is_left_out { counts.rows } else { counts.records() };
        let mode = self.gate.settings().mode;
        if found.count * 5 < rows * 4 {
            return None;
        }
        let (explanation, other) = match (code, mode) {
            (Code::KeyExists, Mode::Add) => {
                ("keys are there already, though records are to be added", Mode::Update)
            }
            (Code::KeyNotFound, Mode::Update) => {
                ("keys are not there, though records are to be updated", Mode::Add)
            }
            _ => return None,
        };
        let explanation = format!("{} of {} {explanation}", grouped(found.count), grouped(rows));
        let text = format!("If the file is meant to {} records, say so in the plan.", other.name());
        let plan = format!("mode = \"{}\"\n", other.name());
        Some(self.of(CauseCode::ModeWrong, found, explanation, Remedy::plan(text, plan)))
    }

    fn dragged(&self, found: &Findings) -> Cause {
        let titles = self.titles(found);
        let explanation = format!(
            "{} of {titles} count up from row to row, as where a cell was dragged down",
            cells(found)
        );
        let text =
            format!("Please look at {titles}: the values count up row by row; was a cell dragged down?");
        self.of(CauseCode::KeysDragged, found, explanation, Remedy::sender(text))
    }
}

/// How many cells there are.
pub(crate) fn cells(found: &Findings) -> String {
    counted(found.count, "cell", "cells")
}
