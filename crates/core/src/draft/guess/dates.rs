//! What a column of days asks.

use crate::draft::model::DraftField;
use crate::draft::sample::Column;
use crate::numerals::grouped;
use crate::profile::{COMPACT, Class, day_and_time, form, time_form, twins_of};
use crate::schema::raw::KindName;
use crate::value::{Date, DatePattern, DateReading};

/// Drafts the forms and the range.
pub(super) fn dates(field: &mut DraftField, column: &Column, is_evident: bool, today: Date) {
    let best = (0_u8..).zip(column.forms).max_by_key(|(number, count)| (*count, u8::MAX - number));
    let Some((best, count)) = best else { return };
    let all: u64 = column
        .classes()
        .iter()
        .filter(|class| matches!(class.0, Class::Date(_) | Class::Datetime(_)))
        .map(|class| class.1.count)
        .sum();
    let pattern = form(best);
    let Some(span) = Span::of(column, best, today) else { return };
    let (low, high) = (&span.low.1, &span.high.1);
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
    if best == COMPACT {
        let look = "LOOK: days without marks, or numbers that look like them: then kind = \"integer\", without dates";
        field.remarks.push(look.to_owned());
    }
    other_forms(field, column, (best, pattern), (count, all));
    if is_evident {
        field.range.0 = Some(format!("{:04}-01-01", span.low.0.year() / 10 * 10));
        if span.high.0 <= today && !span.may_be_later {
            field.range.1 = Some("today".to_owned());
            field
                .remarks
                .push("LOOK: none lies in the future: where one may, take max = \"today\" out".to_owned());
        }
    }
}

/// From when to when the days of a column go, with the texts of both.
struct Span {
    low: (Date, String),
    high: (Date, String),
    /// Whether there may be later ones in the last year: of days that read with day and month turned about, too, the
    /// extremes were told by another form.
    may_be_later: bool,
}

impl Span {
    /// By the form that reads most of them, and each of the others by its own.
    fn of(column: &Column, best: u8, today: Date) -> Option<Self> {
        let read = |text: &str, number: u8| {
            let pattern = DatePattern::new(form(number)).ok()?;
            let day = |text: &str| match pattern.read(text, today) {
                DateReading::Day { date, .. } => Some(date),
                _ => None,
            };
            day(text).or_else(|| day(day_and_time(text)?.0))
        };
        let mut span: Option<Self> = None;
        for (class, seen) in column.classes() {
            let (Class::Date(own) | Class::Datetime(own)) = class else { continue };
            for text in [&seen.lowest, &seen.highest] {
                let Some(date) = read(text, best).or_else(|| read(text, own)) else { continue };
                let this = || (date, text.clone());
                let span =
                    span.get_or_insert_with(|| Self { low: this(), high: this(), may_be_later: false });
                if date < span.low.0 {
                    span.low = this();
                }
                if date > span.high.0 {
                    span.high = this();
                }
                span.may_be_later |= own != best && date.year() == today.year();
            }
        }
        span
    }
}

/// The forms of days with times of a column whose days have this form, by the cells that are remembered.
fn moments(column: &Column, pattern: &str) -> Vec<String> {
    let classes = column.classes();
    let seen = classes.iter().filter(|class| matches!(class.0, Class::Datetime(_))).map(|class| &class.1);
    let texts = seen.flat_map(|seen| [&seen.first.1, &seen.lowest, &seen.highest]);
    let times = texts.filter_map(|text| day_and_time(text)).map(|(_, time)| time);
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

/// Drafts the forms of times, by the cells that are remembered; none where all are of twenty-four hours.
pub(super) fn times(field: &mut DraftField, column: &Column) {
    let classes = column.classes();
    if !classes.iter().any(|class| class.0 == Class::FormedTime) {
        return;
    }
    let seen = classes.iter().filter(|class| matches!(class.0, Class::Time | Class::FormedTime));
    let texts = seen.flat_map(|class| [&class.1.first.1, &class.1.lowest, &class.1.highest]);
    field.dates = different(texts.map(|text| time_form(text)));
    if field.dates.iter().any(|form| form.contains('\'')) {
        let look =
            "LOOK: times of day, or lengths of time: then kind = \"text\" takes those of a day and more";
        field.remarks.push(look.to_owned());
    }
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
