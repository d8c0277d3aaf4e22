//! Keys held against the records that are there: what is added must not stand there yet, what is updated must.

use super::compiled::Compiled;
use super::key_values::{values, values_of};
use super::keyset::KeySet;
use super::mark::Mark;
use super::seen::Seen;
use super::standing::There;
use crate::block::Block;
use crate::catalogue::{Code, Level, entry};
use crate::existing::{Existing, ExistingRow, Keys};
use crate::finding::{Finding, MASK};
use crate::mode::Mode;
use crate::rows::Cells;
use crate::schema::{KindName, Required};

impl Compiled {
    /// The combination that is the key, where its columns are there.
    pub(super) fn key_set(&self) -> Option<&KeySet> {
        self.keysets.iter().find(|keyset| matches!(keyset.code, Code::KeyRepeated | Code::LinesApart))
    }

    /// The fields that are asked of existing records: the key, what the file has a column for, what rules and scope look at,
    /// and what describes a record.
    #[must_use]
    pub fn asked_of_existing(&self) -> Vec<usize> {
        let schema = &self.schema;
        let mut asked: Vec<usize> =
            schema.key.iter().chain(schema.unique.iter().flatten()).copied().collect();
        if self.settings.mode == Mode::Add {
            asked.extend(self.descriptive().filter(|field| self.column_of(*field).is_some()).take(8));
        } else {
            let paired = self.pairing.column_of.iter().enumerate();
            asked.extend(paired.filter(|(_, column)| column.is_some()).map(|(field, _)| field));
            asked.extend(schema.rules.iter().flat_map(|rule| [rule.fields(), rule.asked()].concat()));
            asked.extend(schema.blocks.iter().flat_map(|block| block.fields.iter().chain(&block.needs)));
            asked.extend(schema.combinations.iter().flat_map(|combination| &combination.fields));
            asked.extend(self.scope_condition().into_iter().flat_map(|condition| &condition.fields));
            let is_required = |number: &usize| {
                schema.fields.get(*number).is_some_and(|field| field.required != Required::No)
            };
            asked.extend((0..schema.fields.len()).filter(is_required));
            asked.extend(schema.lines.iter().flat_map(|lines| lines.header.iter().chain(&lines.key)));
        }
        asked.sort_unstable();
        asked.dedup();
        asked
    }

    /// The fields that describe a record, those by which likely duplicates are told first.
    fn descriptive(&self) -> impl Iterator<Item = usize> {
        let is_descriptive = |number: &usize| {
            let Some(field) = self.schema.fields.get(*number) else { return false };
            !self.schema.is_keyed(*number) && field.stated.kind != KindName::Reference
        };
        let alike = self.schema.alike.iter().copied();
        alike.chain((0..self.schema.fields.len()).filter(is_descriptive))
    }

    /// What stands under the key of a row; nothing where no records are known.
    pub(super) fn there<'a>(
        &'a self,
        block: &Block,
        cells: &Cells,
        row: usize,
        key: &mut Vec<u8>,
    ) -> Option<There<'a>> {
        let existing = self.settings.existing.as_deref()?;
        let has_key =
            self.key_set().is_some_and(|keyset| values(self, keyset, (block, cells, row), None, key));
        if !has_key {
            return Some(self.there_by_other(existing, block, cells, row, key));
        }
        let found = existing.row(key);
        Some(self.there_of(existing, (block, cells, row), key, found))
    }

    /// What stands under this key of a row, where this record was found for it.
    fn there_of<'a>(
        &'a self,
        existing: &'a dyn Existing,
        (block, cells, row): (&Block, &Cells, usize),
        key: &[u8],
        found: Option<ExistingRow<'a>>,
    ) -> There<'a> {
        let Some(record) = found else { return There::Nothing };
        if !record.is_new_line() {
            return There::Record(record);
        }
        let mut line = Vec::new();
        self.line_values(block, cells, row, &mut line);
        There::Record(existing.line(key, &line).unwrap_or(record))
    }

    /// Writes the key of a line within its record; nothing where it has none.
    pub(super) fn line_values(&self, block: &Block, cells: &Cells, row: usize, into: &mut Vec<u8>) {
        let key = self.schema.lines.iter().flat_map(|lines| &lines.key);
        let columns: Option<Vec<usize>> = key.map(|field| self.column_of(*field)).collect();
        let columns = columns.filter(|columns| !columns.is_empty());
        let is_whole = columns
            .is_some_and(|columns| values_of(self, &columns, (false, false), (block, cells, row), into));
        if !is_whole {
            into.clear();
        }
    }

    /// The record that is found by a field that stands for the key, where the key is blank.
    fn there_by_other<'a>(
        &'a self,
        existing: &'a dyn Existing,
        block: &Block,
        cells: &Cells,
        row: usize,
        into: &mut Vec<u8>,
    ) -> There<'a> {
        let is_blank = |field: &usize| {
            let Some(number) = self.column_of(*field) else { return true };
            let raw = cells.bytes(block, row, number);
            let column = self.columns.get(number);
            column.is_none_or(|column| {
                matches!(column.see(raw, self.table.dialect), Seen::Blank { .. } | Seen::Stale)
            })
        };
        if self.schema.also_by.is_empty()
            || !self.settings.mode.updates()
            || !self.schema.key.iter().all(is_blank)
        {
            return There::NoKey;
        }
        let stand = existing
            .probes()
            .iter()
            .enumerate()
            .filter(|(_, probe)| self.schema.stands_for_key(&probe.fields));
        for (number, probe) in stand {
            if self.probe_values(probe, (block, cells, row), None, into)
                && let Some(record) = existing.holder(number, into).and_then(|key| existing.row(key))
            {
                return There::Record(record);
            }
        }
        There::NoKey
    }

    /// Writes the key of a row, so that equal keys are equal bytes; nothing where it has none.
    pub(super) fn key_values(&self, block: &Block, cells: &Cells, row: usize, into: &mut Vec<u8>) {
        let is_whole =
            self.key_set().is_some_and(|keyset| values(self, keyset, (block, cells, row), None, into));
        if !is_whole {
            into.clear();
        }
    }

    /// What stands under the key of each row; nothing at all where no records are known.
    pub(super) fn find_there<'a>(
        &'a self,
        block: &Block,
        cells: &Cells,
        (keys, key): (&mut Keys, &mut Vec<u8>),
        into: &mut Vec<There<'a>>,
    ) {
        into.clear();
        keys.clear();
        let Some(existing) = self.settings.existing.as_deref() else { return };
        for row in 0..cells.len() {
            let has_key =
                self.key_set().is_some_and(|keyset| values(self, keyset, (block, cells, row), None, key));
            keys.push(has_key.then_some(key.as_slice()));
        }
        let mut by_row = keys.iter().enumerate();
        existing.rows(keys, &mut |found| {
            let Some((row, of_row)) = by_row.next() else { return };
            into.push(match of_row {
                Some((_, of_row)) => self.there_of(existing, (block, cells, row), of_row, found),
                None => self.there_by_other(existing, block, cells, row, key),
            });
        });
    }

    /// Whether what a record has stays, and only its blank fields are filled.
    pub(crate) fn fills_only(&self) -> bool {
        self.settings.existing.is_some()
            && self.settings.mode.updates()
            && self.settings.plan.existing.as_ref().is_some_and(|plan| plan.fills_only)
    }

    /// The first column of a field that stands for the key.
    fn standing_column(&self) -> Option<&usize> {
        self.schema.also_by.iter().find_map(|field| self.pairing.column_of.get(*field)?.as_ref())
    }

    /// Whether rows are left out whose record is not there.
    pub(crate) fn leaves_unmatched(&self) -> bool {
        let plan = &self.settings.plan;
        self.settings.mode == Mode::Update
            && self.settings.existing.is_some()
            && plan.existing.as_ref().is_some_and(|plan| plan.leaves_unmatched)
    }

    /// Whether the target numbers the records.
    pub(super) fn is_numbered(&self) -> bool {
        let is_numbered = |field: &usize| self.schema.fields.get(*field).is_some_and(|field| field.numbered);
        self.schema.key.iter().any(is_numbered)
    }

    /// Marks the cells of new records that hold what the target numbers.
    pub(super) fn mark_numbered(&self, block: &Block, cells: &Cells, marks: &mut Vec<Mark>) {
        if self.settings.mode != Mode::Add {
            return;
        }
        for (number, column) in self.columns.iter().enumerate() {
            let field = column.field.and_then(|field| self.schema.fields.get(field));
            if !field.is_some_and(|field| field.numbered) {
                continue;
            }
            let level = self.told_level(Code::KeyNumbered, entry(Code::KeyNumbered).level);
            for row in 0..cells.len() {
                let raw = cells.stored(block, row, number);
                if matches!(column.see(raw, self.table.dialect), Seen::Value(_) | Seen::Broken) {
                    marks.push(Mark::at(cells, row, number + 1, Code::KeyNumbered, level));
                }
            }
        }
    }

    /// Says what the record has that a cell would change.
    pub(super) fn describe_changed(&self, mark: Mark, block: &Block, cells: &Cells, finding: &mut Finding) {
        let column = usize::from(mark.column).saturating_sub(1);
        let field = self.pairing.column_of.iter().position(|at| *at == Some(column));
        let Some(field) = field else { return };
        let title = self.schema.fields.get(field).map(|field| field.label.clone()).unwrap_or_default();
        let is_masked = self.schema.fields.get(field).is_some_and(|field| field.sensitive);
        let texts = self.texts(block, cells, mark.row as usize, &[column]);
        finding.set_value(&texts.concat(), is_masked);
        finding.message = match (mark.code, mark.level) {
            (Code::FieldOutOfScope, _) => format!("the plan does not let this file change {title}"),
            (_, Level::Stop) => {
                format!("{title} may be set when a record is added, and must not change later")
            }
            _ => format!("{title} is computed by the target; the value is left out"),
        };
        if let Some(There::Record(there)) = self.there(block, cells, mark.row as usize, &mut Vec::new()) {
            finding.expect(match there.value(field) {
                Some(_) if is_masked => "what the record has, or a blank cell".to_owned(),
                Some(value) => format!("{value}, which the record has, or a blank cell"),
                None => "a blank cell: the record has none".to_owned(),
            });
        }
    }

    /// Marks the keys that are there though they must not be, and those that are not though they must.
    pub(super) fn mark_there(&self, cells: &Cells, there: &[There<'_>], marks: &mut Vec<Mark>) {
        // A key that something else stands for need not be given.
        let is_found = |mark: &Mark| matches!(there.get(mark.row as usize), Some(There::Record(_)));
        if !self.schema.also_by.is_empty() && self.settings.mode.updates() {
            marks.retain(|mark| mark.code != Code::KeyBlank || !is_found(mark));
        }
        // Without a column of the key, what stands for it has to be found.
        let column = match self.key_set() {
            Some(keyset) => keyset.columns.first(),
            None if self.settings.mode == Mode::Update => self.standing_column(),
            None => return,
        };
        let has_key = self.key_set().is_some();
        let column = column.map_or(0, |column| column + 1);
        let code = match self.settings.mode {
            Mode::Add if self.is_numbered() => return,
            Mode::Add => Code::KeyExists,
            Mode::Update if !self.leaves_unmatched() => Code::KeyNotFound,
            // Nobody but the target gives such a key.
            Mode::Both if self.is_numbered() => Code::KeyNotFound,
            Mode::Update | Mode::Both => return,
        };
        let level = self.told_level(code, entry(code).level);
        for (row, there) in there.iter().enumerate().filter(|(row, _)| !cells.is_below(*row)) {
            let is_told = match there {
                There::NoKey => !has_key,
                There::Nothing => code == Code::KeyNotFound,
                There::Record(_) => code == Code::KeyExists,
            };
            if is_told {
                marks.push(Mark::at(cells, row, column, code, level));
            }
        }
    }

    /// Says of a key what stands there, or what is near it.
    pub(super) fn describe_there(&self, mark: Mark, block: &Block, cells: &Cells, finding: &mut Finding) {
        let Some(existing) = self.settings.existing.as_deref() else { return };
        let row = mark.row as usize;
        let columns = match self.key_set() {
            Some(keyset) => keyset.columns.clone(),
            None => self.standing_column().into_iter().copied().collect(),
        };
        let is_masked = columns.iter().any(|column| self.is_sensitive(*column));
        let texts = self.texts(block, cells, row, &columns);
        finding.set_value(&texts.join(" / "), is_masked);
        finding.fields = match columns.as_slice() {
            [_] => Vec::new(),
            several => several.iter().filter_map(|column| self.field_name(*column)).collect(),
        };
        let (count, source) =
            (crate::numerals::counted(existing.count(), "record", "records"), existing.source());
        finding.message = entry(mark.code).title.to_owned();
        if mark.code == Code::KeyExists {
            let mut key = Vec::new();
            if let Some(There::Record(there)) = self.there(block, cells, row, &mut key)
                && let Some(shown) = self.shown_there(there)
            {
                finding.message = format!("{}: {shown}", finding.message);
            }
            finding.expect(format!("a key that none of the {count} of {source} has"));
        } else {
            if mark.level != Level::Stop {
                finding.message = "its record is not there; the row is left out".to_owned();
            }
            finding.expect(format!("the key of one of the {count} of {source}"));
            let near = if is_masked { None } else { existing.nearest(&texts.concat()) };
            finding.suggestion = near.map(ToOwned::to_owned);
        }
    }
}

impl Compiled {
    /// A record that is there, by up to three fields that describe it.
    fn shown_there(&self, there: ExistingRow<'_>) -> Option<String> {
        let mut shown: Vec<String> = Vec::new();
        let mut seen = Vec::new();
        for field in self.descriptive() {
            let Some(value) = there.value(field).filter(|_| !seen.contains(&field)) else { continue };
            seen.push(field);
            let is_masked = self.schema.fields.get(field).is_some_and(|field| field.sensitive);
            shown.push(if is_masked { MASK.to_owned() } else { value.chars().take(60).collect() });
            if shown.len() == 3 {
                break;
            }
        }
        (!shown.is_empty()).then(|| shown.join(", "))
    }
}
