//! The columns of a file and their fields, as a report names them.

use super::v1::{ColumnReport, Proposal};
use crate::finding::letter;
use crate::gate::Gate;
use crate::headings::{How, Paired};

/// In what a heading differs from the word by which it was paired.
fn but_for(gate: &Gate, column: usize) -> Option<String> {
    let Some(Paired::Field { field, how, exact }) = gate.pairing().columns.get(column) else { return None };
    let is_padded = gate.table().padded.get(column).copied().unwrap_or_default();
    if *exact {
        return is_padded.then(|| "a space beside it".to_owned());
    }
    let heading = gate.table().headings.get(column)?;
    let field = gate.schema().fields.get(*field)?;
    let words: Vec<&String> = match how {
        How::Name => vec![&field.name],
        How::Label => vec![&field.label],
        _ => field.also.iter().collect(),
    };
    let is_cased = words.iter().any(|word| word.to_lowercase() == heading.to_lowercase());
    Some(if is_cased { "case" } else { "punctuation" }.to_owned())
}

/// The columns and their fields; `filled` says how many cells of each hold something.
#[must_use]
pub fn columns(gate: &Gate, filled: &[u64]) -> Vec<ColumnReport> {
    let name =
        |field: &usize| gate.schema().fields.get(*field).map(|field| field.name.clone()).unwrap_or_default();
    let describe = |(index, paired): (usize, &Paired)| {
        let (field, how) = match paired {
            Paired::Field { field, how, .. } => (Some(name(field)), *how),
            Paired::Own | Paired::LeftOut => (None, How::LeftOut),
            Paired::Unknown { nearest } if !nearest.is_empty() => (None, How::Likeness),
            _ => (None, How::None),
        };
        let propose = |fields: &[usize], why: &str| {
            fields.iter().map(|field| Proposal { field: name(field), why: why.to_owned() }).collect()
        };
        let proposals = match paired {
            Paired::Unknown { nearest } => propose(nearest, "a heading like this one"),
            Paired::Unclear { fields } => propose(fields, "nearly this heading"),
            Paired::Shared { field, .. } => propose(&[*field], "claimed by several columns"),
            _ => Vec::new(),
        };
        ColumnReport {
            index: index + 1,
            letter: letter(index),
            heading: gate.table().headings.get(index).cloned().unwrap_or_default(),
            but_for: but_for(gate, index),
            sure: !matches!(how, How::None | How::Likeness | How::Content),
            field,
            how,
            proposals,
            filled: filled.get(index).copied().unwrap_or_default(),
        }
    };
    gate.pairing().columns.iter().enumerate().map(describe).collect()
}
