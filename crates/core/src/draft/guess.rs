//! From what a column holds to what a field asks, each guess with its evidence.

use super::sample::{Column, Sampled, Seen};
use super::{Draft, DraftField, DraftRequired, names};
use crate::gate::grouped;
use crate::profile::{Class, form, twins_of};
use crate::schema::raw::KindName;
use crate::value::Date;

/// From so many in a hundred cells on a kind is taken; those that do not fit are said.
const TAKEN: u64 = 95;
/// With fewer rows nothing is said of what must be filled.
const ENOUGH: u64 = 10;

impl Sampled {
    /// The draft of the record whose rows these are.
    #[must_use]
    pub fn draft(&self, headings: &[String], record: &str, source: &str, today: Date) -> Draft {
        let mut draft = Draft { record: names::plain(record), ..Draft::default() };
        draft.remarks.push(format!("Drafted from {source}: {} rows.", grouped(self.rows)));
        let mut keys: Vec<(usize, String, String)> = Vec::new();
        for (heading, column) in headings.iter().zip(&self.columns) {
            let heading: String = heading.trim().chars().filter(|c| !c.is_control()).collect();
            if heading.is_empty() {
                if column.filled > 0 {
                    let message =
                        format!("a column without a heading that holds {} values", grouped(column.filled));
                    draft.not_understood.push(message);
                }
                continue;
            }
            let field = self.field(&heading, column, &mut draft, today);
            if column.is_unique() && matches!(field.kind, KindName::Text | KindName::Integer | KindName::Uuid)
            {
                let rank = key_rank(&field, column);
                keys.push((rank, field.name.clone(), heading.clone()));
            }
            draft.fields.push(field);
        }
        keys.sort_by_key(|key| key.0);
        match keys.as_slice() {
            [] if self.rows > 1 => {
                let says =
                    "no column is filled and different in every row: name the key, perhaps of several fields";
                draft.key_remarks.push(says.to_owned());
            }
            [] => {}
            [(_, name, _), others @ ..] => {
                draft.key = vec![name.clone()];
                draft
                    .key_remarks
                    .push(format!("filled and different in each of {} rows", grouped(self.rows)));
                if !others.is_empty() {
                    let others: Vec<&str> = others.iter().map(|other| other.1.as_str()).collect();
                    draft.key_remarks.push(format!("so are: {}", others.join(", ")));
                }
            }
        }
        draft.settle();
        draft
    }

    fn field(&self, heading: &str, column: &Column, draft: &mut Draft, today: Date) -> DraftField {
        let mut field = DraftField::new(names::of_heading(heading), KindName::Text);
        field.label = Some(heading.to_owned());
        let filled = match (column.filled, column.blank) {
            (0, _) => "empty throughout".to_owned(),
            (_, 0) => "filled in every row".to_owned(),
            (filled, _) => format!("{} of {} filled", grouped(filled), grouped(self.rows)),
        };
        let distinct = match column.values().map(|values| values.len() as u64) {
            _ if column.filled == 0 => String::new(),
            _ if column.is_unique() => ", all different".to_owned(),
            Some(1) => ", 1 value".to_owned(),
            Some(count) => format!(", {} values", grouped(count)),
            None => format!(", more than {} values", super::sample::MOST_VALUES),
        };
        field.remarks.push(format!("{filled}{distinct}"));
        if column.filled == 0 {
            return field;
        }
        if column.blank == 0 && column.filled >= ENOUGH {
            field.required = DraftRequired::Always;
        }
        let guess = Guess::of(column);
        field.kind = guess.kind;
        if let Some((row, text)) = &guess.misfit {
            let count = column.filled - guess.fitting;
            field.remarks.push(format!(
                "LOOK: {} of {} cells are no {}, first \"{}\" in row {row}",
                grouped(count),
                grouped(column.filled),
                guess.kind.name(),
                shortened(text)
            ));
        }
        match guess.kind {
            KindName::Integer | KindName::Decimal => numbers(&mut field, &guess),
            KindName::Date | KindName::Datetime => dates(&mut field, column, &guess, today),
            KindName::Text => texts(&mut field, column, draft),
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

/// The likely kind of a column.
struct Guess {
    kind: KindName,
    fitting: u64,
    misfit: Option<(u64, String)>,
    /// The extremes, with their classes.
    lowest: Option<(Class, String)>,
    highest: Option<(Class, String)>,
    digits: (u32, u32),
    has_comma: bool,
}

impl Guess {
    fn of(column: &Column) -> Self {
        use Class::{Boolean, CommaDecimal, Decimal, Email, Integer, Time, Url, Uuid};
        let classes = column.classes();
        let of = |is_meant: &dyn Fn(Class) -> bool| {
            classes.iter().filter(|class| is_meant(class.0)).map(|class| class.1.count).sum::<u64>()
        };
        type Meant = fn(Class) -> bool;
        let kinds: [(KindName, Meant); 10] = [
            (KindName::Integer, |class| class == Integer),
            (KindName::Decimal, |class| matches!(class, Integer | Decimal)),
            (KindName::Decimal, |class| matches!(class, Integer | CommaDecimal)),
            (KindName::Date, |class| matches!(class, Class::Date(_))),
            (KindName::Datetime, |class| matches!(class, Class::Date(_) | Class::Datetime(_))),
            (KindName::Time, |class| class == Time),
            (KindName::Boolean, |class| class == Boolean),
            (KindName::Email, |class| class == Email),
            (KindName::Url, |class| class == Url),
            (KindName::Uuid, |class| class == Uuid),
        ];
        let found = kinds.iter().find(|(_, is_meant)| of(is_meant) * 100 >= column.filled * TAKEN);
        let Some((kind, is_meant)) = found else {
            return Self {
                kind: KindName::Text,
                fitting: column.filled,
                misfit: None,
                lowest: None,
                highest: None,
                digits: (0, 0),
                has_comma: false,
            };
        };
        let (fitting, rest): (Vec<(Class, &Seen)>, Vec<_>) =
            classes.iter().partition(|class| is_meant(class.0));
        let is_less = |one: &str, other: &str| match (bound_number(one), bound_number(other)) {
            (Some(one), Some(other)) => one < other,
            _ => one < other,
        };
        let mut guess = Self {
            kind: *kind,
            fitting: of(is_meant),
            misfit: rest.iter().map(|(_, seen)| seen.first.clone()).min_by_key(|first| first.0),
            lowest: None,
            highest: None,
            digits: (0, 0),
            has_comma: fitting.iter().any(|class| class.0 == CommaDecimal),
        };
        for (class, seen) in fitting {
            if guess.lowest.as_ref().is_none_or(|low| is_less(&seen.lowest, &low.1)) {
                guess.lowest = Some((class, seen.lowest.clone()));
            }
            if guess.highest.as_ref().is_none_or(|high| is_less(&high.1, &seen.highest)) {
                guess.highest = Some((class, seen.highest.clone()));
            }
            guess.digits = (guess.digits.0.max(seen.digits.0), guess.digits.1.max(seen.digits.1));
        }
        guess
    }
}

fn bound_number(text: &str) -> Option<f64> {
    text.replace(',', ".").parse().ok()
}

fn numbers(field: &mut DraftField, guess: &Guess) {
    let (Some((_, low)), Some((_, high))) = (&guess.lowest, &guess.highest) else { return };
    field.remarks.push(format!("from {low} to {high}: the range is rounded outwards"));
    if guess.has_comma {
        field
            .remarks
            .push("written with a decimal comma: a plan says so with decimal_mark = \",\"".to_owned());
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

fn dates(field: &mut DraftField, column: &Column, guess: &Guess, today: Date) {
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
    field.remarks.push(format!("from {low} to {high}"));
    if field.kind == KindName::Datetime {
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
    let others: Vec<&str> = twins_of(best)
        .into_iter()
        .filter(|twin| column.forms.get(usize::from(*twin)).is_some_and(|other| *other == count))
        .map(form)
        .collect();
    if !others.is_empty() {
        field.remarks.push(format!("LOOK: they read as {} just as well", others.join(" or ")));
    }
    if count < all {
        for (number, other) in
            (0_u8..).zip(column.forms).filter(|(number, other)| *number != best && *other > 0)
        {
            if !twins_of(best).contains(&number) && field.dates.len() < 4 {
                field.dates.push(form(number).to_owned());
                field.remarks.push(format!("{} read as {}", grouped(other), form(number)));
            }
        }
        if !field.dates.is_empty() && !field.dates.iter().any(|one| one == pattern) {
            field.dates.insert(0, pattern.to_owned());
        }
    }
    let read = |text: &str| {
        let day = text.split(['T', ' ']).next().unwrap_or(text);
        let pattern = crate::value::DatePattern::new(pattern).ok()?;
        match pattern.read(day, today) {
            crate::value::DateReading::Day { date, .. } => Some(date),
            _ => None,
        }
    };
    if let (Some(low), Some(high)) = (read(low), read(high)) {
        field.range.0 = Some(format!("{:04}-01-01", low.year() / 10 * 10));
        if high <= today {
            field.range.1 = Some("today".to_owned());
        }
    }
}

fn booleans(field: &mut DraftField, column: &Column) {
    let values = column.values().unwrap_or_default();
    let words: Vec<String> =
        values.iter().map(|(word, count)| format!("{} ({})", shortened(word), grouped(*count))).collect();
    field.remarks.push(words.join(", "));
}

/// Text: a picklist where few values come again and again, else its form and its length.
fn texts(field: &mut DraftField, column: &Column, draft: &mut Draft) {
    if let Some((mark, parts)) = parted(column) {
        field.remarks.push(format!("several values with \"{mark}\" between, {} of them", parts.len()));
        let values = parts.into_iter().map(|part| (part, None)).collect();
        field.picklist = Some(draft.list(&field.name.clone(), values));
        field.kind = KindName::Picklist;
        field.many = Some((mark.to_string(), None));
        return;
    }
    let is_short = column.lengths.is_some_and(|lengths| lengths.1 <= 32);
    if let Some(values) = column.values()
        && is_short
    {
        let is_coded = column.classes().iter().all(|class| matches!(class.0, Class::Integer | Class::Code));
        if values.len() <= 60 && values.len() as u64 * 4 <= column.filled && !is_coded && values.len() > 1 {
            return listed(field, &values, draft);
        }
    }
    if let Some(pattern) = column.places().filter(|_| column.filled >= ENOUGH).and_then(pattern) {
        field.remarks.push("every value has this form".to_owned());
        field.pattern = Some(pattern);
        return;
    }
    if let Some((least, most)) = column.lengths {
        let steps = [1, 2, 5, 10, 20, 50, 100, 200, 255, 500, 1_000, 2_000, 4_000, 10_000, 32_000];
        let max = steps.into_iter().find(|step| *step >= most);
        field.remarks.push(format!("{} to {} characters", grouped(least), grouped(most)));
        field.length.1 = max.and_then(|max| u32::try_from(max).ok());
    }
}

fn listed(field: &mut DraftField, values: &[(&str, u64)], draft: &mut Draft) {
    let rare: Vec<String> = values
        .iter()
        .filter(|value| value.1 == 1)
        .map(|value| format!("\"{}\"", shortened(value.0)))
        .collect();
    if !rare.is_empty() && rare.len() <= 8 {
        field.remarks.push(format!("LOOK: only once each: {}", rare.join(", ")));
    }
    let mut sorted: Vec<&(&str, u64)> = values.iter().collect();
    sorted.sort_by_key(|value| value.0);
    let codes = sorted.iter().map(|value| (value.0.to_owned(), None)).collect();
    field.kind = KindName::Picklist;
    field.picklist = Some(draft.list(&field.name.clone(), codes));
}

/// The mark between the values of cells that hold several, and the different parts.
fn parted(column: &Column) -> Option<(char, Vec<String>)> {
    let values = column.values()?;
    let marks = [';', '|'].into_iter().zip(column.parted);
    let (mark, _) = marks.filter(|(_, count)| *count > 0).max_by_key(|(_, count)| *count)?;
    let with_mark: u64 = values.iter().filter(|value| value.0.contains(mark)).map(|value| value.1).sum();
    let mut parts: Vec<String> = Vec::new();
    for (value, _) in &values {
        for part in value.split(mark).map(str::trim).filter(|part| !part.is_empty()) {
            if !parts.iter().any(|known| known == part) {
                parts.push(part.to_owned());
            }
        }
    }
    parts.sort();
    let is_list = with_mark * 10 >= column.filled
        && parts.len() <= 40
        && parts.len() < values.len().max(2)
        && parts.iter().all(|part| part.chars().count() <= 40);
    is_list.then_some((mark, parts))
}

/// The pattern of values of one length: what never changes, digits, letters; only where digits are among them.
fn pattern(places: &[(u8, u8)]) -> Option<String> {
    let class = |&(low, high): &(u8, u8)| {
        if low == high && !low.is_ascii_digit() {
            let c = char::from(low);
            return Some(if r"\.+*?()|[]{}^$".contains(c) { format!("\\{c}") } else { c.to_string() });
        }
        let within = |from: u8, to: u8| low >= from && high <= to;
        if within(b'0', b'9') {
            Some("[0-9]".to_owned())
        } else if within(b'A', b'Z') {
            Some("[A-Z]".to_owned())
        } else if within(b'a', b'z') {
            Some("[a-z]".to_owned())
        } else {
            None
        }
    };
    let parts: Vec<String> = places.iter().map(class).collect::<Option<_>>()?;
    if !parts.iter().any(|part| part == "[0-9]") {
        return None;
    }
    let mut pattern = String::new();
    for run in parts.chunk_by(|one, other| one == other && one.starts_with('[')) {
        let [first, ..] = run else { continue };
        pattern.push_str(first);
        if run.len() > 1 {
            pattern.push_str(&format!("{{{}}}", run.len()));
        }
    }
    Some(pattern)
}

/// Columns that look like identifiers come first; then those on the left.
fn key_rank(field: &DraftField, column: &Column) -> usize {
    let name = field.name.to_lowercase();
    let words = ["id", "key", "code", "no", "number", "tag", "ref", "uuid"];
    let is_named =
        name.split(|c: char| !c.is_alphanumeric()).any(|word| words.contains(&word)) || name.ends_with("id");
    match (is_named, field.pattern.is_some() || field.kind != KindName::Text) {
        (true, true) => 0,
        (true, false) => 1,
        (false, true) => 2,
        (false, false) => 3 + usize::from(column.lengths.is_some_and(|lengths| lengths.1 > 40)),
    }
}

fn shortened(text: &str) -> String {
    let short: String = text.chars().take(40).map(|c| if c.is_control() { ' ' } else { c }).collect();
    if text.chars().count() > 40 { format!("{short}…") } else { short }
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
        _ => None,
    }
}
