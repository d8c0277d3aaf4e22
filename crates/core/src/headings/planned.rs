//! The columns that a plan names, and where they stand in a file.

use super::loose::loose;
use crate::finding::letter;

/// How a plan names a column.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum ColumnName {
    /// By its heading.
    Heading(String),
    /// By its place, from 0.
    Place(usize),
}

impl std::fmt::Display for ColumnName {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Heading(heading) => write!(f, "\"{heading}\""),
            Self::Place(place) => write!(f, "column {}", letter(*place)),
        }
    }
}

/// A column that a plan names.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PlanColumn {
    /// Its name.
    pub name: ColumnName,
    /// Its field; nothing where it is left out on purpose.
    pub field: Option<usize>,
}

/// What a plan says of the columns of a file.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct PlanPairing {
    /// One for each column: what the plan says of it, if it names it.
    pub columns: Vec<Option<Option<usize>>>,
    /// The plan's columns that the file does not have.
    pub gone: Vec<PlanColumn>,
}

impl PlanPairing {
    /// Finds the plan's columns among headings: by place, by the very heading, then by the same heading loosely
    /// where one column alone has it.
    #[must_use]
    pub fn new(plan: &[PlanColumn], headings: &[String]) -> Self {
        let mut found = Self { columns: vec![None; headings.len()], gone: Vec::new() };
        let mut open = Vec::new();
        for named in plan {
            let exactly: Vec<usize> = match &named.name {
                ColumnName::Place(place) => (*place < headings.len()).then_some(*place).into_iter().collect(),
                ColumnName::Heading(heading) => headings
                    .iter()
                    .enumerate()
                    .filter(|(_, other)| other.trim() == heading.trim())
                    .map(|found| found.0)
                    .collect(),
            };
            match exactly.as_slice() {
                [] => open.push(named),
                // A heading that stands twice names neither, unless both are left out.
                [_, _, ..] if named.field.is_some() => open.push(named),
                columns => columns.iter().for_each(|column| found.set(*column, named.field)),
            }
        }
        for named in open {
            let ColumnName::Heading(heading) = &named.name else {
                found.gone.push(named.clone());
                continue;
            };
            let form = loose(heading);
            let alike: Vec<usize> = (0..headings.len())
                .filter(|column| found.columns.get(*column).is_some_and(Option::is_none))
                .filter(|column| headings.get(*column).is_some_and(|other| loose(other) == form))
                .collect();
            match alike.as_slice() {
                [column] if !form.is_empty() => found.set(*column, named.field),
                _ => found.gone.push(named.clone()),
            }
        }
        found
    }

    fn set(&mut self, column: usize, field: Option<usize>) {
        if let Some(slot) = self.columns.get_mut(column) {
            *slot = Some(field);
        }
    }
}
