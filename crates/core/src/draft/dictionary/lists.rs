//! Picklists that stand elsewhere in the workbook of a dictionary.

use crate::draft::model::DraftField;
use crate::headings::loose;
use crate::schema::ListSource;
use crate::schema::raw::KindName;

/// Picklists on other sheets of the workbook that holds the dictionary.
pub struct Lists<'a> {
    source: &'a mut dyn ListSource,
    file: &'a str,
}

/// A picklist that stands elsewhere.
pub(super) struct Elsewhere {
    pub(super) values: Vec<(String, Option<String>)>,
    pub(super) place: String,
}

impl<'a> Lists<'a> {
    /// Of the workbook of this name.
    pub fn of(file: &'a str, source: &'a mut dyn ListSource) -> Self {
        Self { source, file }
    }

    /// The values that a text points to: `Lists!A2:B9`, or a sheet by its name, or by that of the field.
    pub(super) fn elsewhere(&mut self, text: &str, field: &DraftField) -> Option<Elsewhere> {
        let text = text.trim().trim_start_matches('=');
        let label = field.label.as_deref().unwrap_or(&field.name);
        if let Some((sheet, range)) = text.rsplit_once('!') {
            let sheet = sheet.trim().trim_matches('\'').replace("\'\'", "\'");
            let ((first, top), (last, bottom)) = range_of(range)?;
            let table = self.source.table(self.file, Some(&sheet)).ok()?;
            // The row of headings is the first.
            let rows = [&table.headings].into_iter().chain(&table.rows).collect::<Vec<_>>();
            let rows = rows.into_iter().take(bottom).skip(top.saturating_sub(1));
            let values = pairs(rows, first, (last > first).then_some(first + 1));
            return Some(Elsewhere { values, place: text.to_owned() }).filter(|one| !one.values.is_empty());
        }
        if field.kind != KindName::Picklist && text.is_empty() || text.contains([';', ',', '|', '\n', '=']) {
            return None;
        }
        let words = text.strip_prefix("see ").unwrap_or(text);
        let words =
            words.strip_prefix("sheet ").or(words.strip_suffix(" sheet")).unwrap_or(words).trim_matches('"');
        let names = if text.is_empty() { vec![field.name.as_str(), label] } else { vec![words] };
        names.into_iter().find_map(|name| {
            let table = self.source.table(self.file, Some(name)).ok()?;
            let is_own =
                |heading: &String| [&field.name, label].iter().any(|name| loose(heading) == loose(name));
            let own = table.headings.iter().position(is_own);
            let label = (own.is_none() && table.headings.len() > 1).then_some(1);
            let values = pairs(table.rows.iter(), own.unwrap_or(0), label);
            Some(Elsewhere { values, place: format!("the sheet {name}") })
                .filter(|one| !one.values.is_empty())
        })
    }
}

/// The codes in one column, and the labels in another.
fn pairs<'r>(
    rows: impl Iterator<Item = &'r Vec<String>>,
    code: usize,
    label: Option<usize>,
) -> Vec<(String, Option<String>)> {
    let cell = |row: &'r Vec<String>, column: usize| {
        row.get(column).map(|cell| cell.trim().to_owned()).filter(|cell| !cell.is_empty())
    };
    rows.filter_map(|row| Some((cell(row, code)?, label.and_then(|label| cell(row, label))))).collect()
}

/// A range of cells as columns from nought and rows from one, each from and to.
fn range_of(text: &str) -> Option<((usize, usize), (usize, usize))> {
    let one = |text: &str| {
        let text = text.trim().replace('$', "");
        let letters = text.bytes().take_while(u8::is_ascii_alphabetic).count();
        let (letters, digits) = text.split_at_checked(letters)?;
        let column = letters.bytes().try_fold(0_usize, |sum, byte| {
            sum.checked_mul(26)?.checked_add(usize::from(byte.to_ascii_uppercase() - b'A') + 1)
        })?;
        Some((column.checked_sub(1)?, if digits.is_empty() { None } else { Some(digits.parse().ok()?) }))
    };
    let (from, to) = text.split_once(':').unwrap_or((text, text));
    let ((first, top), (last, bottom)) = (one(from)?, one(to)?);
    // A whole column begins with its heading.
    Some(((first, top.unwrap_or(2)), (last, bottom.unwrap_or(usize::MAX))))
}
