//! Changes to the text of a plan: what a person wrote there stays, with its comments and its order.

use super::columns::ColumnName;
use crate::finding::letter;
use crate::gate::Mode;
use toml_edit::{DocumentMut, Item, Table, TomlError, Value, value};

/// Changes to make to a plan.
#[derive(Debug, Clone, Default)]
pub struct PlanEdit {
    /// The path of the record schema, relative to the plan, where it is to be written.
    pub record: Option<String>,
    /// What loading would do.
    pub mode: Option<Mode>,
    /// The sheet.
    pub sheet: Option<String>,
    /// The row that holds the headings.
    pub heading_row: Option<u64>,
    /// That the file has no headings.
    pub by_position: bool,
    /// Columns, each with the name of its field, or left out.
    pub columns: Vec<(ColumnName, Option<String>)>,
    /// Columns that it is to name no longer.
    pub forget: Vec<ColumnName>,
    /// Fields with their defaults.
    pub defaults: Vec<(String, String)>,
}

impl PlanEdit {
    /// Whether it changes nothing.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.record.is_none()
            && self.mode.is_none()
            && self.sheet.is_none()
            && self.heading_row.is_none()
            && !self.by_position
            && self.columns.is_empty()
            && self.forget.is_empty()
            && self.defaults.is_empty()
    }
}

/// The text of a plan that says nothing yet.
pub const EMPTY: &str = "# How this file is read, and which of its columns is which field.\nformat = 1\n";

/// The text with the changes made.
///
/// # Errors
/// When the text is no TOML.
pub fn edited(text: &str, edit: &PlanEdit) -> Result<String, TomlError> {
    let mut document: DocumentMut = text.parse()?;
    let root = document.as_table_mut();
    if let Some(record) = &edit.record {
        set(root, "record", record.as_str());
    }
    if let Some(mode) = edit.mode {
        set(root, "mode", mode.name());
    }
    if edit.sheet.is_some() || edit.heading_row.is_some() || edit.by_position {
        let file = table(root, "file");
        if let Some(sheet) = &edit.sheet {
            set(file, "sheet", sheet.as_str());
        }
        if let Some(row) = edit.heading_row {
            set(file, "heading_row", i64::try_from(row).unwrap_or(i64::MAX));
        }
        if edit.by_position {
            set(file, "by_position", true);
        }
    }
    if !edit.columns.is_empty() || !edit.forget.is_empty() {
        let by_position = root
            .get("file")
            .and_then(|file| file.get("by_position"))
            .and_then(Item::as_bool)
            .unwrap_or_default();
        let columns = table(root, "columns");
        for name in &edit.forget {
            columns.remove(&key(name, by_position));
        }
        for (name, field) in &edit.columns {
            let name = key(name, by_position);
            if let Some(field) = field {
                // Of the columns of one field, the one that is set now counts.
                let same = |item: &Item| item.as_str() == Some(field);
                let others: Vec<String> = columns
                    .iter()
                    .filter(|(other, item)| same(item) && *other != name)
                    .map(|(other, _)| other.to_owned())
                    .collect();
                others.iter().for_each(|other| drop(columns.remove(other)));
            }
            match field {
                Some(field) => set(columns, &name, field.as_str()),
                None => set(columns, &name, false),
            }
        }
    }
    for (field, default) in &edit.defaults {
        set(table(root, "defaults"), field, default.as_str());
    }
    Ok(document.to_string())
}

/// The key by which a plan names a column.
fn key(name: &ColumnName, by_position: bool) -> String {
    match name {
        ColumnName::Heading(heading) => heading.clone(),
        ColumnName::Place(place) if by_position => (place + 1).to_string(),
        ColumnName::Place(place) => format!("@{}", letter(*place)),
    }
}

/// The table of this name, made where there is none.
fn table<'a>(root: &'a mut Table, name: &str) -> &'a mut Table {
    if !root.get(name).is_some_and(Item::is_table) {
        // One written in braces keeps its values.
        let before = root.remove(name).and_then(|item| item.into_table().ok()).unwrap_or_default();
        root.insert(name, Item::Table(before));
    }
    match root.get_mut(name).and_then(Item::as_table_mut) {
        Some(table) => table,
        None => unreachable!("it was made just now"),
    }
}

/// Sets a value; a comment behind the old one stays.
fn set(table: &mut Table, key: &str, new: impl Into<Value>) {
    let mut new = new.into();
    match table.get_mut(key).and_then(Item::as_value_mut) {
        Some(old) => {
            *new.decor_mut() = old.decor().clone();
            *old = new;
        }
        None => drop(table.insert(key, value(new))),
    }
}
