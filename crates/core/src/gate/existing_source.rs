//! What is wrong with the source of existing records as a whole.

use super::at_heading::title;
use super::compiled::Compiled;
use crate::catalogue::{Code, Level};
use crate::existing::Existing;
use crate::finding::Finding;
use crate::numerals::counted;
use crate::schema::Kind;

/// So many records are looked at; how a source is written shows in the first of them.
const LOOKED_AT: u32 = 1_000;

/// Existing records of which it is not known which one a key means, and those without a key.
pub(super) fn repeated(gate: &Compiled) -> Option<Finding> {
    let existing = gate.settings.existing.as_deref()?;
    let source = existing.source();
    let repeated = (existing.repeated() > 0).then(|| {
        let count = counted(existing.repeated(), "record", "records");
        format!("{count} in {source} with the key of another; the first of each key is taken for the record that is there")
    });
    let keyless = (existing.keyless() > 0).then(|| {
        let count = counted(existing.keyless(), "record", "records");
        format!("{count} in {source} without a key, which no row can meet")
    });
    let told: Vec<String> = repeated.into_iter().chain(keyless).collect();
    (!told.is_empty()).then(|| Finding::new(Code::ExistingRepeated, Level::Warn, told.join("; ")))
}

/// Fields whose existing values are no values of their kind: whatever a file has there would count as a change. Told where
/// that holds for a tenth of them at least, which is no matter of single records.
pub(super) fn unread(gate: &Compiled) -> Vec<Finding> {
    let existing = gate.settings.existing.as_deref().filter(|_| gate.settings.mode.updates());
    let Some(existing) = existing else { return Vec::new() };
    let fields = (0..gate.schema.fields.len()).filter(|field| existing.knows(*field));
    fields.filter_map(|field| unread_of(gate, existing, field)).collect()
}

fn unread_of(gate: &Compiled, existing: &dyn Existing, number: usize) -> Option<Finding> {
    let (field, own) = (gate.schema.fields.get(number)?, gate.own_programs.get(number)?);
    // What existing records refer to may be more than a file may.
    if matches!(field.kind, Kind::Reference { .. }) {
        return None;
    }
    let rows = (0..LOOKED_AT).map_while(|at| existing.numbered(at)).filter(|row| !row.is_formed());
    let (mut filled, mut unread, mut first) = (0, 0, None);
    for value in rows.filter_map(|row| row.value(number)) {
        filled += 1;
        if own.standard(&*value, &gate.schema.picklists).is_none() {
            unread += 1;
            first.get_or_insert_with(|| value.into_owned());
        }
    }
    let first = first.filter(|_| unread * 10 >= filled)?;
    let such = if field.sensitive { String::new() } else { format!(", such as {first:?}") };
    let message = format!(
        "{unread} of the {} of {} that were looked at in {} cannot be read{such}: each counts as another value than \
         the file's",
        counted(filled, "value", "values"),
        title(field),
        existing.source(),
    );
    let mut finding = Finding::new(Code::ExistingUnread, Level::Warn, message);
    finding.field = Some(field.name.clone());
    Some(finding)
}
