//! Repeats: suspected rows confirmed by their values, and the findings they make.

use super::compiled::Compiled;
use super::judge::Judge;
use super::key_values;
use super::keyset::KeySet;
use super::keystore::{SuspectRow, Suspects};
use super::places::LineCounter;
use super::repeats::{Confirm, RepeatGroup, Repeats};
use super::tallies::Counted;
use crate::block::Block;
use crate::catalogue::{Code, Level};
use crate::finding::{Finding, MASK, letter};
use crate::numerals::grouped;
use crate::plan::Stands;
use crate::rows::{Cells, text_of};
use crate::schema::Asks;
use xxhash_rust::xxh3::xxh3_128;

/// So many likely duplicates are always looked at.
const MOST_ALIKE: u64 = 100;

impl Compiled {
    /// Takes the suspected rows of a block, which are those of `suspects`, to be confirmed.
    pub(crate) fn confirm(
        &self,
        judge: &mut Judge<'_>,
        block: &Block,
        suspects: &[SuspectRow],
        confirm: &mut Confirm,
    ) {
        judge.lay_out(block);
        let cells = judge.cells();
        let (mut text, mut row) = (Vec::new(), 0);
        for &suspect in suspects {
            while row < cells.len() && block.first_row + u64::from(cells.place(row)) < suspect.row {
                row += 1;
            }
            let Some(keyset) = self.keysets.get(suspect.keyset) else { continue };
            let there = judge.there().get(row).and_then(|there| there.record());
            if row < cells.len() && key_values::values(self, keyset, (block, cells, row), there, &mut text) {
                // What counts: whether nearly the same keys are the same, whether rows have the same key, or else whether
                // they are equal throughout.
                let whole = if keyset.is_folded() {
                    xxh3_128(self.texts_as_they_are(block, cells, row, &keyset.columns).as_bytes())
                } else if keyset.wants_other_keys() {
                    let mut key = Vec::new();
                    self.key_values(block, cells, row, &mut key);
                    // What the target is to number is a record of its own.
                    if key.is_empty() && self.is_numbered() {
                        key.extend(suspect.row.to_le_bytes());
                    }
                    xxh3_128(&key)
                } else {
                    // However cells are quoted, they are the same.
                    let all: Vec<usize> = (0..self.width()).collect();
                    xxh3_128(self.texts_as_they_are(block, cells, row, &all).as_bytes())
                };
                confirm.see(suspect, &text, whole);
            }
        }
    }

    /// The column that findings about a combination stand in, from 1; 0 where it has several.
    pub(crate) fn repeat_counted(&self, number: usize, level: Level) -> Counted {
        let keyset = self.keysets.get(number);
        let code = keyset.map_or(Code::KeyRepeated, |keyset| keyset.code);
        match keyset.map(|keyset| keyset.columns.as_slice()) {
            Some([column]) => Counted { column: column + 1, code, level, rule: None },
            _ => Counted { column: 0, code, level, rule: u16::try_from(number).ok() },
        }
    }

    /// What made the findings that are counted apart: the name of the rule, and the names of its fields.
    pub(crate) fn made_by(&self, counted: &Counted) -> (Option<String>, Vec<String>) {
        let Some(number) = counted.rule.map(usize::from) else { return (None, Vec::new()) };
        let names = |fields: &[usize]| {
            let fields = fields.iter().filter_map(|field| self.schema.fields.get(*field));
            fields.map(|field| field.name.clone()).collect::<Vec<_>>()
        };
        let found = match counted.code {
            Code::RuleBroken | Code::RuleRequired | Code::RuleForbidden => {
                self.schema.rules.get(number).map(|rule| {
                    let fields = match &rule.asks {
                        Asks::Require(fields) if counted.column == 0 => {
                            fields.iter().copied().filter(|field| self.column_of(*field).is_none()).collect()
                        }
                        Asks::Must(..) => rule.fields(),
                        _ => Vec::new(),
                    };
                    (Some(rule.name.clone()), names(&fields))
                })
            }
            Code::BlockIncomplete => {
                let block = self.schema.blocks.get(number);
                block.map(|block| (Some(block.name.clone()), names(&block.fields)))
            }
            Code::CombinationNotPermitted => {
                let combination = self.schema.combinations.get(number);
                combination.map(|one| (Some(one.name.clone()), names(&one.fields)))
            }
            Code::RequiredBlank => Some((None, names(&[number]))),
            Code::UniqueExists => self.probe(number).map(|probe| (None, names(&probe.fields))),
            _ => self.keysets.get(number).map(|keyset| (None, names(&keyset.fields))),
        };
        found.unwrap_or_default()
    }

    /// The findings of the repeated rows in a block, in order.
    pub(crate) fn repeat_findings(
        &self,
        judge: &mut Judge<'_>,
        block: &Block,
        repeats: &Repeats,
    ) -> Vec<Finding> {
        judge.lay_out(block);
        let cells = judge.cells();
        let mut lines = LineCounter::new(block);
        let mut findings = Vec::new();
        for row in 0..cells.len() {
            let number = block.first_row + u64::from(cells.place(row));
            let passed = judge.state().passed().into_iter().flat_map(|repeats| repeats.of_row(number));
            let level = |group: &RepeatGroup| {
                self.keysets.get(group.keyset).map_or(Level::Stop, |keyset| keyset.level)
            };
            let groups = repeats.of_row(number).map(|group| (group, self.told_level_of(group, level(group))));
            if let Some(lines_of) = repeats.miscounted_at(number) {
                let mut finding = self.miscounted_finding(lines_of);
                finding.row = Some(number);
                finding.line = Some(lines.of(cells.place(row), cells.row(row).0));
                finding.key = self.key_of(block, cells, row);
                findings.push(self.table.placed(finding));
            }
            for probe in repeats.shared_at(number) {
                let there = judge.there().get(row).and_then(|there| there.record());
                let found = self.shared_finding(probe, (block, cells, row), there);
                findings.extend(found.map(|mut finding| {
                    finding.row = Some(number);
                    finding.line = Some(lines.of(cells.place(row), cells.row(row).0));
                    finding.key = self.key_of(block, cells, row);
                    self.table.placed(finding)
                }));
            }
            for (group, level) in groups.chain(passed.map(|group| (group, Level::Warn))) {
                let Some(keyset) = self.keysets.get(group.keyset) else { continue };
                if self.is_apart(group.keyset) && group.rows.first() == Some(&number) {
                    continue;
                }
                let mut finding = Finding::new(keyset.code, level, self.repeat_message(group, level));
                finding.row = Some(number);
                finding.line = Some(lines.of(cells.place(row), cells.row(row).0));
                if let [column] = keyset.columns.as_slice() {
                    self.place(*column, &mut finding);
                } else {
                    let names = keyset.fields.iter().filter_map(|field| self.schema.fields.get(*field));
                    finding.fields = names.map(|field| field.name.clone()).collect();
                }
                let texts = self.texts(block, cells, row, &keyset.columns);
                let masked = texts.iter().all(|text| text == MASK);
                finding.set_value(&texts.join(" / "), masked);
                finding.key = self.key_of(block, cells, row);
                finding.places.clone_from(&group.rows);
                finding.places_left_out = group.count - group.rows.len() as u64;
                findings.push(self.table.placed(finding));
            }
        }
        findings.sort_by_key(Finding::order);
        findings
    }

    /// The level at which a repeat is told.
    fn told_level_of(&self, group: &RepeatGroup, natural: Level) -> Level {
        self.keysets.get(group.keyset).map_or(natural, |keyset| self.told_level(keyset.code, natural))
    }

    /// Whether the repeats of a combination hold their rows.
    pub(crate) fn repeat_holds(&self, keyset: usize) -> bool {
        self.repeat_level(keyset) == Level::Stop
    }

    /// The level of the repeats of a combination.
    pub(crate) fn repeat_level(&self, keyset: usize) -> Level {
        self.keysets.get(keyset).map_or(Level::Stop, |keyset| self.told_level(keyset.code, keyset.level))
    }

    /// Whether the values of a combination are compared nearly.
    pub(crate) fn is_near(&self, keyset: usize) -> bool {
        self.keysets.get(keyset).is_some_and(|keyset| keyset.is_folded() || keyset.wants_other_keys())
    }

    /// Takes the suspected likely duplicates out where there are so many of them that the fields cannot be what tells
    /// records apart; says so. Fields that the schema names stay.
    pub(crate) fn drop_common(&self, suspects: &mut Suspects, rows: u64) -> Option<Finding> {
        let is_alike = |suspect: &SuspectRow| self.keysets.get(suspect.keyset).is_some_and(KeySet::is_alike);
        let mut common: Vec<u64> =
            suspects.rows.iter().filter(|row| is_alike(row)).map(|row| row.row).collect();
        common.dedup();
        let count = common.len() as u64;
        if !self.schema.alike.is_empty() || count <= MOST_ALIKE.max(rows / 5) {
            return None;
        }
        suspects.rows.retain(|suspect| !is_alike(suspect));
        let message = format!(
            "likely duplicates were not looked for: the descriptive fields agree in {} of {} rows; name those that \
             tell records apart in `alike` of the record schema",
            grouped(count),
            grouped(rows)
        );
        Some(Finding::new(Code::DuplicateLikely, Level::Note, message))
    }

    /// Whether a combination is the key of records of several rows.
    pub(crate) fn is_apart(&self, keyset: usize) -> bool {
        self.keysets.get(keyset).is_some_and(|keyset| keyset.code == Code::LinesApart)
    }

    /// The texts of some cells, trimmed, for comparing.
    fn texts_as_they_are(&self, block: &Block, cells: &Cells, row: usize, columns: &[usize]) -> String {
        let text = |column: &usize| {
            let raw = cells.bytes(block, row, *column);
            text_of(raw, self.table.dialect).map(|text| text.trim().to_owned()).unwrap_or_default()
        };
        columns.iter().map(text).collect::<Vec<_>>().join("\u{0}")
    }

    fn repeat_message(&self, group: &RepeatGroup, level: Level) -> String {
        let keyset = self.keysets.get(group.keyset);
        let count = grouped(group.count);
        match keyset.map(|keyset| keyset.code) {
            Some(Code::KeyNearlyRepeated) => {
                return format!(
                    "{count} rows have this key but for case, spaces or leading zeros; are they the same?"
                );
            }
            Some(Code::RowRepeated) => return format!("the whole row stands in {count} rows"),
            Some(Code::LinesApart) => {
                return format!("the rows of this record stand in {count} places; sort the file by the key");
            }
            Some(Code::DuplicateLikely) => {
                return format!("{count} rows with different keys describe the same; are they the same?");
            }
            Some(Code::LineRepeated) => return format!("this line stands in {count} rows of its record"),
            _ => {}
        }
        let what = match keyset.map(|keyset| keyset.code) {
            Some(Code::UniqueRepeated) => "this combination".to_owned(),
            _ => "this key".to_owned(),
        };
        let letters: Vec<_> =
            keyset.iter().flat_map(|keyset| &keyset.columns).map(|column| letter(*column)).collect();
        let columns =
            if letters.len() > 1 { format!(" (columns {})", letters.join(", ")) } else { String::new() };
        let equal = if group.equal { "the rows are equal throughout" } else { "the rows differ elsewhere" };
        match (level, self.settings.plan.stands) {
            (Level::Stop, _) => format!("{what}{columns} stands in {count} rows; {equal}"),
            (_, Stands::Last) => {
                format!("{what}{columns} stands in {count} rows; the last one stands, this one is left out")
            }
            _ => {
                format!("{what}{columns} stands in {count} rows; the first one stands, this one is left out")
            }
        }
    }
}
