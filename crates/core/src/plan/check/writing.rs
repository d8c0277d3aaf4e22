//! How ready files are written.

use super::fields::field_of;
use super::layout::{bad_delimiter, delimiter_of, known_encoding};
use crate::fault::Fault;
use crate::plan::raw::{RawHeadings, RawLineEnd, RawPlan, RawQuote, RawValues};
use crate::plan::stated::{LineEnd, Writing, WrittenColumn};
use crate::schema::RecordSchema;
use crate::value::DatePattern;
use toml::Spanned;

pub(super) fn write(raw: &RawPlan, schema: &RecordSchema, faults: &mut Vec<Fault>) -> Writing {
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
        like: write.like.clone(),
        columns: write.columns.as_ref().map(|columns| written_columns(columns, schema, faults)),
        truth: match (&write.r#true, &write.r#false) {
            (None, None) => None,
            (yes, no) => Some((
                yes.clone().unwrap_or_else(|| "true".to_owned()),
                no.clone().unwrap_or_else(|| "false".to_owned()),
            )),
        },
        line_end: match write.line_end {
            None | Some(RawLineEnd::Lf) => LineEnd::Lf,
            Some(RawLineEnd::Crlf) => LineEnd::CrLf,
            Some(RawLineEnd::Cr) => LineEnd::Cr,
        },
        quotes_all: write.quote == Some(RawQuote::All),
        stated: stated_keys(raw),
    }
}

/// The columns of ready files: names of fields, or nothing for a blank one.
fn written_columns(
    columns: &[Spanned<String>],
    schema: &RecordSchema,
    faults: &mut Vec<Fault>,
) -> Vec<WrittenColumn> {
    let mut found: Vec<WrittenColumn> = Vec::new();
    for column in columns {
        let name = column.get_ref();
        if name.is_empty() {
            found.push(WrittenColumn { heading: Some(String::new()), field: None });
            continue;
        }
        let field = field_of(name, &column.span(), schema, faults);
        if field.is_some() && found.iter().any(|known| known.field == field) {
            faults.push(Fault::new(column.span(), format!("`{name}` stands twice in `columns`")));
        }
        found.push(WrittenColumn { heading: None, field });
    }
    found
}

/// The keys that are stated, which no export overrides.
fn stated_keys(raw: &RawPlan) -> Vec<&'static str> {
    let write = &raw.write;
    let keys = [
        ("headings", write.headings.is_some()),
        ("dates", write.dates.is_some()),
        ("decimal_mark", write.decimal_mark.is_some()),
        ("delimiter", write.delimiter.is_some()),
        ("encoding", write.encoding.is_some()),
        ("columns", write.columns.is_some()),
        ("truth", write.r#true.is_some() || write.r#false.is_some()),
        ("line_end", write.line_end.is_some()),
        ("quote", write.quote.is_some()),
    ];
    keys.into_iter().filter_map(|(key, is_stated)| is_stated.then_some(key)).collect()
}
