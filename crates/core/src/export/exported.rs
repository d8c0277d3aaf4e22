//! A record schema in another form, and what that form cannot say.

use crate::schema::{Field, Kind, RecordSchema, Required};
use crate::value::{Case, LengthUnit, Picklist};

/// A schema in another form, and what that form cannot say.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Exported {
    /// The text.
    pub text: String,
    /// What it does not say, each in a line.
    pub unsaid: Vec<String>,
}

/// Gathers what a form cannot say, by what it is, with the fields concerned.
#[derive(Debug, Default)]
pub(super) struct Unsaid(Vec<(&'static str, Vec<String>)>);

impl Unsaid {
    pub(super) fn note(&mut self, is_so: bool, what: &'static str, field: &str) {
        if !is_so {
            return;
        }
        match self.0.iter_mut().find(|known| known.0 == what) {
            Some(known) if known.1.last().is_some_and(|last| last == field) => {}
            Some(known) => known.1.push(field.to_owned()),
            None => self.0.push((what, vec![field.to_owned()])),
        }
    }

    pub(super) fn lines(self) -> Vec<String> {
        let line = |(what, fields): (&str, Vec<String>)| format!("{what}: {}", fields.join(", "));
        self.0.into_iter().map(line).collect()
    }
}

/// What no form but our own can say of a field.
pub(super) fn of_field(field: &Field, unsaid: &mut Unsaid) {
    let name = &field.name;
    unsaid.note(field.sensitive, "that values are sensitive", name);
    unsaid.note(!field.ignore.is_empty(), "suspicions to be ignored", name);
    let is_uneven = field.stated.length.unit != LengthUnit::Character
        && (field.stated.length.min.is_some() || field.stated.length.max.is_some());
    unsaid.note(is_uneven, "lengths in other units than characters", name);
    unsaid.note(
        field.stated.percent || !field.stated.currency.is_empty(),
        "marks of percent and currency",
        name,
    );
    unsaid.note(field.required == Required::Advised, "that a field is advised", name);
    unsaid.note(field.read_only_later, "that a field must not change later", name);
    unsaid.note(field.numbered, "that the target gives the number", name);
    unsaid.note(field.required == Required::WhenAdding, "that a field is required only when adding", name);
    if let Kind::Text(rules) = &field.kind {
        unsaid.note(rules.case.is_some() && pattern_of(field).is_none(), "the case of text", name);
    }
}

/// The pattern of a text, its case worked in where the pattern says nothing of it.
pub(super) fn pattern_of(field: &Field) -> Option<String> {
    let Kind::Text(rules) = &field.kind else { return None };
    match (&rules.pattern, rules.case) {
        (Some(pattern), _) => Some(pattern.source().to_owned()),
        (None, Some(Case::Upper)) => Some("[^a-z]*".to_owned()),
        (None, Some(Case::Lower)) => Some("[^A-Z]*".to_owned()),
        (None, None) => None,
    }
}

/// The picklist of a field.
pub(super) fn list_of<'a>(field: &Field, schema: &'a RecordSchema) -> Option<&'a Picklist> {
    field.stated.picklist.and_then(|list| schema.picklists.get(list))
}

/// The names of fields.
pub(super) fn names(schema: &RecordSchema, fields: &[usize]) -> Vec<String> {
    fields.iter().filter_map(|field| schema.fields.get(*field)).map(|field| field.name.clone()).collect()
}
