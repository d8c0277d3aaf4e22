//! The fields of a record schema, for people: a line each, or one of them whole.

use super::words::part;
use crate::args::FieldsArgs;
use crate::render::words::{counted, program};
use crate::shell::quoted_path;
use crate::terminal::{BAD, CARE, FAINT, GOOD, HEAD, VALUE, columns, cut, padded, paint, shown};
use tidy_gate_core::fields::{Hit, kind_words, limits, required_words, rules_of};
use tidy_gate_core::schema::{Field, RecordSchema};
use tidy_gate_core::value::Picklist;

/// So many values of a picklist are listed.
const MOST_VALUES: usize = 60;

/// Draws the fields for a width in columns.
pub(crate) fn list(schema: &RecordSchema, hits: &[Hit], args: &FieldsArgs, width: usize) -> String {
    let searched = !args.words.is_empty();
    let mut lines = head(schema, hits, args);
    // Its very name asks for one field, whatever else is like it.
    let is_alone = hits.iter().filter(|hit| hit.score == 100).count() == 1;
    let exact = hits.first().filter(|hit| hit.score == 100 && searched && is_alone);
    match (hits, exact) {
        ([one], _) | (_, Some(one)) => {
            lines.extend(
                schema
                    .fields
                    .get(one.field)
                    .map(|field| whole(schema, one, field, width))
                    .unwrap_or_default(),
            );
            let others: Vec<&Hit> = hits.iter().filter(|hit| hit.field != one.field).collect();
            if !others.is_empty() {
                let names: Vec<_> = others
                    .iter()
                    .filter_map(|hit| schema.fields.get(hit.field))
                    .map(|field| field.name.as_str())
                    .collect();
                lines.push(String::new());
                let text = format!("found too: {}", names.join(", "));
                lines.push(format!(" {}", paint(&cut(&text, width.saturating_sub(2)), FAINT)));
            }
        }
        ([], _) => lines.extend(nothing(args, width)),
        _ => lines.extend(rows(schema, hits, width)),
    }
    lines.iter().map(|line| format!("{}\n", line.trim_end())).collect()
}

fn head(schema: &RecordSchema, hits: &[Hit], args: &FieldsArgs) -> Vec<String> {
    let version = schema.version.as_ref().map(|version| format!(" {version}")).unwrap_or_default();
    let all = schema.fields.len() as u64;
    let about = match args.words.is_empty() {
        true => counted(all, "field", "fields"),
        false => {
            format!("{} of {} for \"{}\"", hits.len(), counted(all, "field", "fields"), args.words.join(" "))
        }
    };
    vec![
        String::new(),
        format!(
            " {}  {}",
            paint(&shown(&schema.label), HEAD),
            paint(&shown(&format!("{}{version}, {about}", schema.record)), FAINT)
        ),
        String::new(),
    ]
}

fn nothing(args: &FieldsArgs, width: usize) -> Vec<String> {
    let command = format!("{} fields {}", program(), quoted_path(&args.record));
    let mut lines = vec![format!(" {}", paint("No field has it, nor anything like it. All of them:", CARE))];
    lines.extend(super::next::command_lines(&shown(&command), width));
    lines
}

fn rows(schema: &RecordSchema, hits: &[Hit], width: usize) -> Vec<String> {
    let fields: Vec<(&Hit, &Field)> =
        hits.iter().filter_map(|hit| Some((hit, schema.fields.get(hit.field)?))).collect();
    let most = (width / 3).clamp(12, 30);
    let widest =
        |texts: &mut dyn Iterator<Item = String>| texts.map(|text| columns(&text)).max().unwrap_or(0);
    let name = |field: &Field| cut(&field.name, most);
    let label =
        |field: &Field| if field.label == field.name { String::new() } else { cut(&field.label, most) };
    let names = widest(&mut fields.iter().map(|(_, field)| name(field)));
    let labels = widest(&mut fields.iter().map(|(_, field)| label(field)));
    let kinds = widest(&mut fields.iter().map(|(_, field)| cut(&kind_words(field, schema), 24)));
    fields
        .iter()
        .map(|(hit, field)| {
            let needed = required_words(field, hit.field, schema);
            let mut about = vec![needed.to_owned()];
            about.extend(limits(field, schema));
            about.extend(hit.because.clone());
            about.retain(|part| !part.is_empty());
            let used = 1 + names + 2 + labels + 2 + kinds + 2;
            let rest = cut(&about.join(", "), width.saturating_sub(used));
            // What must be there stands out.
            let rest = match rest.strip_prefix(needed).filter(|_| !needed.is_empty()) {
                Some(tail) => format!(
                    "{}{}",
                    paint(needed, if needed == "key" { BAD } else { CARE }),
                    paint(tail, FAINT)
                ),
                None => paint(&rest, FAINT),
            };
            format!(
                " {}  {}  {}  {rest}",
                paint(&padded(&name(field), names), HEAD),
                padded(&label(field), labels),
                paint(&padded(&cut(&kind_words(field, schema), 24), kinds), GOOD),
            )
        })
        .collect()
}

/// One field with all that the schema says of it.
fn whole(schema: &RecordSchema, hit: &Hit, field: &Field, width: usize) -> Vec<String> {
    let mut lines = Vec::new();
    let mut say = |name: &str, text: &str| {
        if text.is_empty() {
            return;
        }
        for (number, line) in textwrap::wrap(&shown(text), width.saturating_sub(17)).iter().enumerate() {
            let name = if number == 0 { name } else { "" };
            lines.push(format!("   {}  {line}", paint(&padded(name, 12), FAINT)));
        }
    };
    say("Field", &field.name);
    say("Label", &field.label);
    say("Also", &field.also.join(", "));
    say("Kind", &kind_words(field, schema));
    say(
        "Needed",
        match required_words(field, hit.field, schema) {
            "" => "no",
            "key" => "always: it is part of the key",
            "key of the line" => "always: it tells the lines of a record apart",
            words => words,
        },
    );
    say("Default", field.default.as_deref().unwrap_or_default());
    say("Limits", &limits(field, schema).join("; "));
    say("Rules", &rules_of(hit.field, schema).join("; "));
    say("Help", field.stated.help.as_deref().unwrap_or_default());
    say("Example", field.example.as_deref().unwrap_or_default());
    say("Found by", hit.because.as_deref().unwrap_or_default());
    if field.sensitive {
        say("Sensitive", "its values are masked in reports");
    }
    if let Some(why) = &field.unjudged {
        say("Not yet", &format!("{why} is not judged"));
    }
    let list = field.stated.picklist.and_then(|list| schema.picklists.get(list));
    lines.extend(list.into_iter().flat_map(|list| values_of(list, width)));
    lines
}

/// The values of a picklist.
fn values_of(list: &Picklist, width: usize) -> Vec<String> {
    let current: Vec<_> = list.values.iter().filter(|value| !value.retired).collect();
    let aside = if list.open { "others are permitted" } else { "" };
    let mut lines = part(&format!("Values of {}", list.name), aside).to_vec();
    let widest = current.iter().map(|value| columns(&cut(&value.code, 20))).max().unwrap_or(0);
    for value in current.iter().take(MOST_VALUES) {
        let label = value.label.as_deref().filter(|label| *label != value.code).unwrap_or_default();
        let also =
            if value.also.is_empty() { String::new() } else { format!("  also {}", value.also.join(", ")) };
        lines.push(format!(
            "   {}  {}{}",
            paint(&padded(&cut(&value.code, 20), widest), VALUE),
            shown(label),
            paint(&cut(&also, width / 2), FAINT)
        ));
    }
    if current.len() > MOST_VALUES {
        let more = format!("and {} more; --format json has all", current.len() - MOST_VALUES);
        lines.push(format!("   {}", paint(&more, FAINT)));
    }
    let retired: Vec<&str> =
        list.values.iter().filter(|value| value.retired).map(|value| value.code.as_str()).collect();
    if !retired.is_empty() {
        let text = format!("retired: {}", retired.join(", "));
        lines.push(format!("   {}", paint(&cut(&text, width.saturating_sub(4)), FAINT)));
    }
    lines
}
