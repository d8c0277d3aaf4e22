//! Changes to the text of a plan: what a person wrote there stays, with its comments and its order.

use super::stated::{ExistingPlan, ReferencePlan};
use crate::decided::DecidedField;
use crate::finding::letter;
use crate::headings::ColumnName;
use crate::mode::Mode;
use toml_edit::{Array, DocumentMut, Item, Table, TomlError, Value, value};

/// Changes to make to a plan.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct PlanEdit {
    /// The path of the record schema, relative to the plan, where it is to be written.
    pub record: Option<String>,
    /// What loading would do.
    pub mode: Option<Mode>,
    /// The sheet.
    pub sheet: Option<String>,
    /// Where the records of a JSON file stand.
    pub at: Option<String>,
    /// The row that holds the headings.
    pub heading_row: Option<u64>,
    /// The first row of the data.
    pub first_row: Option<u64>,
    /// The last row of the data.
    pub last_row: Option<u64>,
    /// What stands between cells.
    pub delimiter: Option<String>,
    /// The encoding.
    pub encoding: Option<String>,
    /// That the file has no headings.
    pub by_position: bool,
    /// What a row is whose last cells are missing: hold or blank.
    pub short_rows: Option<&'static str>,
    /// The forms of dates of all fields.
    pub dates: Vec<String>,
    /// How single fields are written.
    pub reads: Vec<DecidedField>,
    /// Where the values of references come from.
    pub references: Vec<ReferencePlan>,
    /// Where existing records, a plan for them and files of rows handed over earlier lie now; where the plan names them.
    pub existing: Option<ExistingPlan>,
    /// That nothing is to be said of how the file is laid out.
    pub without_file: bool,
    /// That no columns are to be named.
    pub without_columns: bool,
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
        *self == Self::default()
    }

    /// What is to be said of how the file is laid out.
    fn file(&self) -> Vec<(&'static str, Value)> {
        let row = |row: Option<u64>| row.map(|row| Value::from(i64::try_from(row).unwrap_or(i64::MAX)));
        let word = |word: &Option<String>| word.as_deref().map(Value::from);
        let keys = [
            ("sheet", word(&self.sheet)),
            ("at", word(&self.at)),
            ("heading_row", row(self.heading_row)),
            ("first_row", row(self.first_row)),
            ("last_row", row(self.last_row)),
            ("delimiter", word(&self.delimiter)),
            ("encoding", word(&self.encoding)),
            ("by_position", self.by_position.then(|| Value::from(true))),
            ("short_rows", self.short_rows.map(Value::from)),
        ];
        keys.into_iter().filter_map(|(key, value)| Some((key, value?))).collect()
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
    if edit.without_file {
        root.remove("file");
    }
    if edit.without_columns {
        root.remove("columns");
    }
    for (key, value) in edit.file() {
        set(table(root, "file"), key, value);
    }
    if !edit.dates.is_empty() {
        set(table(root, "read"), "dates", Array::from_iter(&edit.dates));
    }
    edit.reads.iter().for_each(|read| set_reading(root, read));
    edit.references.iter().for_each(|reference| set_reference(root, reference));
    if let (Some(moved), Some(existing)) = (&edit.existing, root.get_mut("existing"))
        && let Some(existing) = existing.as_table_mut()
    {
        let (key, word) = moved.source.written();
        set(existing, key, word);
        moved.plan.iter().for_each(|plan| set(existing, "plan", plan.as_str()));
        if !moved.released.is_empty() {
            set(existing, "released", Array::from_iter(&moved.released));
        }
    }
    if !edit.columns.is_empty() || !edit.forget.is_empty() {
        set_columns(root, edit);
    }
    for (field, default) in &edit.defaults {
        set(table(root, "defaults"), field, default.as_str());
    }
    Ok(document.to_string())
}

/// A plan that states a mode and a scope alone.
#[must_use]
pub fn scoped(mode: Option<&str>, fields: &[String], condition: Option<&str>) -> String {
    let mut document = DocumentMut::new();
    let root = document.as_table_mut();
    set(root, "format", 1);
    mode.into_iter().for_each(|mode| set(root, "mode", mode));
    let scope = table(root, "scope");
    if !fields.is_empty() {
        set(scope, "fields", Array::from_iter(fields));
    }
    condition.into_iter().for_each(|condition| set(scope, "where", condition));
    document.to_string()
}

fn set_reading(root: &mut Table, read: &DecidedField) {
    let of_field = table(table(table(root, "read"), "fields"), &read.field);
    if !read.dates.is_empty() {
        set(of_field, "dates", Array::from_iter(&read.dates));
        remark(of_field, "dates", &read.why);
    }
    if let Some(mark) = read.decimal_mark {
        set(of_field, "decimal_mark", mark.to_string());
        set(of_field, "group_mark", if mark == ',' { "." } else { "," });
        remark(of_field, "decimal_mark", &read.why);
    }
}

fn set_reference(root: &mut Table, reference: &ReferencePlan) {
    let of_record = table(table(root, "references"), &reference.name);
    ["file", "sqlite", "postgres"].into_iter().for_each(|key| drop(of_record.remove(key)));
    let (key, word) = reference.source.written();
    set(of_record, key, word);
    if let Some(table) = &reference.table {
        set(of_record, "table", table.as_str());
    }
    if let Some(sheet) = &reference.sheet {
        set(of_record, "sheet", sheet.as_str());
    }
    set(of_record, "column", reference.column.as_str());
    if !reference.also_by.is_empty() {
        set(of_record, "also_by", Array::from_iter(&reference.also_by));
    }
}

fn set_columns(root: &mut Table, edit: &PlanEdit) {
    let by_position =
        root.get("file").and_then(|file| file.get("by_position")).and_then(Item::as_bool).unwrap_or_default();
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

/// Says above a key on what evidence it stands.
fn remark(table: &mut Table, key: &str, why: &str) {
    let bare: String = why.chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
    if let Some(mut key) = table.key_mut(key).filter(|_| !bare.is_empty()) {
        key.leaf_decor_mut().set_prefix(format!("# {bare}\n"));
    }
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
        let mut before = before;
        // One that holds tables alone needs no heading of its own.
        before.set_implicit(before.is_empty() && matches!(name, "read" | "fields" | "references"));
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
    // What stands there already stays as it is written.
    let is_same = |old: &Value| old.to_string().trim() == new.to_string().trim();
    if table.get(key).and_then(Item::as_value).is_some_and(is_same) {
        return;
    }
    match table.get_mut(key).and_then(Item::as_value_mut) {
        Some(old) => {
            *new.decor_mut() = old.decor().clone();
            *old = new;
        }
        None => drop(table.insert(key, value(new))),
    }
}
