//! What a record schema would refuse is taken out of a draft, and said: so that what is drafted can be read.

use super::model::{Draft, DraftField, DraftList, DraftRequired};
use super::names;
use crate::headings::loose;
use crate::schema::raw::KindName;
use crate::value::{
    Date, DatePattern, DateReading, Duration, Moment, Number, Pattern, TimeOfDay, email, truth,
};
use std::collections::HashSet;

impl Draft {
    /// Takes out what a record schema would refuse, and says so: so that what is drafted can be read.
    pub fn settle(&mut self) {
        self.settle_names();
        self.settle_fields();
        for field in &mut self.fields {
            let Some(default) = field.default.take() else { continue };
            if is_sound_default(field, &self.picklists, &default) {
                field.default = Some(default);
            } else {
                let remark = format!(
                    "the default {default} was left out: it is no value of kind {}",
                    field.kind.name()
                );
                field.remarks.push(remark);
            }
        }
        // A field that is described twice may be named twice.
        once(&mut self.key);
        self.unique.iter_mut().for_each(once);
        let names: HashSet<String> = self.fields.iter().map(|field| field.name.clone()).collect();
        let is_there = |name: &String| names.contains(name);
        if !self.key.iter().all(is_there) {
            self.not_understood
                .push(format!("the key names a field that is not there: {}", self.key.join(", ")));
            self.key.clear();
        }
        self.unique.retain(|unique| unique.iter().all(is_there) && *unique != self.key && !unique.is_empty());
        let of_lines = self.lines.as_ref().map(|lines| lines.1.as_slice()).unwrap_or_default();
        let keys: HashSet<&String> = self.key.iter().chain(of_lines).collect();
        for field in self.fields.iter_mut().filter(|field| keys.contains(&field.name)) {
            field.default = None;
            field.required = DraftRequired::Always;
            if std::mem::take(&mut field.read_only) {
                let remark =
                    "LOOK: the target makes it, but it is a part of the key, by which a load finds records";
                field.remarks.push(remark.to_owned());
            }
        }
        self.settle_lists();
    }

    /// A name holds nothing that is not seen: SQL and JSON permit line breaks and control characters in theirs.
    fn settle_names(&mut self) {
        let is_unseen = |name: &String| name.contains(char::is_control);
        for field in self.fields.iter_mut().filter(|field| is_unseen(&field.name)) {
            field.remarks.push("LOOK: its name there holds characters that are not seen".to_owned());
        }
        let lines = self.lines.iter_mut().flat_map(|lines| &mut lines.1);
        let uniques = self.unique.iter_mut().flatten();
        let fields = self.fields.iter_mut().map(|field| &mut field.name);
        for name in fields.chain(&mut self.key).chain(uniques).chain(lines).filter(|name| is_unseen(name)) {
            let seen = name.replace(char::is_control, " ");
            *name = seen.split_whitespace().collect::<Vec<_>>().join(" ");
        }
        for field in &mut self.fields {
            field.also.retain(|also| !is_unseen(also));
            field.label = field.label.take().filter(|label| !is_unseen(label));
        }
    }

    /// Every field has a name and a label of its own, and rules that its kind has.
    fn settle_fields(&mut self) {
        let mut seen: HashSet<String> = HashSet::new();
        let mut labels: HashSet<String> = HashSet::new();
        for field in &mut self.fields {
            if field.name.trim().is_empty() {
                field.name = "field".to_owned();
                field.remarks.push("LOOK: it has no name there".to_owned());
            }
            let bare = loose(&field.name);
            if seen.contains(&bare) {
                let taken: Vec<&str> = seen.iter().map(String::as_str).collect();
                let free = names::free(&field.name, &taken);
                field.remarks.push(format!("its name {} stands twice: here it is {free}", field.name));
                field.name = free;
            }
            seen.insert(loose(&field.name));
            let label = field.label.as_deref().map(loose);
            if label.as_ref().is_some_and(|label| labels.contains(label)) {
                field.remarks.push("its label stands twice; it was left out".to_owned());
                field.label = None;
            }
            labels.extend(label);
            field.also.retain(|also| !also.trim().is_empty());
            field.also.dedup();
            settle_rules(field);
        }
    }

    /// Every list has codes and labels of its own, or is open.
    fn settle_lists(&mut self) {
        for list in &mut self.picklists {
            let mut codes = HashSet::new();
            list.values.retain(|(code, _)| !code.trim().is_empty() && codes.insert(code.clone()));
            let mut labels: HashSet<String> = HashSet::new();
            for (_, label) in &mut list.values {
                if label.as_ref().is_some_and(|label| labels.contains(label) || label.trim().is_empty()) {
                    *label = None;
                }
                labels.extend(label.clone());
            }
        }
        let empty: Vec<String> = self
            .picklists
            .iter()
            .filter(|list| list.values.is_empty() && !list.open)
            .map(|list| list.name.clone())
            .collect();
        for list in self.picklists.iter_mut().filter(|list| empty.contains(&list.name)) {
            list.open = true;
            list.remarks.push("its values are not known: it is left open until they are given".to_owned());
        }
    }
}

/// Each name where it stands first.
fn once(names: &mut Vec<String>) {
    let mut seen = HashSet::new();
    names.retain(|name| seen.insert(name.clone()));
}

/// Drops rules that contradict each other or that their kind does not have.
fn settle_rules(field: &mut DraftField) {
    let kind = field.kind;
    let mut drop_rule = |is_wrong: bool, what: &str| {
        if is_wrong {
            field
                .remarks
                .push(format!("{what} was left out: it does not go with kind {}", field.kind.name()));
        }
        is_wrong
    };
    if drop_rule(field.pattern.is_some() && !kind.takes("pattern"), "a pattern") {
        field.pattern = None;
    }
    if drop_rule(field.length != (None, None) && !kind.takes("length"), "a length") {
        field.length = (None, None);
    }
    if drop_rule(field.range != (None, None) && !kind.takes("range"), "a range") {
        field.range = (None, None);
    }
    if !kind.takes("digits") {
        field.digits = (None, None);
    }
    if !kind.takes("dates") && !kind.takes("times") {
        field.dates.clear();
    }
    if drop_rule(field.many.is_some() && !kind.takes("many"), "several values") {
        field.many = None;
    }
    if let Some(pattern) = &field.pattern
        && let Err(error) = Pattern::new(pattern)
    {
        field.remarks.push(format!("its pattern {pattern} cannot be read here: {error}"));
        field.pattern = None;
    }
    if let (Some(min), Some(max)) = field.length
        && min > max
    {
        field.length = (None, Some(max));
    }
    settle_range(field);
    if field.kind == KindName::Reference && field.to.is_none() {
        field
            .remarks
            .push("which record it refers to is not known: the name of the field stands for it".to_owned());
        field.to = Some(names::plain(&field.name));
    }
    if field.kind == KindName::Picklist && field.picklist.is_none() {
        field.remarks.push("its values are not known: taken for text".to_owned());
        (field.kind, field.many) = (KindName::Text, None);
    }
}

/// Drops ends of the range that are no values, and a range that is upside down.
fn settle_range(field: &mut DraftField) {
    use KindName::{Date, Decimal, Integer};
    let forms: Vec<_> = field.dates.iter().filter_map(|form| DatePattern::new(form).ok()).collect();
    for slot in [&mut field.range.0, &mut field.range.1] {
        let Some(end) = slot.take() else { continue };
        *slot = sound_bound(field.kind, &end, &forms);
        if slot.is_none() {
            field
                .remarks
                .push(format!("the bound {end} was left out: it is no value of kind {}", field.kind.name()));
        }
    }
    let number = |end: &Option<String>| end.as_ref().and_then(|end| end.parse::<f64>().ok());
    let is_upside_down = match field.kind {
        Integer | Decimal => number(&field.range.0) > number(&field.range.1) && field.range.1.is_some(),
        Date => {
            field.range.1.as_deref().is_some_and(|max| max != "today" && field.range.0.as_deref() > Some(max))
        }
        KindName::Time => is_above(&field.range, TimeOfDay::iso),
        KindName::Datetime => is_above(&field.range, |end| Some(Moment::iso(end)?.instant())),
        KindName::Duration => is_above(&field.range, Duration::read),
        _ => false,
    };
    if is_upside_down {
        field.remarks.push("its range was upside down, and was left out".to_owned());
        field.range = (None, None);
    }
}

/// Whether the lower end of a range lies above the upper one.
fn is_above<T: PartialOrd>(
    (min, max): &(Option<String>, Option<String>),
    read: fn(&str) -> Option<T>,
) -> bool {
    let value = |end: &Option<String>| read(end.as_deref()?);
    value(min).zip(value(max)).is_some_and(|(min, max)| min > max)
}

/// A bound as a record schema takes it: numbers plain, days ISO.
fn sound_bound(kind: KindName, end: &str, forms: &[DatePattern]) -> Option<String> {
    match kind {
        KindName::Integer => end.parse::<i64>().ok().map(|number| number.to_string()),
        KindName::Decimal => {
            end.parse::<f64>().ok().filter(|number| number.is_finite()).map(|_| end.to_owned())
        }
        KindName::Date => {
            let today = Date::new(2000, 1, 1)?;
            let read = forms.iter().find_map(|form| match form.read(end, today) {
                DateReading::Day { date, .. } => Some(date.to_string()),
                _ => None,
            });
            (end == "today" || Date::iso(end).is_some()).then(|| end.to_owned()).or(read)
        }
        KindName::Time => TimeOfDay::iso(end).map(|_| end.to_owned()),
        KindName::Datetime => (end == "today" || Moment::iso(end).is_some()).then(|| end.to_owned()),
        KindName::Duration => Duration::read(end).map(|length| length.to_string()),
        _ => Some(end.to_owned()),
    }
}

/// Whether a default is a value of its field.
fn is_sound_default(field: &DraftField, lists: &[DraftList], default: &str) -> bool {
    match field.kind {
        KindName::Integer => Number::integer(default).is_some(),
        KindName::Decimal => Number::decimal(default).is_some(),
        KindName::Boolean => truth::read(default).is_some(),
        KindName::Date => Date::iso(default).is_some(),
        KindName::Email => email::judge(default).is_ok(),
        KindName::Picklist => {
            let list = lists.iter().find(|list| Some(&list.name) == field.picklist.as_ref());
            list.is_none_or(|list| {
                let is_it = |value: &(String, Option<String>)| {
                    value.0 == default || value.1.as_deref() == Some(default)
                };
                list.open || list.values.iter().any(is_it)
            })
        }
        _ => !default.is_empty(),
    }
}
