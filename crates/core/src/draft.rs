//! Drafting a record schema from what there is already: an export, a data dictionary, SQL, CSVW, JSON Schema. A draft
//! says of everything on what evidence it stands, so that a person confirms instead of typing.

mod csvw;
mod dictionary;
mod guess;
mod json_schema;
mod names;
mod sample;
mod sql;
mod together;
mod types;
mod write;

pub use csvw::from_csvw;
pub use dictionary::{Dictionary, Lists, Role};
pub use json_schema::from_json_schema;
pub use sample::{SampleLook, Sampled};
pub use sql::from_sql;

use crate::schema::raw::KindName;
use std::collections::HashSet;
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
    /// Its forms of dates, where they are not ISO.
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
    fn list(&mut self, wanted: &str, values: Vec<(String, Option<String>)>) -> String {
        if let Some(same) = self.picklists.iter().find(|list| list.values == values) {
            return same.name.clone();
        }
        self.add_list(DraftList { name: names::plain(wanted), values, ..DraftList::default() })
    }

    /// Adds a picklist, under another name where its own is taken, and gives that.
    fn add_list(&mut self, list: DraftList) -> String {
        let taken: Vec<&str> = self.picklists.iter().map(|list| list.name.as_str()).collect();
        let name = names::free(&list.name, &taken);
        self.picklists.push(DraftList { name: name.clone(), ..list });
        name
    }

    /// Takes out what a record schema would refuse, and says so: so that what is drafted can be read.
    pub fn settle(&mut self) {
        let mut seen: HashSet<String> = HashSet::new();
        let mut labels: HashSet<String> = HashSet::new();
        for field in &mut self.fields {
            if field.name.trim().is_empty() {
                field.name = "field".to_owned();
                field.remarks.push("LOOK: it has no name there".to_owned());
            }
            let loose = crate::headings::loose(&field.name);
            if seen.contains(&loose) {
                let taken: Vec<&str> = seen.iter().map(String::as_str).collect();
                let free = names::free(&field.name, &taken);
                field.remarks.push(format!("its name {} stands twice: here it is {free}", field.name));
                field.name = free;
            }
            seen.insert(crate::headings::loose(&field.name));
            let label = field.label.as_deref().map(crate::headings::loose);
            if label.as_ref().is_some_and(|label| labels.contains(label)) {
                field.remarks.push("its label stands twice; it was left out".to_owned());
                field.label = None;
            }
            labels.extend(label);
            field.also.retain(|also| !also.trim().is_empty());
            field.also.dedup();
            settle_rules(field);
        }
        for field in &mut self.fields {
            let Some(default) = field.default.take() else { continue };
            if is_sound_default(field, &self.picklists, &default) {
                field.default = Some(default);
            } else {
                let remark = format!(
                    "the default {default} was left out: it is no value of kind {}",
                    field.kind.name()
                );
                field.remarks.push(remark);
            }
        }
        let names: HashSet<String> = self.fields.iter().map(|field| field.name.clone()).collect();
        let is_there = |name: &String| names.contains(name);
        if !self.key.iter().all(is_there) {
            self.not_understood
                .push(format!("the key names a field that is not there: {}", self.key.join(", ")));
            self.key.clear();
        }
        self.unique.retain(|unique| unique.iter().all(is_there) && *unique != self.key && !unique.is_empty());
        let of_lines = self.lines.as_ref().map(|lines| lines.1.as_slice()).unwrap_or_default();
        let keys: HashSet<&String> = self.key.iter().chain(of_lines).collect();
        for field in self.fields.iter_mut().filter(|field| keys.contains(&field.name)) {
            field.default = None;
            field.required = DraftRequired::Always;
        }
        for list in &mut self.picklists {
            let mut codes = HashSet::new();
            list.values.retain(|(code, _)| !code.trim().is_empty() && codes.insert(code.clone()));
            let mut labels: HashSet<String> = HashSet::new();
            for (_, label) in &mut list.values {
                if label.as_ref().is_some_and(|label| labels.contains(label) || label.trim().is_empty()) {
                    *label = None;
                }
                labels.extend(label.clone());
            }
        }
        let empty: Vec<String> = self
            .picklists
            .iter()
            .filter(|list| list.values.is_empty() && !list.open)
            .map(|list| list.name.clone())
            .collect();
        for list in self.picklists.iter_mut().filter(|list| empty.contains(&list.name)) {
            list.open = true;
            list.remarks.push("its values are not known: it is left open until they are given".to_owned());
        }
    }

    /// The draft, if it has a field: without one it is no record schema.
    fn with_fields(self) -> Result<Self, DraftFault> {
        match self.fields.is_empty() {
            true => Err(DraftFault::Nothing("it describes no field".to_owned())),
            false => Ok(self),
        }
    }

    /// The record schema as text.
    #[must_use]
    pub fn to_toml(&self) -> String {
        write::toml(self)
    }
}

/// Drops rules that contradict each other or that their kind does not have.
fn settle_rules(field: &mut DraftField) {
    use KindName::{Date, Datetime, Decimal, Email, Integer, Picklist, Reference, Text, Time, Url, Uuid};
    let mut drop_rule = |is_wrong: bool, what: &str| {
        if is_wrong {
            field
                .remarks
                .push(format!("{what} was left out: it does not go with kind {}", field.kind.name()));
        }
        is_wrong
    };
    if drop_rule(field.pattern.is_some() && field.kind != Text, "a pattern") {
        field.pattern = None;
    }
    if drop_rule(field.length != (None, None) && !matches!(field.kind, Text | Email | Url | Uuid), "a length")
    {
        field.length = (None, None);
    }
    if drop_rule(
        field.range != (None, None) && !matches!(field.kind, Integer | Decimal | Date | Datetime | Time),
        "a range",
    ) {
        field.range = (None, None);
    }
    if field.kind != Decimal {
        field.digits = (None, None);
    }
    if !matches!(field.kind, Date | Datetime) {
        field.dates.clear();
    }
    if drop_rule(field.many.is_some() && !matches!(field.kind, Picklist | Reference), "several values") {
        field.many = None;
    }
    if let Some(pattern) = &field.pattern
        && let Err(error) = crate::value::Pattern::new(pattern)
    {
        field.remarks.push(format!("its pattern {pattern} cannot be read here: {error}"));
        field.pattern = None;
    }
    if let (Some(min), Some(max)) = field.length
        && min > max
    {
        field.length = (None, Some(max));
    }
    let forms: Vec<_> =
        field.dates.iter().filter_map(|form| crate::value::DatePattern::new(form).ok()).collect();
    for slot in [&mut field.range.0, &mut field.range.1] {
        let Some(end) = slot.take() else { continue };
        *slot = sound_bound(field.kind, &end, &forms);
        if slot.is_none() {
            field
                .remarks
                .push(format!("the bound {end} was left out: it is no value of kind {}", field.kind.name()));
        }
    }
    let number = |end: &Option<String>| end.as_ref().and_then(|end| end.parse::<f64>().ok());
    let is_upside_down = match field.kind {
        Integer | Decimal => number(&field.range.0) > number(&field.range.1) && field.range.1.is_some(),
        Date => {
            field.range.1.as_deref().is_some_and(|max| max != "today" && field.range.0.as_deref() > Some(max))
        }
        _ => false,
    };
    if is_upside_down {
        field.remarks.push("its range was upside down, and was left out".to_owned());
        field.range = (None, None);
    }
    if field.kind == Reference && field.to.is_none() {
        field
            .remarks
            .push("which record it refers to is not known: the name of the field stands for it".to_owned());
        field.to = Some(names::plain(&field.name));
    }
    if field.kind == Picklist && field.picklist.is_none() {
        field.remarks.push("its values are not known: taken for text".to_owned());
        (field.kind, field.many) = (Text, None);
    }
}

/// A bound as a record schema takes it: numbers plain, days ISO.
fn sound_bound(kind: KindName, end: &str, forms: &[crate::value::DatePattern]) -> Option<String> {
    use crate::value::{Date, DateReading};
    match kind {
        KindName::Integer => end.parse::<i64>().ok().map(|number| number.to_string()),
        KindName::Decimal => {
            end.parse::<f64>().ok().filter(|number| number.is_finite()).map(|_| end.to_owned())
        }
        KindName::Date => {
            let today = Date::new(2000, 1, 1)?;
            let read = forms.iter().find_map(|form| match form.read(end, today) {
                DateReading::Day { date, .. } => Some(date.to_string()),
                _ => None,
            });
            (end == "today" || Date::iso(end).is_some()).then(|| end.to_owned()).or(read)
        }
        _ => Some(end.to_owned()),
    }
}

/// Whether a default is a value of its field.
fn is_sound_default(field: &DraftField, lists: &[DraftList], default: &str) -> bool {
    use crate::value::{Date, Number, email, truth};
    match field.kind {
        KindName::Integer => Number::integer(default).is_some(),
        KindName::Decimal => Number::decimal(default).is_some(),
        KindName::Boolean => truth::read(default).is_some(),
        KindName::Date => Date::iso(default).is_some(),
        KindName::Email => email::judge(default).is_ok(),
        KindName::Picklist => {
            let list = lists.iter().find(|list| Some(&list.name) == field.picklist.as_ref());
            list.is_none_or(|list| {
                let is_it = |value: &(String, Option<String>)| {
                    value.0 == default || value.1.as_deref() == Some(default)
                };
                list.open || list.values.iter().any(is_it)
            })
        }
        _ => !default.is_empty(),
    }
}

#[cfg(test)]
mod tests;
