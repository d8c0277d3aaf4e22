//! The sheet to fill, as data: its headings, what stands in their notes, what each column may hold. Writers of
//! workbooks and texts draw it.

use crate::condition::Type;
use crate::fields::{kind_words, limits, required_words, rules_of};
use crate::headings::loose;
use crate::mode::Mode;
use crate::schema::raw::KindName;
use crate::schema::{Field, Range, RecordSchema, Required};
use crate::value::Date;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

/// More keys than this are no drop-down.
const MOST_OFFERED: usize = 5_000;

/// What the first cell of a template's own sheets holds; the record and its version stand beside it.
pub const MARK: &str = "tidy-gate template";
/// The document properties that hold the record's name and its schema's version.
pub const PROPERTIES: [&str; 2] = ["tidy-gate-record", "tidy-gate-version"];

/// The document property that says how a filled sheet is to be checked that holds records which are there.
pub const MEANT: &str = "tidy-gate-meant";

/// How a sheet is to be checked that was made to change records which are there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Meant {
    /// What loading it does.
    pub mode: String,
    /// The fields that it may change.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub fields: Vec<String>,
    /// The condition on the records that it may change.
    #[serde(default, rename = "where", skip_serializing_if = "Option::is_none")]
    pub condition: Option<String>,
}

impl Meant {
    /// As a document property holds it, which has room for 255 characters; nothing where it is longer.
    #[must_use]
    pub fn as_property(&self) -> Option<String> {
        serde_json::to_string(self).ok().filter(|text| text.chars().count() <= 255)
    }
}

/// A sheet to fill.
#[derive(Debug, Clone)]
pub struct Template {
    /// The record's technical name.
    pub record: String,
    /// The name people use.
    pub label: String,
    /// The version of the schema.
    pub version: String,
    /// The columns.
    pub columns: Vec<TemplateColumn>,
    /// Which of the picklists hold keys of other records, each with the name of what it stands for.
    pub keys: Vec<usize>,
    /// The picklists that they draw on: name, and what is offered for each value with its code.
    pub lists: Vec<Offered>,
    /// Records that are there, to be changed: the value of each column.
    pub rows: Vec<Vec<Option<String>>>,
    /// How the sheet is to be checked, where it holds such records.
    pub meant: Option<Meant>,
}

/// A picklist by its name, and what is offered for each value with its code.
pub type Offered = (String, Vec<(String, String)>);

/// A record's name with its keys, each with the name of what it stands for.
pub type OfferedKeys = (String, Vec<(String, Option<String>)>);

/// A column of the sheet.
#[derive(Debug, Clone)]
pub struct TemplateColumn {
    /// The technical name of its field.
    pub name: String,
    /// The heading: it pairs with the field by itself.
    pub heading: String,
    /// Whether it must be filled.
    pub need: Need,
    /// The note on the heading.
    pub note: String,
    /// What a cell may hold.
    pub holds: Holds,
    /// The kind, whether it is needed, its limits, in words.
    pub words: [String; 3],
    /// Help for those who fill it.
    pub help: String,
    /// A value that shows the form.
    pub example: Option<String>,
    /// Whether its cells are not to be changed.
    pub is_fixed: bool,
}

/// Whether a column must be filled.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Need {
    /// Always.
    Required,
    /// If it can be.
    Advised,
    /// As one likes.
    Free,
}

/// What a cell may hold.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Holds {
    /// Text that stays as it is typed, leading zeros too.
    Text {
        /// Least and most characters.
        length: (Option<u32>, Option<u32>),
    },
    /// A whole number.
    Integer(Range<String>),
    /// A number, with so many digits after the point.
    Decimal(Range<String>, Option<u32>),
    /// A day, in this form of spreadsheets.
    Date(Range<String>, String),
    /// Yes or no.
    Boolean,
    /// A value of the list of this number; another one only warns where it is open.
    List(usize, bool),
    /// Several values in one cell, or anything else that a spreadsheet cannot watch over.
    Free,
}

impl Template {
    /// The sheet for these fields, in this order; for loading in this mode.
    #[must_use]
    pub fn new(schema: &RecordSchema, fields: &[usize], mode: Mode) -> Self {
        let mut lists: Vec<(usize, Offered)> = Vec::new();
        let mut columns = Vec::new();
        let named = named_by(schema);
        for (number, field) in fields.iter().filter_map(|number| Some((*number, schema.fields.get(*number)?)))
        {
            let list = field.stated.picklist.filter(|_| field.stated.kind == KindName::Picklist);
            let list = list.and_then(|list| {
                if let Some(known) = lists.iter().position(|known| known.0 == list) {
                    return Some(known);
                }
                let picklist = schema.picklists.get(list).filter(|list| !list.values.is_empty())?;
                let current = picklist.values.iter().filter(|value| !value.retired);
                let offered = |value: &crate::value::PickValue| {
                    let label = value.label.clone().filter(|_| !picklist.exact);
                    (label.unwrap_or_else(|| value.code.clone()), value.code.clone())
                };
                lists.push((list, (picklist.name.clone(), current.map(offered).collect())));
                Some(lists.len() - 1)
            });
            let open = field
                .stated
                .picklist
                .and_then(|list| schema.picklists.get(list))
                .is_some_and(|list| list.open);
            columns.push(column((schema, &named), number, field, mode, list.map(|list| (list, open))));
        }
        Self {
            record: schema.record.clone(),
            label: schema.label.clone(),
            version: schema.version.clone().unwrap_or_default(),
            columns,
            keys: Vec::new(),
            lists: lists.into_iter().map(|list| list.1).collect(),
            rows: Vec::new(),
            meant: None,
        }
    }

    /// The same with drop-downs for references, whose keys are known, each with its name; without those of very many keys.
    #[must_use]
    pub fn offering(mut self, schema: &RecordSchema, keys: &[OfferedKeys]) -> Self {
        for (to, keys) in keys.iter().filter(|(_, keys)| keys.len() <= MOST_OFFERED) {
            let is_meant = |column: &&mut TemplateColumn| {
                let field = schema.field(&column.name).and_then(|number| schema.fields.get(number));
                field.is_some_and(|field| field.stated.to.as_ref() == Some(to) && field.stated.many.is_none())
            };
            let list = self.lists.len();
            let mut is_used = false;
            for column in self.columns.iter_mut().filter(is_meant) {
                column.holds = Holds::List(list, false);
                is_used = true;
            }
            if is_used {
                let named =
                    |key: &(String, Option<String>)| (key.0.clone(), key.1.clone().unwrap_or_default());
                self.lists.push((to.clone(), keys.iter().map(named).collect()));
                self.keys.push(list);
            }
        }
        self
    }

    /// The same with records that are there: their values in the target's own form, in the order of the columns. Their
    /// keys are not to be changed.
    #[must_use]
    pub fn filled_with(
        mut self,
        schema: &RecordSchema,
        rows: Vec<Vec<Option<String>>>,
        meant: Meant,
    ) -> Self {
        for column in &mut self.columns {
            column.is_fixed = schema.field(&column.name).is_some_and(|number| schema.is_keyed(number));
        }
        (self.rows, self.meant) = (rows, Some(meant));
        self
    }

    /// Whether an example row says anything that a check would know again: two examples at least.
    #[must_use]
    pub fn has_example(&self) -> bool {
        self.columns.iter().filter(|column| column.example.is_some()).count() >= 2
    }
}

fn column(
    (schema, named): (&RecordSchema, &HashMap<String, Option<usize>>),
    number: usize,
    field: &Field,
    mode: Mode,
    list: Option<(usize, bool)>,
) -> TemplateColumn {
    let is_key = schema.key.contains(&number);
    let need = match field.required {
        _ if schema.is_keyed(number) => Need::Required,
        // A default fills what is left blank.
        Required::Always | Required::WhenAdding if mode.adds() && field.default.is_none() => Need::Required,
        Required::Filled if !mode.adds() || field.default.is_none() => Need::Required,
        Required::Advised => Need::Advised,
        _ => Need::Free,
    };
    let kind = kind_words(field, schema);
    let needed = match need {
        Need::Required if is_key => "key, always needed".to_owned(),
        Need::Required if schema.is_line_key(number) => "key of the line, always needed".to_owned(),
        Need::Required => "required".to_owned(),
        Need::Advised => "advised".to_owned(),
        Need::Free => match (&field.default, mode.adds()) {
            (Some(default), true) => format!("left blank it becomes {default}"),
            _ if field.required == Required::No => String::new(),
            _ => required_words(field, number, schema).to_owned(),
        },
    };
    let limits = [limits(field, schema), rules_of(number, schema)].concat().join("; ");
    let help = field.stated.help.clone().unwrap_or_default();
    let mut note: Vec<String> = Vec::new();
    note.extend(Some(help.clone()).filter(|help| !help.is_empty()));
    let first = [kind.clone(), needed.clone()].into_iter().filter(|part| !part.is_empty());
    note.push(capitalised(&first.collect::<Vec<_>>().join(", ")));
    note.extend(Some(capitalised(&limits)).filter(|limits| !limits.is_empty()));
    note.extend(field.example.as_ref().map(|example| format!("Example: {example}")));
    TemplateColumn {
        name: field.name.clone(),
        heading: heading(named, number, field),
        need,
        note: note.join("\n"),
        holds: holds(field, is_key, list),
        words: [kind, needed, limits],
        help,
        example: field.example.clone(),
        is_fixed: false,
    }
}

/// Which field each word names, compared loosely; nothing where several do.
fn named_by(schema: &RecordSchema) -> HashMap<String, Option<usize>> {
    let mut named = HashMap::new();
    for (number, field) in schema.fields.iter().enumerate() {
        for word in [&field.name, &field.label].into_iter().chain(&field.also) {
            let slot = named.entry(loose(word)).or_insert(Some(number));
            *slot = slot.filter(|known| *known == number);
        }
    }
    named
}

/// The label, unless it would pair with another field.
fn heading(named: &HashMap<String, Option<usize>>, number: usize, field: &Field) -> String {
    let form = loose(&field.label);
    let is_own = named.get(&form).is_some_and(|known| *known == Some(number));
    if is_own && !form.is_empty() { field.label.clone() } else { field.name.clone() }
}

fn holds(field: &Field, is_key: bool, list: Option<(usize, bool)>) -> Holds {
    let stated = &field.stated;
    let length = |count: Option<usize>| count.and_then(|count| u32::try_from(count).ok());
    let text = || Holds::Text { length: (length(stated.length.min), length(stated.length.max)) };
    match stated.kind {
        _ if stated.many.is_some() => Holds::Free,
        // A key keeps its leading zeros.
        _ if is_key && list.is_none() && stated.kind != KindName::Date => text(),
        KindName::Integer => Holds::Integer(stated.range.clone()),
        KindName::Decimal if stated.percent || !stated.currency.is_empty() => Holds::Free,
        KindName::Decimal => Holds::Decimal(stated.range.clone(), stated.digits.1),
        KindName::Boolean => Holds::Boolean,
        KindName::Date => {
            let form = stated.dates.first().map_or("yyyy-MM-dd", String::as_str);
            Holds::Date(stated.range.clone(), spreadsheet_form(form))
        }
        KindName::Picklist => list.map_or(Holds::Free, |(list, open)| Holds::List(list, open)),
        kind if kind.facts().seen == Type::Text => text(),
        _ => Holds::Free,
    }
}

/// A pattern of Unicode LDML as a number format of spreadsheets, where months are small letters too.
fn spreadsheet_form(pattern: &str) -> String {
    let mut form = String::new();
    let mut quoted = false;
    for c in pattern.chars() {
        match c {
            '\'' => {
                quoted = !quoted;
                form.push('"');
            }
            c if !quoted => form.extend(c.to_lowercase()),
            c => form.push(c),
        }
    }
    form
}

fn capitalised(text: &str) -> String {
    let mut chars = text.chars();
    chars.next().map(|first| first.to_uppercase().chain(chars).collect()).unwrap_or_default()
}

/// A day of a range, as year, month and day; nothing for "today".
#[must_use]
pub fn day(bound: &str) -> Option<(u16, u8, u8)> {
    Date::iso(bound).map(|date| (date.year(), date.month(), date.day()))
}
