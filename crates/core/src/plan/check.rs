//! What the shape of a plan cannot tell: names that name nothing, words that cannot be.

use super::raw::{
    RawHeadings, RawLevel, RawMode, RawPlan, RawRead, RawRest, RawScope, RawShortRows, RawStands, RawTarget,
    RawValues,
};
use super::stated::{Plan, PlanFile, Reading, ReferencePlan, ScopeOf, Stands, Tolerance, Writing};
use crate::catalogue::{Code, Level, least};
use crate::fault::{Fault, few_forms};
use crate::headings::{ColumnName, PlanColumn};
use crate::likeness;
use crate::mode::Mode;
use crate::schema::{Kind, RecordSchema, condition, default_fits, scalar};
use crate::value::{DatePattern, FoldedWords, Group, MomentPattern, MonthNames, TimePattern, Zone};
use std::collections::BTreeMap;
use std::sync::Arc;
use toml::{Spanned, Value};

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
    plan.references = references(raw, schema, faults);
    plan.write = write(raw, faults);
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

fn file(raw: &RawPlan, faults: &mut Vec<Fault>) -> PlanFile {
    let file = &raw.file;
    let mut row = |row: &Option<Spanned<u64>>| {
        let row = row.as_ref()?;
        if *row.get_ref() == 0 {
            faults.push(Fault::new(row.span(), "rows count from 1, as in a spreadsheet"));
        }
        Some(*row.get_ref())
    };
    let (heading_row, first_row, last_row) =
        (row(&file.heading_row), row(&file.first_row), row(&file.last_row));
    let example_row = row(&file.example_row);
    let by_position = file.by_position.unwrap_or_default();
    if let Some(row) = file.heading_row.as_ref().filter(|_| by_position) {
        let fault = Fault::new(row.span(), "a file read by position has no heading row");
        faults.push(fault.help("keep one of `heading_row` and `by_position`"));
    }
    let least_below = [
        (&file.heading_row, &file.first_row, 1),
        (&file.first_row, &file.last_row, 0),
        (&file.heading_row, &file.example_row, 1),
    ];
    for (above, below, least) in least_below {
        if let (Some(above), Some(below)) = (above, below)
            && below.get_ref() < &(above.get_ref() + least)
        {
            let message = format!("row {} is not below row {}", below.get_ref(), above.get_ref());
            faults.push(Fault::new(below.span(), message));
        }
    }
    let delimiter = file.delimiter.as_ref().map(|delimiter| {
        if delimiter_of(delimiter.get_ref()).is_none() {
            faults.push(bad_delimiter(delimiter));
        }
        delimiter.get_ref().clone()
    });
    let encoding = file.encoding.as_ref().map(|encoding| {
        known_encoding(encoding, faults);
        encoding.get_ref().clone()
    });
    PlanFile {
        sheet: file.sheet.clone(),
        at: file.at.clone(),
        heading_row,
        first_row,
        last_row,
        example_row,
        delimiter,
        encoding,
        by_position: file.by_position,
        short_rows_are_blank: file.short_rows.as_ref().map(|rows| *rows.get_ref() == RawShortRows::Blank),
    }
}

fn bad_delimiter(delimiter: &Spanned<String>) -> Fault {
    Fault::new(delimiter.span(), format!("`{}` is no delimiter", delimiter.get_ref()))
        .help("one ASCII character that is no letter, digit or double quote, or tab, comma, semicolon, pipe")
}

/// The byte that a word or a character stands for as delimiter.
#[must_use]
pub fn delimiter_of(word: &str) -> Option<u8> {
    Some(match word {
        "comma" => b',',
        "semicolon" => b';',
        "tab" | "\\t" => b'\t',
        "pipe" => b'|',
        "space" => b' ',
        _ => match word.as_bytes() {
            &[byte] if is_permitted(byte) => byte,
            _ => return None,
        },
    })
}

/// Whether a byte may stand between cells.
#[must_use]
pub fn is_permitted(byte: u8) -> bool {
    byte.is_ascii() && !byte.is_ascii_alphanumeric() && !matches!(byte, b'"' | b'\n' | b'\r' | 0)
}

fn known_encoding(encoding: &Spanned<String>, faults: &mut Vec<Fault>) {
    let found = encoding_rs::Encoding::for_label(encoding.get_ref().as_bytes());
    if found.is_none_or(|found| found == encoding_rs::REPLACEMENT) {
        let fault =
            Fault::new(encoding.span(), format!("`{}` is no encoding that is known", encoding.get_ref()));
        faults.push(
            fault.help("a name of the WHATWG Encoding Standard, such as utf-8, windows-1252 or utf-16le"),
        );
    }
}

fn reading(raw: &RawPlan, schema: &RecordSchema, plan: &mut Plan, faults: &mut Vec<Fault>) {
    let read = &raw.read;
    plan.reading = merged(read, &Reading::default(), faults);
    (plan.dates, plan.moments) = (Vec::new(), Vec::new());
    for source in few_forms(read.dates.as_deref().unwrap_or_default(), faults) {
        // A form with a time is for moments, one without for days, and for moments at midnight.
        let has_time =
            DatePattern::new(source.get_ref()).is_err() && MomentPattern::new(source.get_ref()).is_ok();
        plan.moments.extend(MomentPattern::new(source.get_ref()));
        if !has_time {
            let pattern = DatePattern::new(source.get_ref());
            plan.dates
                .extend(pattern.map_err(|fault| faults.push(Fault::new(source.span(), fault.to_string()))));
        }
    }
    let times = few_forms(read.times.as_deref().unwrap_or_default(), faults);
    let time = |source: &Spanned<String>| {
        TimePattern::new(source.get_ref()).map_err(|fault| faults.push(Fault::new(source.span(), fault))).ok()
    };
    plan.times = times.iter().filter_map(time).collect();
    for (name, one) in &read.fields {
        let Some(field) = field_of(name, &one.span(), schema, faults) else { continue };
        let raw = one.get_ref();
        if !raw.fields.is_empty() {
            faults.push(Fault::new(one.span(), "`fields` cannot stand within a field"));
        }
        plan.reading_of.insert(field, merged(raw, &plan.reading, faults));
        let dates = forms(raw, faults);
        if !dates.is_empty() {
            if !matches!(schema.fields.get(field).map(|field| &field.kind), Some(Kind::Date { .. })) {
                let span = raw.dates.iter().flatten().next().map_or(one.span(), Spanned::span);
                faults.push(Fault::new(span, format!("`dates` is stated for `{name}`, which is no date")));
            }
            plan.dates_of.insert(field, dates);
        }
    }
}

/// The language of month names and the zone of datetimes.
fn language_and_zone(raw: &RawRead, reading: &mut Reading, faults: &mut Vec<Fault>) {
    if let Some(language) = &raw.language {
        let tag = language.get_ref();
        match MonthNames::of(tag) {
            Some(_) if tag == "en" => reading.months = None,
            Some(months) => reading.months = Some(Arc::new(months)),
            None => {
                let message = format!("no month names are known for the language `{tag}`");
                let fault = Fault::new(language.span(), message);
                faults.push(fault.help(
                    "use the tag of a language of the Unicode CLDR, such as \"en\", \"de\" or \"pt-BR\"",
                ));
            }
        }
    }
    if let Some(zone) = &raw.zone {
        reading.zone = Zone::of(zone.get_ref());
        if reading.zone.is_none() {
            let fault = Fault::new(zone.span(), format!("`{}` is no time zone", zone.get_ref()));
            faults.push(fault.help("use a name of the IANA Time Zone Database, such as \"Europe/London\""));
        }
    }
}

fn forms(raw: &RawRead, faults: &mut Vec<Fault>) -> Vec<DatePattern> {
    let few = few_forms(raw.dates.as_deref().unwrap_or_default(), faults);
    let read = |source: &Spanned<String>| {
        DatePattern::new(source.get_ref())
            .map_err(|fault| faults.push(Fault::new(source.span(), fault.to_string())))
            .ok()
    };
    few.iter().filter_map(read).collect()
}

/// How cells are read: what is stated, over what stands for all.
fn merged(raw: &RawRead, over: &Reading, faults: &mut Vec<Fault>) -> Reading {
    let mut reading = over.clone();
    language_and_zone(raw, &mut reading, faults);
    let texts = |words: &[Spanned<String>]| {
        FoldedWords::new(words.iter().map(Spanned::get_ref).filter(|word| !word.trim().is_empty()))
    };
    if let Some(blank) = &raw.blank {
        reading.blank = texts(blank);
    }
    if let Some(clear) = &raw.clear {
        if clear.get_ref().trim().is_empty() {
            let fault = Fault::new(clear.span(), "the word that empties a field cannot be blank");
            faults.push(fault.help("a blank cell leaves the field as it is; use a word such as \"(empty)\""));
        }
        reading.clear = Some(clear.get_ref().trim().to_owned());
    }
    for (words, slot) in [(&raw.r#true, &mut reading.truth.yes), (&raw.r#false, &mut reading.truth.no)] {
        if let Some(words) = words {
            *slot = texts(words);
        }
    }
    let stated = raw.r#true.iter().chain(&raw.r#false).flatten();
    for word in stated {
        let text = word.get_ref().trim();
        if reading.truth.yes.holds(text) && reading.truth.no.holds(text) {
            let fault = Fault::new(word.span(), format!("`{text}` would be both yes and no"));
            faults.push(fault.help("state both `true` and `false`, without a word in common"));
        }
    }
    for word in raw.clear.iter().chain(raw.blank.iter().flatten()) {
        let text = word.get_ref().trim();
        if !text.is_empty() && reading.blank.holds(text) && reading.clears(text) {
            faults.push(Fault::new(word.span(), format!("`{text}` cannot both be blank and empty a field")));
            break;
        }
    }
    marks(raw, &mut reading, faults);
    if let Some(trim) = raw.trim {
        reading.trim = trim;
    }
    reading
}

fn marks(raw: &RawRead, reading: &mut Reading, faults: &mut Vec<Fault>) {
    if raw.decimal_mark.is_none() && raw.group_mark.is_none() {
        return;
    }
    let mut marks = reading.marks.unwrap_or_default();
    if let Some(mark) = &raw.decimal_mark {
        match mark.get_ref().as_str() {
            "." => marks.decimal = '.',
            "," => marks.decimal = ',',
            _ => faults.push(Fault::new(mark.span(), "a decimal mark is \".\" or \",\"")),
        }
    }
    if let Some(mark) = &raw.group_mark {
        marks.group = match mark.get_ref().as_str() {
            "" => Group::None,
            " " | "\u{A0}" | "\u{202F}" | "\u{2009}" => Group::Space,
            "space" | "no-break space" | "narrow no-break space" | "thin space" => Group::Space,
            "'" | "\u{2019}" | "apostrophe" => Group::Apostrophe,
            "." | "," => Group::Mark(if mark.get_ref() == "." { '.' } else { ',' }),
            _ => {
                let fault =
                    Fault::new(mark.span(), "a mark between thousands is \".\", \",\", \" \" or \"'\"");
                faults.push(fault);
                Group::None
            }
        };
    }
    if marks.group == Group::Mark(marks.decimal) {
        let span = raw.group_mark.as_ref().or(raw.decimal_mark.as_ref()).map_or(0..0, Spanned::span);
        let fault = Fault::new(span, "the decimal mark and the mark between thousands are the same");
        faults.push(fault.help("state both `decimal_mark` and `group_mark`"));
    }
    reading.marks = Some(marks);
}

/// The field of this name, or a fault with the nearest one.
fn field_of(
    name: &str,
    span: &std::ops::Range<usize>,
    schema: &RecordSchema,
    faults: &mut Vec<Fault>,
) -> Option<usize> {
    let found = schema.field(name);
    if found.is_none() {
        let fault = Fault::new(span.clone(), format!("the record has no field `{name}`"));
        let by_label = schema.fields.iter().find(|field| field.label == name).map(|field| &field.name);
        let names = schema.fields.iter().map(|field| (field.name.as_str(), &field.name));
        faults.push(match by_label.or_else(|| likeness::nearest(name, names)) {
            Some(near) => fault.help(format!("did you mean `{near}`?")),
            None => fault.help("use the `name` of a field, not its label"),
        });
    }
    found
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

/// Where the values of references come from. What cannot be followed yet is a fault: a plan is never obeyed in part.
fn references(raw: &RawPlan, schema: &RecordSchema, faults: &mut Vec<Fault>) -> Vec<ReferencePlan> {
    let mut references = Vec::new();
    if let Some(existing) = &raw.existing {
        let fault =
            Fault::new(existing.span(), "[existing] cannot be followed: existing records are not read yet");
        faults.push(fault.help("take [existing] out; the check then knows nothing of what the target holds"));
        let existing = existing.get_ref();
        let sources = [&existing.file, &existing.sqlite, &existing.postgres];
        one_source(sources, &existing.table, "[existing]", 0..0, faults);
    }
    for (name, reference) in &raw.references {
        let spot = reference.span();
        let reference = reference.get_ref();
        let what = format!("[references.{name}]");
        let targets: Vec<&str> =
            schema.fields.iter().filter_map(|field| field.stated.to.as_deref()).collect();
        if !targets.contains(&name.as_str()) {
            let fault = Fault::new(spot.clone(), format!("no field of the record refers to `{name}`"));
            faults.push(match likeness::nearest(name, targets.iter().map(|to| (*to, *to))) {
                Some(near) => fault.help(format!("did you mean `{near}`?")),
                None => fault,
            });
        }
        if let (Some(file), Some(column)) = (&reference.file, &reference.column) {
            references.push(ReferencePlan {
                name: name.clone(),
                file: file.get_ref().clone(),
                sheet: reference.sheet.clone(),
                column: column.get_ref().clone(),
                also_by: reference.also_by.clone().unwrap_or_default(),
            });
        }
        for database in [&reference.sqlite, &reference.postgres].into_iter().flatten() {
            let fault =
                Fault::new(database.span(), format!("{what} cannot be followed: databases are not read yet"));
            faults.push(fault.help("export the keys to a file, and name it with `file`"));
        }
        let sources = [&reference.file, &reference.sqlite, &reference.postgres];
        one_source(sources, &reference.table, &what, spot.clone(), faults);
        if reference.column.is_none() {
            let fault = Fault::new(spot, format!("{what} names no column"));
            faults.push(fault.help("add `column`, the one that holds the key"));
        }
    }
    references
}

fn one_source(
    sources: [&Option<Spanned<String>>; 3],
    table: &Option<Spanned<String>>,
    what: &str,
    spot: std::ops::Range<usize>,
    faults: &mut Vec<Fault>,
) {
    let [file, ..] = sources;
    match sources.into_iter().flatten().collect::<Vec<_>>().as_slice() {
        [] => {
            let fault = Fault::new(spot, format!("{what} names no source"));
            faults.push(fault.help("name one of `file`, `sqlite` and `postgres`"));
        }
        [_] => {}
        [_, second, ..] => faults.push(Fault::new(second.span(), format!("{what} names two sources"))),
    }
    if let (Some(_), Some(table)) = (file, table) {
        faults.push(Fault::new(table.span(), "a file has no `table`"));
    }
}

fn write(raw: &RawPlan, faults: &mut Vec<Fault>) -> Writing {
    let write = &raw.write;
    let usual = Writing::default();
    let dates = write.dates.as_ref().and_then(|source| {
        let pattern = DatePattern::new(source.get_ref());
        pattern.map_err(|fault| faults.push(Fault::new(source.span(), fault.to_string()))).ok()
    });
    let decimal_mark = match write.decimal_mark.as_ref().map(|mark| (mark.get_ref().as_str(), mark)) {
        Some((",", _)) => ',',
        None | Some((".", _)) => '.',
        Some((_, mark)) => {
            faults.push(Fault::new(mark.span(), "a decimal mark is \".\" or \",\""));
            '.'
        }
    };
    let delimiter = write.delimiter.as_ref().map_or(usual.delimiter, |delimiter| {
        delimiter_of(delimiter.get_ref()).unwrap_or_else(|| {
            faults.push(bad_delimiter(delimiter));
            usual.delimiter
        })
    });
    write.encoding.iter().for_each(|encoding| known_encoding(encoding, faults));
    Writing {
        labels: write.headings == Some(RawHeadings::Label),
        value_labels: write.values == Some(RawValues::Label),
        dates,
        decimal_mark,
        delimiter,
        encoding: write.encoding.as_ref().map_or(usual.encoding, |encoding| encoding.get_ref().clone()),
    }
}

fn tolerance(raw: &RawPlan, faults: &mut Vec<Fault>) -> Tolerance {
    let Some(stated) = &raw.gate.tolerate else { return Tolerance::default() };
    let read = match stated.get_ref() {
        Value::Integer(rows) => u64::try_from(*rows).ok().map(Tolerance::Rows),
        Value::String(text) => share(text.trim()),
        _ => None,
    };
    read.unwrap_or_else(|| {
        let fault = Fault::new(stated.span(), "not a share of the rows or a number of rows");
        faults.push(fault.help("write it as \"2%\" or 20"));
        Tolerance::default()
    })
}

/// `2%` or `0.5 %`, with up to four digits after the point; a text without a percent sign is a number of rows.
fn share(text: &str) -> Option<Tolerance> {
    let Some(percent) = text.strip_suffix('%') else { return text.parse().ok().map(Tolerance::Rows) };
    let (whole, part) = percent.trim().split_once('.').unwrap_or((percent.trim(), ""));
    let part_digits = (part.len() <= 4 && part.bytes().all(|b| b.is_ascii_digit())).then_some(part)?;
    let per_million = format!("{whole}{part_digits:0<4}").parse().ok()?;
    (per_million <= 1_000_000).then_some(Tolerance::PerMillion(per_million))
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
