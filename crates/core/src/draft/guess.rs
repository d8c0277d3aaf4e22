//! From what a column holds to what a field asks, each guess with its evidence.

mod affix;
mod dates;
mod evidence;
mod key;
mod likely_kind;
mod month_names;
mod texts;

use super::model::{Draft, DraftField, DraftRequired};
use super::names;
use super::sample::{Column, MOST_VALUES, Sampled};
use crate::finding::letter;
use crate::headings::calls_a_key;
use crate::numerals::grouped;
use crate::schema::raw::KindName;
use crate::value::Date;
use dates::{dates, times};
use evidence::{ENOUGH, LIMITED, limits_said, shortened};
use key::{Candidate, name_key};
use likely_kind::{Guess, bound_number};
use texts::texts;

impl Sampled {
    /// The draft of the record whose rows these are.
    #[must_use]
    pub fn draft(&self, headings: &[String], record: &str, source: &str, today: Date) -> Draft {
        let mut draft = Draft { record: names::plain(record), ..Draft::default() };
        draft.remarks.push(format!("Drafted from {source}: {} rows.", grouped(self.rows)));
        draft.remarks.extend(self.left_out.iter().map(|left_out| {
            let what = if left_out.is_total { "a total" } else { "a note below the table" };
            let which = if left_out.is_last { ", the last one," } else { "" };
            format!("Row {}{which} looks like {what} and was left out.", grouped(left_out.row))
        }));
        let mut keys: Vec<Candidate> = Vec::new();
        for (number, (heading, column)) in headings.iter().zip(&self.columns).enumerate() {
            let heading: String = heading.trim().chars().filter(|c| !c.is_control()).collect();
            if heading.is_empty() {
                if column.filled > 0 {
                    let message =
                        format!("a column without a heading that holds {} values", grouped(column.filled));
                    draft.not_understood.push(message);
                }
                continue;
            }
            let repeats = column.repeats();
            let field =
                self.field(&heading, column, repeats.as_ref().is_none_or(|one| one.1 > 0), &mut draft, today);
            let is_key_like = !matches!(
                field.kind,
                KindName::Decimal | KindName::Boolean | KindName::Email | KindName::Phone
            );
            if is_key_like && column.filled > 0 && column.lengths.is_some_and(|lengths| lengths.1 <= 60) {
                let (rank, name) = (key::rank(&field, column), field.name.clone());
                keys.push(Candidate { number, rank, name, kind: field.kind, blank: column.blank, repeats });
            }
            draft.fields.push(field);
            if let (Some(field), Some(before)) = (draft.fields.last_mut(), headings.get(..number))
                && before.iter().any(|before| before.trim() == heading)
            {
                field.remarks.push(format!(
                    "LOOK: the heading repeats that of another column: [columns] of a plan says which is which, this one as \"@{}\"",
                    letter(number)
                ));
            }
        }
        name_key(self, keys, &mut draft);
        draft.settle();
        draft
    }

    fn field(
        &self,
        heading: &str,
        column: &Column,
        comes_again: bool,
        draft: &mut Draft,
        today: Date,
    ) -> DraftField {
        let mut field = DraftField::new(names::of_heading(heading), KindName::Text);
        field.label = Some(heading.to_owned());
        let filled = match (column.filled, column.blank) {
            (0, _) => "empty throughout".to_owned(),
            (_, 0) => "filled in every row".to_owned(),
            (filled, _) => format!("{} of {} filled", grouped(filled), grouped(self.rows)),
        };
        let distinct = match column.values().map(|values| values.len() as u64) {
            _ if column.filled == 0 => String::new(),
            _ if !comes_again && column.filled > 1 => ", all different".to_owned(),
            Some(1) => ", 1 value".to_owned(),
            Some(count) => format!(", {} values", grouped(count)),
            None => format!(", more than {} values", MOST_VALUES),
        };
        field.remarks.push(format!("{filled}{distinct}"));
        if column.filled == 0 {
            return field;
        }
        if column.blank == 0 && column.filled >= ENOUGH {
            field.required = DraftRequired::Always;
        }
        let guess = Guess::of(column, calls_a_key(heading));
        field.kind = guess.kind;
        say_misfits(&mut field, column, &guess);
        let is_evident = column.filled >= LIMITED && comes_again;
        if let Some(form) = guess.form {
            field.remarks.push(form.to_owned());
        }
        match guess.kind {
            KindName::Integer | KindName::Decimal => numbers(&mut field, &guess, is_evident),
            KindName::Date | KindName::Datetime => dates(&mut field, column, is_evident, today),
            KindName::Text => {
                // Amounts of money are no codes, however few there are.
                let around = column.around();
                let is_money = around.as_ref().is_some_and(|around| around.0.is_currency());
                let months =
                    column.months().and_then(|(words, count)| month_names::said(&words, count, column));
                let is_no_code = guess.form.is_some() || is_money || months.is_some();
                texts(&mut field, column, is_no_code, is_evident, draft);
                field.remarks.extend(around.map(|around| affix::said(around, column.filled)));
                field.remarks.extend(months);
            }
            KindName::Time => times(&mut field, column),
            KindName::Boolean => booleans(&mut field, column),
            _ => {}
        }
        if field.kind != KindName::Picklist && field.kind != KindName::Boolean {
            // What comes again shows the form, and no one record.
            let values = column.values().unwrap_or_default();
            let again = values.iter().find(|value| value.1 > 1 && value.0.chars().count() <= 60);
            field.example = again.map(|value| value.0.to_owned());
        }
        field
    }
}

/// Says which cells are of another kind.
fn say_misfits(field: &mut DraftField, column: &Column, guess: &Guess) {
    if guess.kind == KindName::Text
        && let Some((kind, count)) = guess.mostly
    {
        let first =
            guess.misfit.as_ref().map(|(row, text)| format!(", first \"{}\" in row {row}", shortened(text)));
        field.remarks.push(format!(
            "LOOK: taken for text, but {} of {} cells are of kind {kind}; the others are not{}",
            grouped(count),
            grouped(column.filled),
            first.unwrap_or_default()
        ));
    } else if guess.kind != KindName::Text
        && let Some((row, text)) = &guess.misfit
    {
        let count = column.filled - guess.fitting;
        field.remarks.push(format!(
            "LOOK: {} of {} cells are no {}, first \"{}\" in row {row}",
            grouped(count),
            grouped(column.filled),
            guess.kind.name(),
            shortened(text)
        ));
    }
}

fn numbers(field: &mut DraftField, guess: &Guess, is_evident: bool) {
    let (Some((_, low)), Some((_, high))) = (&guess.lowest, &guess.highest) else { return };
    field
        .remarks
        .push(format!("from {low} to {high}{}", limits_said(is_evident, "the range is rounded outwards")));
    if guess.has_comma {
        field
            .remarks
            .push("written with a decimal comma: a plan says so with decimal_mark = \",\"".to_owned());
    }
    if let Some((count, (row, text))) = &guess.decimals
        && field.kind == KindName::Decimal
        && count * 5 < guess.fitting
    {
        field.remarks.push(format!(
            "LOOK: only {} of {} have decimals, first \"{}\" in row {row}",
            grouped(*count),
            grouped(guess.fitting),
            shortened(text)
        ));
    }
    if !is_evident {
        return;
    }
    if field.kind == KindName::Decimal {
        field.digits = (None, Some(guess.digits.1));
    }
    let (low, high) = (bound_number(low), bound_number(high));
    field.range = (low.map(|low| rounded(low, false)), high.map(|high| rounded(high, true)));
}

/// The nearest round number above or below: 1, 2 or 5 with zeros; nought for small numbers that are not below it.
fn rounded(number: f64, up: bool) -> String {
    let outward_up = up == (number >= 0.0);
    let size = number.abs();
    if size == 0.0 || !outward_up && size < 10.0 {
        return "0".to_owned();
    }
    let power = 10_f64.powf(size.log10().floor());
    let steps = [1.0, 2.0, 5.0, 10.0].map(|step| step * power);
    let found = if outward_up {
        steps.into_iter().find(|step| *step >= size)
    } else {
        steps.into_iter().rev().find(|step| *step <= size)
    };
    let found = found.unwrap_or(size).round();
    // What is below one is rounded to one, or to nought.
    let found = if found == 0.0 && outward_up { 1.0 } else { found };
    format!("{}{found:.0}", if number < 0.0 && found != 0.0 { "-" } else { "" })
}

fn booleans(field: &mut DraftField, column: &Column) {
    let values = column.values().unwrap_or_default();
    let words: Vec<String> =
        values.iter().map(|(word, count)| format!("{} ({})", shortened(word), grouped(*count))).collect();
    field.remarks.push(words.join(", "));
}

/// A bound that somebody wrote, as a record schema takes it.
pub(super) fn bound(kind: KindName, text: &str) -> Option<String> {
    let text = text.trim();
    match kind {
        KindName::Integer => {
            crate::value::Number::integer(&text.replace([',', ' '], "")).map(|number| number.to_string())
        }
        KindName::Decimal => {
            crate::value::Number::decimal(&text.replace([',', ' '], "")).map(|number| number.to_string())
        }
        KindName::Date => {
            let is_today = text.eq_ignore_ascii_case("today");
            (is_today || Date::iso(text).is_some()).then(|| text.to_lowercase())
        }
        KindName::Duration => crate::value::Duration::read(text).map(|length| length.to_string()),
        _ => None,
    }
}
