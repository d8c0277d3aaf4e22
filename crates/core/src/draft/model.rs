//! A record schema in the making.

use super::names;
use crate::schema::raw::KindName;
use thiserror::Error;

/// A record schema in the making.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Draft {
    /// The technical name of the record.
    pub record: String,
    /// The name people use.
    pub label: Option<String>,
    /// The version of what it was drafted from.
    pub version: Option<String>,
    /// What it was drafted from, and what else is to be said of all of it.
    pub remarks: Vec<String>,
    /// The names of the fields that identify a record.
    pub key: Vec<String>,
    /// On what evidence.
    pub key_remarks: Vec<String>,
    /// Of records of several lines: the fields of the record, and those that tell its lines apart.
    pub lines: Option<(Vec<String>, Vec<String>)>,
    /// Further combinations that must not repeat.
    pub unique: Vec<Vec<String>>,
    /// The fields.
    pub fields: Vec<DraftField>,
    /// The picklists.
    pub picklists: Vec<DraftList>,
    /// The rules of a row.
    pub rules: Vec<DraftRule>,
    /// What was there and not understood, or cannot be said in a record schema.
    pub not_understood: Vec<String>,
    /// How the file is laid out that the source describes, as the text of a plan.
    pub plan: Option<String>,
}

/// A field in the making.
#[derive(Debug, Clone, PartialEq)]
pub struct DraftField {
    /// The technical name.
    pub name: String,
    /// The name people use.
    pub label: Option<String>,
    /// Other headings.
    pub also: Vec<String>,
    /// What its values are.
    pub kind: KindName,
    /// Whether a record must have it.
    pub required: DraftRequired,
    /// Whether the target computes it.
    pub read_only: bool,
    /// The value when nothing is given.
    pub default: Option<String>,
    /// What people should know.
    pub help: Option<String>,
    /// A value that shows the form.
    pub example: Option<String>,
    /// A pattern for the whole value.
    pub pattern: Option<String>,
    /// Least and most characters.
    pub length: (Option<u32>, Option<u32>),
    /// Most digits before and after the point.
    pub digits: (Option<u32>, Option<u32>),
    /// The permitted range: numbers, ISO dates, "today".
    pub range: (Option<String>, Option<String>),
    /// Its forms of dates or times, where they are not ISO.
    pub dates: Vec<String>,
    /// The name of its picklist.
    pub picklist: Option<String>,
    /// What stands between several values of a cell, and the most.
    pub many: Option<(String, Option<u32>)>,
    /// The record that it refers to.
    pub to: Option<String>,
    /// The evidence, and what to look at.
    pub remarks: Vec<String>,
}

/// Whether a record must have a field.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum DraftRequired {
    /// It may be blank.
    #[default]
    No,
    /// Always.
    Always,
    /// When the record is added.
    WhenAdding,
    /// A blank is a warning.
    Advised,
}

/// A picklist in the making.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct DraftList {
    /// Its name.
    pub name: String,
    /// Whether other values are permitted.
    pub open: bool,
    /// The values: code and label.
    pub values: Vec<(String, Option<String>)>,
    /// Other spellings of values: the code, and the spelling.
    pub also: Vec<(String, String)>,
    /// The evidence.
    pub remarks: Vec<String>,
}

/// A rule in the making.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DraftRule {
    /// Its name.
    pub name: String,
    /// The condition that every row must meet.
    pub must: String,
}

/// Why nothing could be drafted.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum DraftFault {
    /// The source is not what it was taken for.
    #[error("{0}")]
    Unreadable(String),
    /// It describes several records and none was named.
    #[error("it describes several tables: {}", .0.join(", "))]
    Several(Vec<String>),
    /// The named one is not there.
    #[error("it describes no table {0}")]
    NoTable(String),
    /// It describes nothing.
    #[error("{0}")]
    Nothing(String),
}

impl DraftField {
    /// A field of a kind.
    #[must_use]
    pub fn new(name: impl Into<String>, kind: KindName) -> Self {
        Self {
            name: name.into(),
            label: None,
            also: Vec::new(),
            kind,
            required: DraftRequired::No,
            read_only: false,
            default: None,
            help: None,
            example: None,
            pattern: None,
            length: (None, None),
            digits: (None, None),
            range: (None, None),
            dates: Vec::new(),
            picklist: None,
            many: None,
            to: None,
            remarks: Vec::new(),
        }
    }
}

impl Draft {
    /// Adds a picklist of these values and gives its name; one with the same values is used again.
    pub(super) fn list(&mut self, wanted: &str, values: Vec<(String, Option<String>)>) -> String {
        if let Some(same) = self.picklists.iter().find(|list| list.values == values) {
            return same.name.clone();
        }
        self.add_list(DraftList { name: names::plain(wanted), values, ..DraftList::default() })
    }

    /// Adds a picklist, under another name where its own is taken, and gives that.
    pub(super) fn add_list(&mut self, list: DraftList) -> String {
        let taken: Vec<&str> = self.picklists.iter().map(|list| list.name.as_str()).collect();
        let name = names::free(&list.name, &taken);
        self.picklists.push(DraftList { name: name.clone(), ..list });
        name
    }

    /// The draft, if it has a field: without one it is no record schema.
    pub(super) fn with_fields(self) -> Result<Self, DraftFault> {
        match self.fields.is_empty() {
            true => Err(DraftFault::Nothing("it describes no field".to_owned())),
            false => Ok(self),
        }
    }
}
