//! Keys held against the records that are there: what is added must not stand there yet, what is updated must.

use super::compiled::Compiled;
use super::hashing::values;
use super::keyset::KeySet;
use super::mark::Mark;
use crate::block::Block;
use crate::catalogue::{Code, Level, entry};
use crate::existing::ExistingRow;
use crate::finding::{Finding, MASK};
use crate::mode::Mode;
use crate::rows::Cells;
use crate::schema::KindName;

impl Compiled {
    /// The combination that is the key, where its columns are there.
    pub(super) fn key_set(&self) -> Option<&KeySet> {
        self.keysets.iter().find(|keyset| matches!(keyset.code, Code::KeyRepeated | Code::LinesApart))
    }

    /// The record that stands under the key of a row; nothing where the key has no value, or no records are known.
    pub(crate) fn there<'a>(
        &'a self,
        block: &Block,
        cells: &Cells,
        row: usize,
        key: &mut Vec<u8>,
    ) -> Option<Option<ExistingRow<'a>>> {
        let existing = self.settings.existing.as_deref()?;
        let is_whole = values(self, self.key_set()?, block, cells, row, key);
        is_whole.then(|| existing.row(key))
    }

    /// Whether a row changes a record that is there, which no default fills.
    pub(super) fn has_record(&self, block: &Block, cells: &Cells, row: usize) -> bool {
        let is_asked = self.settings.existing.is_some() && self.settings.mode == Mode::Both;
        is_asked && matches!(self.there(block, cells, row, &mut Vec::new()), Some(Some(_)))
    }

    /// Whether rows are left out whose record is not there.
    pub(crate) fn leaves_unmatched(&self) -> bool {
        let plan = &self.settings.plan;
        self.settings.mode == Mode::Update
            && self.settings.existing.is_some()
            && plan.existing.as_ref().is_some_and(|plan| plan.leaves_unmatched)
    }

    /// The rows whose record is not there.
    pub(super) fn unmatched(&self, block: &Block, cells: &Cells, key: &mut Vec<u8>) -> Vec<u32> {
        let is_unmatched = |row: &usize| matches!(self.there(block, cells, *row, key), Some(None));
        (0..cells.len()).filter(is_unmatched).filter_map(|row| u32::try_from(row).ok()).collect()
    }

    /// Marks the keys that are there though they must not be, and those that are not though they must.
    pub(super) fn mark_there(&self, block: &Block, cells: &Cells, key: &mut Vec<u8>, marks: &mut Vec<Mark>) {
        let (Some(keyset), Some(_)) = (self.key_set(), &self.settings.existing) else { return };
        let column = keyset.columns.first().map_or(0, |column| column + 1);
        let code = match self.settings.mode {
            Mode::Add => Code::KeyExists,
            Mode::Update if !self.leaves_unmatched() => Code::KeyNotFound,
            Mode::Update | Mode::Both => return,
        };
        let level = self.told_level(code, entry(code).level);
        for row in 0..cells.len() {
            if cells.is_below(row) {
                continue;
            }
            let is_told = match self.there(block, cells, row, key) {
                Some(there) => there.is_some() == (code == Code::KeyExists),
                None => false,
            };
            if is_told {
                marks.push(Mark::at(cells, row, column, code, level));
            }
        }
    }

    /// Takes back what is missing from rows whose record has it.
    pub(super) fn unmark_filled(
        &self,
        block: &Block,
        cells: &Cells,
        key: &mut Vec<u8>,
        marks: &mut Vec<Mark>,
    ) {
        let Some(existing) = self.settings.existing.as_deref().filter(|_| self.settings.mode == Mode::Both)
        else {
            return;
        };
        let is_there = |mark: &Mark, key: &mut Vec<u8>| {
            let column = usize::from(mark.column).checked_sub(1)?;
            let field = self.columns.get(column)?.field?;
            let there = self.there(block, cells, mark.row as usize, key)??;
            Some(there.value(field).is_some() || !existing.knows(field))
        };
        marks.retain(|mark| mark.code != Code::RequiredBlank || is_there(mark, key) != Some(true));
    }

    /// Says of a key what stands there, or what is near it.
    pub(super) fn describe_there(&self, mark: Mark, block: &Block, cells: &Cells, finding: &mut Finding) {
        let Some(existing) = self.settings.existing.as_deref() else { return };
        let row = mark.row as usize;
        let columns = self.key_set().map(|keyset| keyset.columns.clone()).unwrap_or_default();
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
            if let Some(Some(there)) = self.there(block, cells, row, &mut key)
                && let Some(shown) = self.shown_there(there)
            {
                finding.message = format!("{}: {shown}", finding.message);
            }
            finding.expect(format!("a key that none of the {count} of {source} has"));
        } else {
            if mark.level != Level::Stop {
                finding.message.push_str("; it is left out");
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
        let alike = self.schema.alike.clone();
        let is_descriptive = |number: &usize| {
            let Some(field) = self.schema.fields.get(*number) else { return false };
            !self.schema.is_keyed(*number) && field.stated.kind != KindName::Reference
        };
        let all = 0..self.schema.fields.len();
        let fields = alike.into_iter().chain(all.filter(is_descriptive));
        let mut shown: Vec<String> = Vec::new();
        let mut seen = Vec::new();
        for field in fields {
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
