//! Fields that a default fills while a column of the file seems to be meant for them.

use super::at_heading::{at_heading, title};
use super::compiled::Compiled;
use super::content::{Contents, Fit};
use crate::catalogue::Code;
use crate::finding::Finding;
use crate::headings::Paired;

/// From so many fitting cells in a thousand on a column is close to a field by what it holds.
const CLOSE: usize = 900;

impl Compiled {
    /// The fields without a column that a default fills.
    fn defaulted_fields(&self) -> impl Iterator<Item = usize> {
        let plan = &self.settings.plan;
        let fields = self.schema.fields.iter().enumerate().filter(|_| self.settings.mode.adds());
        fields
            .filter(|(number, field)| {
                field.default.is_some()
                    && !field.read_only
                    && self.column_of(*number).is_none()
                    && plan.is_in_scope(*number)
            })
            .map(|(number, _)| number)
    }

    /// Defaults over columns whose headings are close.
    pub(super) fn defaults_over_headings(&self) -> Vec<Finding> {
        let close = |field: usize| {
            let columns = self.pairing.columns.iter().enumerate();
            columns.filter(move |(_, paired)| match paired {
                Paired::Unknown { nearest } => nearest.contains(&field),
                Paired::Unclear { fields } => fields.contains(&field),
                _ => false,
            })
        };
        let told = |field: usize| {
            close(field)
                .map(move |(column, _)| self.default_over(field, column, "a heading like the field's"))
        };
        self.defaulted_fields().flat_map(told).collect()
    }

    /// The fields that a default fills and no heading is close to, where some column has no field.
    pub(crate) fn fields_behind_defaults(&self) -> Vec<usize> {
        let is_open = |paired: &Paired| matches!(paired, Paired::Unknown { .. } | Paired::Blank);
        if !self.pairing.columns.iter().any(is_open) {
            return Vec::new();
        }
        let told = self.defaults_over_headings();
        let is_told = |name: &str| told.iter().any(|finding| finding.field.as_deref() == Some(name));
        let name = |field: &usize| self.schema.fields.get(*field).map(|field| field.name.as_str());
        self.defaulted_fields().filter(|field| !name(field).is_some_and(is_told)).collect()
    }

    fn default_over(&self, field: usize, column: usize, why: &str) -> Finding {
        let Some(field) = self.schema.fields.get(field) else {
            unreachable!("it was found among the fields")
        };
        let message = format!(
            "{} has no column, so every row would get its default; this column has {why}: pair it with the field in a \
             plan, or leave it out there",
            title(field)
        );
        let finding = at_heading(self, Code::DefaultOverColumn, column, message);
        Finding { field: Some(field.name.clone()), ..finding }
    }
}

impl Contents {
    /// Defaults over columns that hold what the field asks for.
    pub(crate) fn behind_defaults(&self, gate: &Compiled, fields: &[usize]) -> Vec<Finding> {
        let mut found = Vec::new();
        for number in fields {
            let Some(field) = gate.schema.fields.get(*number) else { continue };
            let probe = gate.probe_of(*number, field);
            for (column, paired) in gate.pairing.columns.iter().enumerate() {
                let is_open = matches!(paired, Paired::Unknown { .. } | Paired::Blank);
                let fits = |fit: Fit| fit.0 >= CLOSE && probe.is_telling;
                if is_open && self.fit(column, &probe, gate).is_some_and(fits) {
                    let why = "values that fit the field";
                    found.push(gate.default_over(*number, column, why));
                }
            }
        }
        found
    }
}
