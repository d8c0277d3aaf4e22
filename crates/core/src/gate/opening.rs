//! What is known from the headings alone, before any row.

use super::at_heading::{at_heading, title};
use super::compiled::Compiled;
use super::existing_source;
use crate::catalogue::{Code, Level};
use crate::finding::{Finding, letter};
use crate::headings::{ColumnName, PlanColumn};
use crate::headings::{Paired, loose};
use crate::likeness;
use crate::mode::Mode;
use crate::numerals::grouped;
use crate::schema::{Asks, Field, Kind};

/// The findings about headings, fields without a column and the missing key, in order.
pub(super) fn findings(gate: &Compiled) -> Vec<Finding> {
    let notices = || gate.table.notices.iter().cloned();
    if notices().any(|finding| finding.code == Code::SheetUnclear) {
        // The work ends before anything of the sheet is looked at.
        return notices().filter(|finding| finding.code == Code::SheetUnclear).collect();
    }
    let mut found: Vec<Finding> = gate.pairing.gone.iter().map(|named| gone(gate, named)).collect();
    let over = gate.defaults_over_headings();
    let is_told = |column: usize| over.iter().any(|finding| finding.column == Some(column + 1));
    if gate.headings_may_be_data() {
        let row = gate.table.heading_row.unwrap_or(1);
        let message =
            format!("row {row} was taken for headings, but is like the rows below it: has the file none?");
        found.push(Finding::new(Code::HeadingUnpaired, Level::Warn, message));
    } else {
        // What a default hides is told once.
        let columns = (0..gate.pairing.columns.len()).filter(|column| !is_told(*column));
        found.extend(columns.filter_map(|column| of_column(gate, column)));
        found.extend(unsought(gate));
    }
    found.extend((0..gate.schema.fields.len()).filter_map(|field| missing(gate, field)));
    found.extend(over);
    found.extend(unchecked_rules(gate));
    found.extend(out_of_mode(gate));
    if gate.schema.key.is_empty() {
        let message = "the record schema names no key, so repeated records cannot be seen".to_owned();
        found.push(Finding::new(Code::KeyNone, Level::Note, message));
    }
    found.extend(existing_source::repeated(gate));
    found.extend(existing_source::unread(gate));
    found.extend(notices());
    found.sort_by_key(|finding| (finding.order(), finding.level));
    found.into_iter().map(|finding| gate.told(gate.table.placed(finding))).collect()
}

fn of_column(gate: &Compiled, column: usize) -> Option<Finding> {
    let name = |field: &usize| gate.schema.fields.get(*field).map(title).unwrap_or_default();
    let at = |code, message| at_heading(gate, code, column, message);
    Some(match gate.pairing.columns.get(column)? {
        Paired::Field { field, .. } => {
            let field = gate.schema.fields.get(*field)?;
            let (code, message) = of_field(gate, field)?;
            Finding { field: Some(field.name.clone()), ..at(code, message) }
        }
        Paired::LeftOut => return None,
        // Only a column that holds values is one; that is known at the end.
        Paired::Blank | Paired::Own => return None,
        Paired::Repeated { first } => at(
            Code::HeadingRepeated,
            format!("column {} has the same heading; both are left out", letter(*first)),
        ),
        Paired::Unknown { nearest } => unknown(gate, column, nearest),
        Paired::Unclear { fields } => {
            let fields: Vec<_> = fields.iter().map(name).collect();
            let message = format!("the heading could mean {}; the column is left out", fields.join(" or "));
            at(Code::HeadingUnpaired, message)
        }
        Paired::Taken { field, by } => {
            let message = format!(
                "column {} has the better heading for {}; this one is left out",
                letter(*by),
                name(field)
            );
            at(Code::HeadingUnpaired, message)
        }
        Paired::Shared { field, with } => {
            let with: Vec<_> = with.iter().map(|column| letter(*column)).collect();
            let message =
                format!("column {} claims {} too; neither is taken", with.join(" and "), name(field));
            let field = gate.schema.fields.get(*field).map(|field| field.name.clone());
            Finding { field, ..at(Code::HeadingShared, message) }
        }
    })
}

/// What is to be said of a field that has a column.
fn of_field(gate: &Compiled, field: &Field) -> Option<(Code, String)> {
    let number = gate.schema.field(&field.name)?;
    if gate.is_unchangeable(number) {
        return None;
    }
    if field.read_only && field.read_only_later {
        let message = format!("{} may be set when adding only; the column is left out", title(field));
        return Some((Code::FieldReadOnly, message));
    }
    if field.read_only {
        let message = format!("{} is computed by the target; the column is left out", title(field));
        return Some((Code::FieldReadOnly, message));
    }
    if !gate.settings.plan.is_in_scope(number) {
        let message = format!("the plan does not let this file change {}", title(field));
        return Some((Code::FieldOutOfScope, message));
    }
    let Kind::Reference(to) = &field.kind else { return None };
    let message = format!("the keys of {to} were not given, so its references were not looked up");
    let is_known = gate.settings.references.contains_key(to);
    (!is_known).then_some((Code::ReferenceUnchecked, message))
}

/// A column whose heading no field has.
fn unknown(gate: &Compiled, column: usize, nearest: &[usize]) -> Finding {
    let taken = |field: &usize| gate.pairing.column_of.get(*field).copied().flatten();
    let at = |code, message: &str| at_heading(gate, code, column, message.to_owned());
    let finding = if !gate.settings.plan.columns.is_empty() {
        let message = format!(
            "column {} is new: neither does the plan name it, nor has a field this heading; the column is left out",
            letter(column)
        );
        // It comes before all others, and so stands in no row.
        let heading = gate.heading(column);
        Finding { heading, ..Finding::new(Code::PlanOutdated, Level::Warn, message) }
    } else if nearest.first().is_some_and(|field| taken(field).is_none()) {
        at(Code::HeadingClose, "likely this field's; the column is left out until a plan says so")
    } else {
        at(Code::HeadingUnpaired, "no field has this heading; the column is left out")
    };
    let near = |field: &usize| {
        let name = gate.schema.fields.get(*field).map(title).unwrap_or_default();
        let by = taken(field).map(|column| format!(", which has column {}", letter(column)));
        format!("{name}{}", by.unwrap_or_default())
    };
    let near: Vec<_> = nearest.iter().map(near).collect();
    Finding { suggestion: (!near.is_empty()).then(|| near.join(" or ")), ..finding }
}

/// That likely fields were not looked for, where too many headings have none.
fn unsought(gate: &Compiled) -> Option<Finding> {
    let count = Some(gate.pairing.unsought).filter(|count| *count > 0)?;
    let message = format!(
        "so many headings have no field that {} of them were not held against the fields: no likely one is named",
        grouped(u64::from(count))
    );
    Some(Finding::new(Code::HeadingUnpaired, Level::Note, message))
}

/// A needed field without a column, if no two columns quarrel about it.
fn missing(gate: &Compiled, number: usize) -> Option<Finding> {
    let field = gate.schema.fields.get(number)?;
    let needed = gate.is_needed(number);
    let has_column = gate.pairing.column_of.get(number).copied().flatten().is_some();
    let is_gone = gate.pairing.gone.iter().any(|named| named.field == Some(number));
    if !needed || has_column || is_gone || gate.pairing.shared.contains(&number) {
        return None;
    }
    let why = match gate.schema.is_line_key(number) {
        true => "the key of a line",
        false if gate.schema.key.contains(&number) => "the key of the record",
        false => "required",
    };
    let message = format!("no column for {}, which is {why}", title(field));
    let mut finding = Finding::new(Code::FieldMissing, Level::Stop, message);
    finding.field = Some(field.name.clone());
    finding.expect(format!("the heading {}", headings_of(field)));
    Some(finding)
}

/// A column that the plan names and the file does not have.
fn gone(gate: &Compiled, named: &PlanColumn) -> Finding {
    let field = named.field.and_then(|field| gate.schema.fields.get(field));
    let (level, what) = match field {
        Some(field) => (Level::Stop, format!("the plan's column for {}", title(field))),
        None => (Level::Warn, "a column that the plan leaves out".to_owned()),
    };
    let what_else = match &named.name {
        ColumnName::Heading(heading) => format!("no heading is \"{heading}\", {what}"),
        ColumnName::Place(place) => format!("there is no column {}, {what}", letter(*place)),
    };
    let mut finding = Finding::new(Code::PlanOutdated, level, what_else);
    if let ColumnName::Heading(heading) = &named.name {
        finding.heading = Some(heading.clone());
        let form = loose(heading);
        let headings = gate.table.headings.iter().zip(&gate.pairing.columns);
        let open = headings.filter(|(_, paired)| matches!(paired, Paired::Unknown { .. }));
        let open = open.map(|(heading, _)| (loose(heading), heading)).collect::<Vec<_>>();
        let near = likeness::nearest(&form, open.iter().map(|(form, heading)| (form.as_str(), *heading)));
        finding.suggestion = near.map(|near| format!("the column \"{near}\""));
    }
    finding.field = field.map(|field| field.name.clone());
    finding
}

/// Rules and combinations that find nothing, since a field that they ask for has neither a column nor a default.
fn unchecked_rules(gate: &Compiled) -> Vec<Finding> {
    let adds = gate.settings.mode.adds();
    let is_there = |number: usize| gate.column_of(number).is_some();
    // What the file has not, the record may have.
    let is_known = |number: usize| {
        let existing = gate.settings.existing.as_deref();
        gate.settings.mode != Mode::Add && existing.is_some_and(|existing| existing.knows(number))
    };
    let is_filled = |number: usize| {
        is_known(number)
            || adds && gate.schema.fields.get(number).is_some_and(|field| field.default.is_some())
    };
    let told = |name: &str, asked: &[usize], concerned: &[usize]| {
        let missing: Vec<&Field> = asked
            .iter()
            .filter(|number| !is_there(**number) && !is_filled(**number))
            .filter_map(|number| gate.schema.fields.get(*number))
            .collect();
        // Of a rule without any column nothing could be broken.
        if missing.is_empty() || !concerned.iter().any(|number| is_there(*number)) {
            return None;
        }
        let titles: Vec<String> = missing.iter().map(|field| title(field)).collect();
        let message = format!("\"{name}\" was not checked: no column for {}", titles.join(" and "));
        let mut finding = Finding::new(Code::RuleUnchecked, Level::Warn, message);
        finding.fields = missing.iter().map(|field| field.name.clone()).collect();
        finding.rule = Some(name.to_owned());
        Some(finding)
    };
    let rules = gate.schema.rules.iter().filter_map(|rule| {
        let asked = rule.fields();
        let concerned = match &rule.asks {
            Asks::Require(fields) | Asks::Forbid(fields) => [asked.as_slice(), fields].concat(),
            Asks::Must(..) => asked.clone(),
        };
        told(&rule.name, &asked, &concerned)
    });
    let combinations = gate.schema.combinations.iter();
    rules.chain(combinations.filter_map(|one| told(&one.name, &one.fields, &one.fields))).collect()
}

/// A mode in which the plan does not let the file be loaded.
fn out_of_mode(gate: &Compiled) -> Option<Finding> {
    let mode = gate.settings.mode;
    let modes = gate.settings.plan.scope.as_ref()?.modes.as_ref()?;
    if modes.contains(&mode) {
        return None;
    }
    let message = format!("the plan does not let this file be loaded in mode {}", mode.name());
    let mut finding = Finding::new(Code::ModeOutOfScope, Level::Stop, message);
    let modes: Vec<_> = modes.iter().map(|mode| mode.name()).collect();
    finding.expect(format!("mode {}", modes.join(" or ")));
    Some(finding)
}

/// The headings that would pair with the field.
fn headings_of(field: &Field) -> String {
    let mut words = vec![&field.label];
    if field.name != field.label {
        words.push(&field.name);
    }
    words.extend(&field.also);
    words.iter().map(|word| format!("\"{word}\"")).collect::<Vec<_>>().join(" or ")
}
