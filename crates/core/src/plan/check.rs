//! What the shape of a plan cannot tell: names that name nothing, words that cannot be.

mod fields;
mod layout;
mod reading;
mod sources;
mod values;
mod writing;

pub use layout::{delimiter_of, is_permitted};

use super::raw::{RawLevel, RawMode, RawPlan, RawRest, RawScope, RawStands, RawTarget};
use super::stated::{Plan, ScopeOf, Stands, Tolerance};
use crate::catalogue::{Code, Level, least};
use crate::fault::Fault;
use crate::headings::{ColumnName, PlanColumn};
use crate::likeness;
use crate::mode::Mode;
use crate::schema::{RecordSchema, condition, default_fits, scalar};
use fields::field_of;
use layout::file;
use reading::reading;
use sources::{existing, references};
use std::collections::BTreeMap;
use toml::Value;
use values::values;
use writing::write;

pub(super) fn check(raw: &RawPlan, schema: &RecordSchema, faults: &mut Vec<Fault>) -> Plan {
    head(raw, faults);
    let mode = raw.mode.as_ref().map(|mode| mode_of(*mode.get_ref()));
    if let Some(mode) = raw.mode.as_ref().filter(|_| schema.key.is_empty() && mode != Some(Mode::Add)) {
        let fault =
            Fault::new(mode.span(), "the record has no key, so records cannot be found again to update");
        faults.push(fault.help("name the `key` in the record schema, or use mode \"add\""));
    }
    let mut plan = Plan { mode, ..Plan::default() };
    plan.file = file(raw, faults);
    reading(raw, schema, &mut plan, faults);
    values(raw, schema, &mut plan, faults);
    plan.columns = columns(raw, schema, faults);
    plan.defaults = defaults(raw, schema, faults);
    plan.stands = match raw.repeats.stands.as_ref().map(|stands| *stands.get_ref()) {
        Some(RawStands::First) => Stands::First,
        Some(RawStands::Last) => Stands::Last,
        Some(RawStands::None) | None => Stands::None,
    };
    if let Some(stands) = raw.repeats.stands.as_ref().filter(|_| schema.lines.is_some()) {
        let fault = Fault::new(stands.span(), "[repeats] cannot stand beside [lines] of the record schema");
        faults.push(fault.help("several rows are one record there; take [repeats] out"));
    }
    plan.scope = raw.scope.as_ref().map(|scope| self::scope(scope, schema, faults));
    for field in plan.defaults.keys().filter(|field| !plan.is_in_scope(**field)) {
        let name = schema.fields.get(*field).map(|field| field.name.as_str()).unwrap_or_default();
        if let Some(value) = raw.defaults.get(name) {
            let fault = Fault::new(value.span(), format!("`{name}` has a default, but is out of scope"));
            faults.push(fault.help("add it to `fields` of [scope], or take the default out"));
        }
    }
    plan.existing = existing(raw, schema, faults);
    plan.references = references(raw, schema, faults);
    plan.write = write(raw, schema, faults);
    plan.tolerate = tolerance(raw, faults);
    plan.levels = levels(raw, faults);
    plan
}

/// What can be told without a record schema.
pub(super) fn head(raw: &RawPlan, faults: &mut Vec<Fault>) {
    match &raw.format {
        Some(format) if *format.get_ref() != 1 => {
            let message = format!("format {} is not known", format.get_ref());
            faults.push(Fault::new(format.span(), message).help("this version reads `format = 1`"));
        }
        None => {
            let fault = Fault::new(0..0, "`format` is missing").help("add `format = 1`");
            faults.push(Fault { absent: Some("format"), ..fault });
        }
        _ => {}
    }
}

fn mode_of(raw: RawMode) -> Mode {
    match raw {
        RawMode::Add => Mode::Add,
        RawMode::Update => Mode::Update,
        RawMode::Both => Mode::Both,
    }
}

fn columns(raw: &RawPlan, schema: &RecordSchema, faults: &mut Vec<Fault>) -> Vec<PlanColumn> {
    let by_position = raw.file.by_position.unwrap_or_default();
    let mut columns: Vec<PlanColumn> = Vec::new();
    for (name, target) in &raw.columns {
        let named = if by_position {
            match place(name) {
                Some(place) => ColumnName::Place(place),
                None => {
                    let message = format!("\"{name}\" is no place of a column");
                    let fault = Fault::new(target.span(), message);
                    faults
                        .push(fault.help("a file read by position has columns \"1\", \"2\" or \"A\", \"B\""));
                    continue;
                }
            }
        } else {
            match name.strip_prefix('@').and_then(place) {
                Some(place) => ColumnName::Place(place),
                None => ColumnName::Heading(name.clone()),
            }
        };
        let field = match target.get_ref() {
            RawTarget::LeftOut => None,
            RawTarget::Field(field) => match field_of(field, &target.span(), schema, faults) {
                Some(field) => Some(field),
                None => continue,
            },
        };
        if let Some(field) =
            field.and_then(|number| schema.fields.get(number)).filter(|field| field.read_only)
        {
            let message = format!("`{}` is computed by the target; no column can fill it", field.name);
            faults.push(Fault::new(target.span(), message).help("leave the column out: false"));
        }
        if let Some(other) = columns.iter().find(|other| other.field == field && field.is_some()) {
            let message = format!("{} and {named} are both paired with one field", other.name);
            faults.push(Fault::new(target.span(), message).help("leave one of them out: false"));
        }
        if let Some(other) = columns.iter().find(|other| other.name == named) {
            faults.push(Fault::new(target.span(), format!("{} is named twice", other.name)));
        }
        columns.push(PlanColumn { name: named, field });
    }
    columns
}

/// The column that a number or a letter names, from 0.
#[must_use]
pub fn place(name: &str) -> Option<usize> {
    if let Ok(number) = name.parse::<usize>() {
        return number.checked_sub(1);
    }
    let fits = (1..=3).contains(&name.len()) && name.bytes().all(|byte| byte.is_ascii_alphabetic());
    fits.then(|| {
        let letter = |byte: u8| usize::from(byte.to_ascii_uppercase() - b'A') + 1;
        name.bytes().fold(0, |sum, byte| sum * 26 + letter(byte)) - 1
    })
}

fn defaults(raw: &RawPlan, schema: &RecordSchema, faults: &mut Vec<Fault>) -> BTreeMap<usize, String> {
    let mut defaults = BTreeMap::new();
    for (name, value) in &raw.defaults {
        let Some(number) = field_of(name, &value.span(), schema, faults) else { continue };
        let Some(field) = schema.fields.get(number) else { continue };
        let text = scalar(value.get_ref()).unwrap_or_default();
        let problem = if schema.is_keyed(number) {
            Some("a field of the key takes no default".to_owned())
        } else if field.read_only {
            Some(format!("`{name}` is computed by the target"))
        } else if !default_fits(field, &schema.picklists, &text) {
            Some(format!("the default of `{name}` is no value of kind {}", field.stated.kind.name()))
        } else {
            None
        };
        match problem {
            Some(problem) => faults.push(Fault::new(value.span(), problem)),
            None => drop(defaults.insert(number, text)),
        }
    }
    defaults
}

fn scope(raw: &RawScope, schema: &RecordSchema, faults: &mut Vec<Fault>) -> ScopeOf {
    let fields = raw.fields.as_ref().map(|names| {
        let named = names.iter().filter_map(|name| field_of(name.get_ref(), &name.span(), schema, faults));
        let named: Vec<usize> = named.collect();
        let line_key = schema.lines.iter().flat_map(|lines| &lines.key);
        schema.key.iter().chain(line_key).copied().chain(named).collect()
    });
    let modes = raw.modes.as_ref().map(|modes| {
        if modes.get_ref().is_empty() {
            faults.push(Fault::new(modes.span(), "`modes` names no mode, so nothing could be loaded"));
        }
        modes.get_ref().iter().map(|mode| mode_of(*mode)).collect()
    });
    let condition = raw.r#where.as_ref().and_then(|text| {
        let condition = condition(text, schema, faults)?;
        let header = schema.lines.as_ref().map(|lines| &lines.header);
        if header.is_some_and(|header| condition.fields.iter().any(|field| !header.contains(field))) {
            let fault =
                Fault::new(text.span(), "`where` names a field that differs from line to line of a record");
            faults.push(fault.help("use fields of `header` of [lines] alone"));
        }
        Some((condition, text.get_ref().clone()))
    });
    ScopeOf { fields, modes, condition, leaves_out: raw.outside == Some(RawRest::LeaveOut) }
}

fn tolerance(raw: &RawPlan, faults: &mut Vec<Fault>) -> Tolerance {
    let Some(stated) = &raw.gate.tolerate else { return Tolerance::default() };
    let read = match stated.get_ref() {
        Value::Integer(rows) => u64::try_from(*rows).ok().map(Tolerance::Rows),
        Value::String(text) => text.parse().ok(),
        _ => None,
    };
    read.unwrap_or_else(|| {
        let fault = Fault::new(stated.span(), "not a share of the rows or a number of rows");
        faults.push(fault.help("write it as \"2%\" or 20"));
        Tolerance::default()
    })
}

fn levels(raw: &RawPlan, faults: &mut Vec<Fault>) -> Vec<(Code, Level)> {
    let mut levels = Vec::new();
    for (name, stated) in &raw.gate.levels {
        let Ok(code) = name.parse::<Code>() else {
            let fault = Fault::new(stated.span(), format!("there is no finding `{name}`"));
            let codes = Code::ALL.iter().map(|code| (code.name(), code.name()));
            faults.push(match likeness::nearest(name, codes) {
                Some(near) => fault.help(format!("did you mean `{near}`?")),
                None => fault.help("`tidy-gate explain` lists them"),
            });
            continue;
        };
        let level = match stated.get_ref() {
            RawLevel::Stop => Level::Stop,
            RawLevel::Warn => Level::Warn,
            RawLevel::Note => Level::Note,
        };
        // The gravest level is the least of the three.
        if level > least(code) {
            let message = format!("`{name}` cannot be less than a {}", least(code).name());
            faults.push(Fault::new(stated.span(), message).help("what it tells of would load wrong data"));
            continue;
        }
        levels.push((code, level));
    }
    levels
}
