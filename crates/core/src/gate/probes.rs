//! What of a row another record may have that is there: a combination that must not repeat, nearly the same key, the same
//! description.

use super::alike_sums;
use super::compiled::{Column, Compiled};
use super::key_values::values_of;
use super::kinds::Program;
use super::seen::Seen;
use super::standing::There;
use super::tallies::Counted;
use super::verdict::Given;
use crate::block::Block;
use crate::catalogue::{Code, entry};
use crate::existing::{ExistingRow, Probe};
use crate::finding::{Finding, MASK};
use crate::rows::Cells;
use std::borrow::Cow;
use xxhash_rust::xxh3::xxh3_64;

/// What a row may share with another record.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Shares {
    /// The row.
    pub row: u64,
    /// The number of the probe.
    pub probe: usize,
    /// The hash of the key of the record that has it.
    pub holder: u64,
}

impl Compiled {
    /// What is looked for among existing records: by the columns that this file has.
    #[must_use]
    pub fn probes(&self) -> Vec<Probe> {
        let unique = self.schema.unique.iter().filter(|_| self.schema.lines.is_none());
        let unique =
            unique.map(|fields| Probe { code: Code::UniqueExists, fields: fields.clone(), by: None });
        let others = self.keysets.iter().filter(|keyset| {
            matches!(keyset.code, Code::KeyNearlyRepeated | Code::DuplicateLikely)
                && self.settings.mode.adds()
        });
        let others = others.map(|keyset| {
            // The first of those that tell most is looked at, and else the first.
            let told = self.alike_probes.iter().copied().chain(0..keyset.columns.len());
            let mut told = told.filter(|at| alike_sums::has_words(self, keyset, *at));
            let first = told.next().filter(|_| keyset.is_alike());
            let by = first.and_then(|at| keyset.fields.get(at).copied());
            Probe { code: keyset.code, fields: keyset.fields.clone(), by }
        });
        unique.chain(others).collect()
    }

    /// Whether all values of a probe that this file looks for stand in its own cells.
    #[must_use]
    pub fn holds_all_of(&self, probe: &Probe) -> bool {
        let has_column = |field: &usize| self.column_of(*field).is_some();
        // A part that is blank, or has no column, may be what the record has.
        probe.fields.iter().all(has_column)
            && (!self.settings.mode.updates() || probe.code != Code::UniqueExists || probe.fields.len() == 1)
    }

    /// Writes what a probe looks for in a row, so that equal values are equal bytes: blank parts are what the record has
    /// that is there. False where a part has no value.
    pub(super) fn probe_values(
        &self,
        probe: &Probe,
        (block, cells, row): (&Block, &Cells, usize),
        there: Option<ExistingRow<'_>>,
        into: &mut Vec<u8>,
    ) -> bool {
        into.clear();
        if probe.code == Code::UniqueExists {
            return self.outcome_values(&probe.fields, (block, cells, row), there, into);
        }
        let columns: Option<Vec<usize>> = probe.fields.iter().map(|field| self.column_of(*field)).collect();
        let Some(columns) = columns else { return false };
        match probe.code {
            Code::DuplicateLikely => alike_sums::values(self, &columns, block, cells, row, into),
            _ => values_of(self, &columns, (true, false), (block, cells, row), into),
        }
    }

    /// A sum that is equal for rows of which a probe looks for the same; nothing where it has none.
    pub(super) fn probe_sum(&self, probe: &Probe, at: (&Block, &Cells, usize)) -> Option<u64> {
        alike_sums::of_words(self, self.column_of(probe.by?)?, at)
    }

    /// Writes what fields will be when a row is loaded; false where one will be blank.
    pub(super) fn outcome_values(
        &self,
        fields: &[usize],
        at: (&Block, &Cells, usize),
        there: Option<ExistingRow<'_>>,
        into: &mut Vec<u8>,
    ) -> bool {
        into.clear();
        fields.iter().all(|field| {
            let Some(value) = self.outcome(*field, at, there) else { return false };
            into.extend((value.len() as u64).to_le_bytes());
            into.extend(value.as_bytes());
            true
        })
    }

    /// What a field will be when the row is loaded, in standard form; nothing where it is blank or cannot be read.
    fn outcome<'a>(
        &'a self,
        field: usize,
        (block, cells, row): (&'a Block, &'a Cells, usize),
        there: Option<ExistingRow<'_>>,
    ) -> Option<Cow<'a, str>> {
        let picklists = &self.schema.picklists;
        let kept = || {
            let value = there?.value(field)?;
            let own = self.own_program(field)?;
            Some(Cow::Owned(own.standard(&*value, picklists)?.into_owned()))
        };
        // What no cell may change, or is not overwritten, stays.
        let is_kept =
            there.is_some_and(|there| self.is_unchangeable(field) || self.fills_only() && there.has(field));
        let Some(number) = self.column_of(field).filter(|_| !is_kept) else {
            return match there {
                Some(_) => kept(),
                None => self.default_of(field),
            };
        };
        let column: &Column = self.columns.get(number)?;
        let raw = cells.bytes(block, row, number);
        match column.see(raw, self.table.dialect) {
            Seen::Broken | Seen::Clear(_) => None,
            Seen::Blank { .. } | Seen::Stale if there.is_some() => kept(),
            Seen::Blank { .. } | Seen::Stale => column.default.as_deref().map(Cow::Borrowed),
            Seen::Value(text) => {
                let given = Given::of(text.trim(), raw, self.table.dialect);
                Some(Cow::Owned(column.program.standard(given, picklists)?.into_owned()))
            }
        }
    }

    /// What fills a field without a column when records are added, in standard form.
    fn default_of(&self, field: usize) -> Option<Cow<'_, str>> {
        let stated = self.schema.fields.get(field)?.default.as_deref();
        let default = stated.filter(|_| self.settings.mode.adds())?;
        let own = self.own_program(field)?;
        Some(Cow::Owned(own.standard(default, &self.schema.picklists)?.into_owned()))
    }

    /// What reads values of a field that stand in the target's own form.
    fn own_program(&self, field: usize) -> Option<&Program> {
        self.own_programs.get(field)
    }

    /// What rows share with other records that are there, and what records of the file no longer have: for each row the
    /// probes of which its record had other values.
    pub(super) fn share(
        &self,
        block: &Block,
        cells: &Cells,
        there: &[There<'_>],
        found: &mut (Vec<Shares>, Vec<Shares>),
    ) {
        let Some(existing) = self.settings.existing.as_deref().filter(|all| !all.probes().is_empty()) else {
            return;
        };
        let (mut key, mut values) = (Vec::new(), Vec::new());
        for (row, stands) in there.iter().enumerate().filter(|(row, _)| !cells.is_below(*row)) {
            let record = stands.record();
            let number = block.first_row + u64::from(cells.place(row));
            for (probe, of) in existing.probes().iter().enumerate() {
                // A record that is there is like itself, and nothing new is added.
                let is_unique = of.code == Code::UniqueExists;
                let is_new = match stands {
                    There::Nothing => true,
                    There::NoKey => self.is_numbered(),
                    There::Record(_) => false,
                };
                if !is_unique && !is_new {
                    continue;
                }
                if let Some(record) = record {
                    // What stays as it is takes nothing from anybody.
                    if !self.gives_up(&of.fields, (block, cells, row), record) {
                        continue;
                    }
                    found.1.push(Shares { row: number, probe, holder: xxh3_64(record.key()) });
                }
                if !self.probe_values(of, (block, cells, row), record, &mut values) {
                    continue;
                }
                let Some(holder) = existing.holder(probe, &values) else { continue };
                self.key_values(block, cells, row, &mut key);
                if holder != record.map_or(key.as_slice(), |record| record.key()) {
                    found.0.push(Shares { row: number, probe, holder: xxh3_64(holder) });
                }
            }
        }
    }

    /// The probe of this number.
    pub(super) fn probe(&self, number: usize) -> Option<&Probe> {
        self.settings.existing.as_deref()?.probes().get(number)
    }

    /// How a finding of a probe is counted, and whether too many of it are none.
    #[must_use]
    pub(crate) fn shared_counted(&self, number: usize) -> Option<(Counted, bool)> {
        let probe = self.probe(number)?;
        let level = self.told_level(probe.code, entry(probe.code).level);
        let columns: Vec<usize> = probe.fields.iter().filter_map(|field| self.column_of(*field)).collect();
        let number = match probe.code {
            Code::UniqueExists => Some(number),
            code => self.keysets.iter().position(|keyset| keyset.code == code),
        };
        let (column, rule) = match columns.as_slice() {
            [column] if probe.fields.len() == 1 => (column + 1, None),
            _ => (0, number.and_then(|number| u16::try_from(number).ok())),
        };
        let is_guessed = probe.code == Code::DuplicateLikely && self.schema.alike.is_empty();
        Some((Counted { column, code: probe.code, level, rule }, is_guessed))
    }

    /// Says what a row shares with another record that is there.
    pub(super) fn shared_finding(
        &self,
        number: usize,
        (block, cells, row): (&Block, &Cells, usize),
        there: Option<ExistingRow<'_>>,
    ) -> Option<Finding> {
        let (probe, existing) = (self.probe(number)?, self.settings.existing.as_deref()?);
        let mut values = Vec::new();
        if !self.probe_values(probe, (block, cells, row), there, &mut values) {
            return None;
        }
        let is_sensitive =
            |field: &usize| self.schema.fields.get(*field).is_some_and(|field| field.sensitive);
        let holder = match self.schema.key.iter().any(is_sensitive) {
            true => MASK.to_owned(),
            false => key_parts(existing.holder(number, &values)?, self.schema.key.len()).join(" / "),
        };
        let message = match probe.code {
            Code::UniqueExists if probe.fields.len() == 1 => {
                format!("the record {holder} that is there has this value")
            }
            Code::UniqueExists => format!("the record {holder} that is there has this combination"),
            Code::KeyNearlyRepeated => format!(
                "the record {holder} that is there has this key but for case, spaces or leading zeros; are they the same?"
            ),
            _ => format!(
                "the record {holder} that is there has another key and describes the same; are they the same?"
            ),
        };
        let (counted, _) = self.shared_counted(number)?;
        let mut finding = Finding::new(probe.code, counted.level, message);
        let columns: Vec<usize> = probe.fields.iter().filter_map(|field| self.column_of(*field)).collect();
        if let (Some(column), [_]) = (counted.column.checked_sub(1), probe.fields.as_slice()) {
            self.place(column, &mut finding);
        } else {
            let names = probe.fields.iter().filter_map(|field| self.schema.fields.get(*field));
            finding.fields = names.map(|field| field.name.clone()).collect();
        }
        let texts = self.texts(block, cells, row, &columns);
        finding.set_value(&texts.join(" / "), texts.iter().all(|text| text == MASK));
        if probe.code == Code::UniqueExists {
            let count = crate::numerals::counted(existing.count(), "record", "records");
            finding.expect(format!("values that no other of the {count} of {} has", existing.source()));
        }
        Some(finding)
    }

    /// Whether a row gives its record other values in a combination than it had.
    pub(super) fn gives_up(
        &self,
        fields: &[usize],
        at: (&Block, &Cells, usize),
        record: ExistingRow<'_>,
    ) -> bool {
        let standard = |field: usize| {
            let own = self.own_program(field)?;
            own.standard(&*record.value(field)?, &self.schema.picklists).map(Cow::into_owned)
        };
        fields.iter().any(|field| {
            self.column_of(*field).is_some()
                && self.outcome(*field, at, Some(record)).map(Cow::into_owned) != standard(*field)
        })
    }
}

/// The parts of a key, from the bytes by which it is compared.
#[must_use]
pub fn key_parts(key: &[u8], parts: usize) -> Vec<String> {
    if parts < 2 {
        return vec![String::from_utf8_lossy(key).into_owned()];
    }
    let (mut found, mut rest) = (Vec::new(), key);
    while let Some((len, behind)) = rest.split_first_chunk::<8>() {
        let len = usize::try_from(u64::from_le_bytes(*len)).unwrap_or(usize::MAX).min(behind.len());
        let (part, behind) = behind.split_at(len);
        found.push(String::from_utf8_lossy(part).into_owned());
        rest = behind;
    }
    found
}
