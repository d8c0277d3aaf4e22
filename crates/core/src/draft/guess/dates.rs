//! What a column of days asks.

use super::likely_kind::Guess;
use crate::draft::model::DraftField;
use crate::draft::sample::Column;
use crate::numerals::grouped;
use crate::profile::{Class, form, half_day_form, twins_of};
use crate::schema::raw::KindName;
use crate::value::{Date, DatePattern, DateReading};

/// Drafts the forms and the range.
pub(super) fn dates(field: &mut DraftField, column: &Column, guess: &Guess, is_evident: bool, today: Date) {
    let (Some((_, low)), Some((_, high))) = (&guess.lowest, &guess.highest) else { return };
    let best = (0_u8..).zip(column.forms).max_by_key(|(number, count)| (*count, u8::MAX - number));
    let Some((best, count)) = best else { return };
    let all: u64 = column
        .classes()
        .iter()
        .filter(|class| matches!(class.0, Class::Date(_) | Class::Datetime(_)))
        .map(|class| class.1.count)
        .sum();
    let pattern = form(best);
    field.remarks.push(format!(
        "from {low} to {high}{}",
        if is_evident { "" } else { ": too little to go by for a limit" }
    ));
    if field.kind == KindName::Datetime {
        if pattern != "yyyy-MM-dd" {
            field.dates = moments(column, pattern);
            let forms = field.dates.join(" or ");
            field.remarks.push(format!("those that were looked at read as {forms}"));
        }
        return;
    }
    if pattern != "yyyy-MM-dd" {
        field.dates = vec![pattern.to_owned()];
        let share = if count == all {
            "all of them".to_owned()
        } else {
            format!("{} of {}", grouped(count), grouped(all))
        };
        field.remarks.push(format!("{share} read as {pattern}"));
    }
    other_forms(field, column, (best, pattern), (count, all));
    let read = |text: &str| {
        let day = text.split(['T', ' ']).next().unwrap_or(text);
        let pattern = DatePattern::new(pattern).ok()?;
        match pattern.read(day, today) {
            DateReading::Day { date, .. } => Some(date),
            _ => None,
        }
    };
    if let (true, Some(low), Some(high)) = (is_evident, read(low), read(high)) {
        field.range.0 = Some(format!("{:04}-01-01", low.year() / 10 * 10));
        if high <= today {
            field.range.1 = Some("today".to_owned());
            field
                .remarks
                .push("LOOK: none lies in the future: where one may, take max = \"today\" out".to_owned());
        }
    }
}

/// The forms of days with times of a column whose days have this form, by the cells that are remembered.
fn moments(column: &Column, pattern: &str) -> Vec<String> {
    let classes = column.classes();
    let seen = classes.iter().filter(|class| matches!(class.0, Class::Datetime(_))).map(|class| &class.1);
    let texts = seen.flat_map(|seen| [&seen.first.1, &seen.lowest, &seen.highest]);
    let times = texts.filter_map(|text| text.split_once(' ')).map(|(_, time)| time);
    different(times.map(|time| format!("{pattern} {}", time_form(time))))
}

/// Each of the forms once, in their order.
fn different(forms: impl Iterator<Item = String>) -> Vec<String> {
    forms.fold(Vec::new(), |mut known, form| {
        if !known.contains(&form) {
            known.push(form);
        }
        known
    })
}

/// The form of a time of day.
fn time_form(time: &str) -> String {
    if let Some(form) = half_day_form(time) {
        return form.to_owned();
    }
    let hours = if time.find(':') == Some(1) { "H" } else { "HH" };
    let seconds = if time.matches(':').count() > 1 { ":ss" } else { "" };
    format!("{hours}:mm{seconds}")
}

/// The forms of the times of a column, by the cells that are remembered; none where all are of twenty-four hours.
pub(super) fn times(column: &Column) -> Vec<String> {
    let classes = column.classes();
    if !classes.iter().any(|class| class.0 == Class::HalfDayTime) {
        return Vec::new();
    }
    let seen = classes.iter().filter(|class| matches!(class.0, Class::Time | Class::HalfDayTime));
    let texts = seen.flat_map(|class| [&class.1.first.1, &class.1.lowest, &class.1.highest]);
    different(texts.map(|text| time_form(text)))
}

/// The forms beside the best one: those that read its cells too, and those of the other cells.
fn other_forms(
    field: &mut DraftField,
    column: &Column,
    (best, pattern): (u8, &str),
    (count, all): (u64, u64),
) {
    let read_by = |number: u8| column.forms.get(usize::from(number)).copied().unwrap_or_default();
    let as_well = |number: u8, count: u64| {
        let twins = twins_of(number).into_iter().filter(|twin| read_by(*twin) == count);
        let twins: Vec<&str> = twins.map(form).collect();
        (!twins.is_empty()).then(|| format!("LOOK: they read as {} just as well", twins.join(" or ")))
    };
    field.remarks.extend(as_well(best, count));
    if count < all {
        for (number, other) in
            (0_u8..).zip(column.forms).filter(|(number, other)| *number != best && *other > 0)
        {
            // Days that read with day and month turned about, too, are not those of another form.
            let is_more =
                |twin: u8| twin == best || (read_by(twin), u8::MAX - twin) > (other, u8::MAX - number);
            if !twins_of(number).into_iter().any(is_more) && field.dates.len() < 4 {
                field.dates.push(form(number).to_owned());
                field.remarks.push(format!("{} read as {}", grouped(other), form(number)));
                field.remarks.extend(as_well(number, other));
            }
        }
        if !field.dates.is_empty() && !field.dates.iter().any(|one| one == pattern) {
            field.dates.insert(0, pattern.to_owned());
        }
    }
}
