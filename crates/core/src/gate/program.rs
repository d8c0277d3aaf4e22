//! What is asked of a column's cells: the field's rules, made ready. These are the plain judges, one value
//! at a time; `fast` passes over what is plainly sound without asking them.

use super::Settings;
use super::dates::{Dates, without_time};
use super::evidence::{self, Vote, Way};
use super::numbers::{Bounds, bounds, fits, hundredfold, judge_marked, judge_number, no_number, with_number};
use super::wordset::WordSet;
use crate::catalogue::Code;
use crate::condition::Scalar;
use crate::plan::Reading;
use crate::scan::{Dialect, MARK_PERCENT, MARK_TEXT, Places, mark_of};
use crate::schema::{Affixes, Field, Kind, MomentBound, Range, RecordSchema, References, Refers, TextRules};
use crate::value::{
    Case, Date, Length, Marks, Match, Moment, MomentPattern, Number, Picklist, TimeOfDay, TimePattern, Truth,
    Zone, email, phone, truth, web,
};
use rust_decimal::Decimal;
use std::borrow::Cow;
use std::sync::Arc;

/// The rules of one column.
#[derive(Debug)]
pub(crate) enum Program {
    /// No rules: a column without a field, or one whose kind is not judged yet.
    Free,
    Text {
        rules: TextRules,
        /// The pattern as places, where that says the same as pattern and case together.
        places: Option<Places>,
    },
    Integer {
        range: Range<Number<'static>>,
        bounds: Bounds,
        marks: Option<Marks>,
    },
    Decimal {
        digits: (Option<usize>, Option<usize>),
        range: Range<Number<'static>>,
        /// The bounds for each number of digits after the point, as whole numbers of the last digit.
        bounds: Box<[Bounds; 9]>,
        marks: Option<Marks>,
        affixes: Affixes,
        /// The way of writing that the column shows, where no marks are stated.
        way: Option<Way>,
    },
    Boolean {
        words: WordSet,
        truth: Truth,
    },
    Date(Dates),
    Picklist {
        list: usize,
        /// Words that stand for a value that is not retired.
        words: WordSet,
    },
    Time {
        times: Vec<TimePattern>,
        /// The forms in which the target takes it, if not ISO.
        own: Vec<TimePattern>,
        range: Range<TimeOfDay>,
    },
    Datetime {
        forms: Vec<MomentPattern>,
        own: Vec<MomentPattern>,
        range: Range<i128>,
        today: Date,
        /// The zone of those without a distance from UTC.
        zone: Option<Zone>,
    },
    Phone {
        region: Option<phone::Region>,
    },
    Url {
        length: Length,
    },
    Uuid {
        length: Length,
    },
    Reference {
        keys: Option<Arc<References>>,
        /// The keys, where all of them are short.
        words: WordSet,
    },
    /// Several values in one cell.
    Many {
        inner: Box<Self>,
        separator: String,
        max: Option<usize>,
        /// The words of which each is a value of its own: codes that are not retired, or keys.
        codes: WordSet,
    },
    Email {
        length: Length,
        /// No address of at most so many bytes can be too long.
        longest: usize,
    },
}

/// A value as a cell gives it: trimmed, and whether a sheet keeps it as what it looks like.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Given<'a> {
    pub(crate) text: &'a str,
    /// A number that a sheet stores has a point, whatever marks are stated for texts.
    pub(crate) is_stored: bool,
    /// Whether it is a stored number that is shown as a percentage.
    pub(crate) is_percent: bool,
}

impl<'a> Given<'a> {
    /// The text of a raw cell.
    pub(crate) fn of(text: &'a str, raw: &[u8], dialect: Dialect) -> Self {
        let mark = mark_of(raw, dialect);
        // What is stored is written plainly: digits, points, days and times in ISO form.
        let is_plain = |byte: u8| byte.is_ascii_digit() || b".-+:TZE".contains(&byte);
        let is_stored = dialect.marks && mark != Some(MARK_TEXT) && text.bytes().all(is_plain);
        Self { text, is_stored, is_percent: mark == Some(MARK_PERCENT) }
    }
}

impl<'a> From<&'a str> for Given<'a> {
    fn from(text: &'a str) -> Self {
        Self { text, is_stored: false, is_percent: false }
    }
}

/// What is wrong with a value: one code for each broken constraint.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct Verdict {
    codes: [Option<Code>; 10],
}

impl Verdict {
    pub(crate) const SOUND: Self = Self { codes: [None; 10] };

    pub(crate) fn one(code: Code) -> Self {
        let mut verdict = Self::SOUND;
        verdict.add(code);
        verdict
    }

    pub(crate) fn add(&mut self, code: Code) {
        if let Some(slot) = self.codes.iter_mut().find(|slot| slot.is_none()) {
            *slot = Some(code);
        }
    }

    pub(crate) fn codes(self) -> impl Iterator<Item = Code> {
        self.codes.into_iter().flatten()
    }
}

impl Program {
    /// The program of a field.
    pub(crate) fn of(field: &Field, schema: &RecordSchema, settings: &Settings, reading: &Reading) -> Self {
        let inner = Self::of_one(field, schema, settings, reading);
        match &field.stated.many {
            Some(many) => Self::Many {
                codes: match (&inner, &field.kind) {
                    (Self::Reference { keys, .. }, _) => {
                        let keys = keys.iter().flat_map(|keys| keys.short_keys());
                        WordSet::new(keys)
                    }
                    (_, Kind::Picklist(list)) => {
                        let values =
                            schema.picklists.get(*list).into_iter().flat_map(|list| list.values.iter());
                        let current =
                            values.filter(|value| !value.retired && !value.code.contains(&many.separator));
                        WordSet::new(current.map(|value| &value.code))
                    }
                    _ => WordSet::default(),
                },
                inner: Box::new(inner),
                separator: many.separator.clone(),
                max: many.max.map(|max| max as usize),
            },
            None => inner,
        }
    }

    fn of_one(field: &Field, schema: &RecordSchema, settings: &Settings, reading: &Reading) -> Self {
        let (stated, today) = (settings.dates.as_slice(), settings.today);
        let marks = reading.marks.filter(|marks| *marks != Marks::default());
        match &field.kind {
            _ if field.unjudged.is_some() => Self::Free,
            Kind::Unjudged => Self::Free,
            Kind::Text(rules) => Self::Text { rules: rules.clone(), places: places(rules) },
            Kind::Integer(range) => Self::Integer { range: range.clone(), bounds: bounds(range, 0), marks },
            Kind::Decimal { digits, range, affixes } => Self::Decimal {
                affixes: affixes.clone(),
                way: reading.marks.is_none().then_some(Way::First),
                digits: *digits,
                range: range.clone(),
                bounds: Box::new(std::array::from_fn(|after| bounds(range, after))),
                marks,
            },
            Kind::Boolean => {
                let truth = reading.truth.clone();
                let words = truth.yes.iter().chain(truth.no.iter());
                let cased = words.flat_map(|word| [word.to_owned(), word.to_uppercase(), capitalised(word)]);
                Self::Boolean { words: WordSet::new(cased), truth }
            }
            Kind::Date { dates, range } => {
                let number = schema.field(&field.name);
                let planned = number.and_then(|number| settings.plan.dates_of.get(&number));
                let planned = planned.map(Vec::as_slice).unwrap_or_default();
                Self::Date(Dates::new(dates, planned, stated, range, today, reading.months.as_ref()))
            }
            Kind::Picklist(list) => {
                let words = schema.picklists.get(*list).into_iter().flat_map(|picklist| {
                    let current =
                        |value: usize| picklist.values.get(value).is_some_and(|value| !value.retired);
                    picklist.exact_words().filter(move |word| current(word.1)).map(|word| word.0)
                });
                Self::Picklist { list: *list, words: WordSet::new(words) }
            }
            Kind::Time { times, range } => Self::Time {
                times: if times.is_empty() { settings.plan.times.clone() } else { times.clone() },
                own: times.clone(),
                range: range.clone(),
            },
            Kind::Datetime { dates, range } => {
                let day = Moment { date: today, time: TimeOfDay(0), offset: None };
                let bound = |bound: &Option<MomentBound>, is_end: bool| {
                    bound.map(|bound| match bound {
                        MomentBound::At(instant) => instant,
                        // All of the day.
                        MomentBound::Today => day.instant() + if is_end { 86_400_000_000_000 - 1 } else { 0 },
                    })
                };
                Self::Datetime {
                    forms: (if dates.is_empty() { &settings.plan.moments } else { dates })
                        .iter()
                        .map(|form| form.clone().in_language(reading.months.as_ref()))
                        .collect(),
                    zone: reading.zone.clone(),
                    own: dates.clone(),
                    range: Range { min: bound(&range.min, false), max: bound(&range.max, true) },
                    today,
                }
            }
            Kind::Phone(region) => Self::Phone { region: region.as_deref().and_then(phone::region) },
            Kind::Url(length) => Self::Url { length: *length },
            Kind::Uuid(length) => Self::Uuid { length: *length },
            Kind::Reference(to) => {
                let keys = settings.references.get(to).cloned();
                let words = keys.iter().flat_map(|keys| keys.short_keys());
                Self::Reference { words: WordSet::new(words), keys }
            }
            Kind::Email(length) => {
                let longest = if length.min.is_some() { 0 } else { length.max.unwrap_or(email::LONGEST) };
                Self::Email { length: *length, longest }
            }
        }
    }

    /// Whether its cells decide how the column is written.
    pub(crate) fn has_vote(&self) -> bool {
        match self {
            Self::Date(dates) => dates.orders.is_some(),
            Self::Decimal { way, .. } => way.is_some(),
            _ => false,
        }
    }

    /// What a value says of the way in which its column is written.
    pub(crate) fn vote(&self, given: Given<'_>) -> Vote {
        match self {
            Self::Date(dates) if dates.orders.is_some() => {
                let day = without_time(given.text).map_or(given.text, |(day, _)| day);
                let Some((first, second, _)) = dates.both_ways(day) else { return Vote::NONE };
                let is_sound = |day: &Date| dates.range.holds(day);
                let form = u8::try_from(evidence::date_form(day)).unwrap_or_default();
                Vote { form, says: evidence::vote(first.as_ref(), second.as_ref(), is_sound) }
            }
            Self::Decimal { digits, range, affixes, way: Some(_), .. } if !given.is_stored => {
                let text = affixes.bare(given.text);
                if !text.contains([',', '.']) {
                    return Vote::NONE;
                }
                let (point, comma) = evidence::numbers(&text, *digits, range);
                let is_sound = |number: &Number<'_>| fits(number, *digits, range);
                let form = if text.contains(',') { evidence::WITH_COMMA } else { evidence::WITH_POINT };
                let says = evidence::vote(point.as_ref(), comma.as_ref(), is_sound);
                Vote { form: u8::try_from(form).unwrap_or_default(), says }
            }
            _ => Vote::NONE,
        }
    }

    /// Judges a value: trimmed, not blank.
    pub(crate) fn judge<'a>(&self, given: impl Into<Given<'a>>, picklists: &[Picklist]) -> Verdict {
        let given = given.into();
        let text = given.text;
        match self {
            Self::Free => Verdict::SOUND,
            Self::Text { rules, .. } => judge_text(rules, text),
            Self::Integer { range, marks, .. } => {
                let verdict =
                    with_number(given, true, *marks, |number| judge_number(number, (None, None), range));
                verdict.unwrap_or_else(|| no_number(text, true, *marks))
            }
            Self::Decimal { affixes, .. } if given.is_percent && affixes.percent => match hundredfold(text) {
                Some(text) => {
                    self.judge(Given { text: &text, is_stored: true, is_percent: false }, picklists)
                }
                None => Verdict::one(Code::DecimalBad),
            },
            Self::Decimal { digits, range, marks, affixes, way, .. } => {
                let text = affixes.bare(text);
                let given = Given { text: &text, ..given };
                if let Some(way) = way.filter(|way| goes_by_column(*way, given)) {
                    return match judge_marked(way, &text, *digits, range) {
                        Ok(number) => judge_number(number, *digits, range),
                        Err(code) => Verdict::one(code),
                    };
                }
                let verdict =
                    with_number(given, false, *marks, |number| judge_number(number, *digits, range));
                verdict.unwrap_or_else(|| no_number(&text, false, *marks))
            }
            Self::Boolean { truth, .. } => match truth.read(text) {
                Some(_) => Verdict::SOUND,
                None => Verdict::one(Code::BooleanBad),
            },
            Self::Date(dates) => dates.judge(given),
            Self::Picklist { list, .. } => {
                let Some(picklist) = picklists.get(*list) else { return Verdict::SOUND };
                match picklist.find(text) {
                    Match::Value(value) if picklist.values.get(value).is_some_and(|value| value.retired) => {
                        Verdict::one(Code::OffListRetired)
                    }
                    Match::Value(_) => Verdict::SOUND,
                    Match::Several | Match::None => Verdict::one(Code::OffList),
                }
            }
            Self::Time { range, .. } => match self.time(text) {
                None => Verdict::one(Code::TimeBad),
                Some(time) if !range.holds(&time) => Verdict::one(Code::OutOfRange),
                Some(_) => Verdict::SOUND,
            },
            Self::Datetime { forms, range, today, .. } => match self.moment(text) {
                Some(moment) if !range.holds(&moment.instant()) => Verdict::one(Code::OutOfRange),
                Some(_) => Verdict::SOUND,
                // The day is one, its time is not.
                None => {
                    let day = text.split(['T', ' ']).next().unwrap_or(text);
                    let is_day =
                        Date::iso(day).is_some() || forms.iter().any(|form| form.reads_day(day, *today));
                    Verdict::one(if is_day { Code::TimeBad } else { Code::DateBad })
                }
            },
            Self::Phone { region } => match phone::read(text, region.as_ref()) {
                Some(_) => Verdict::SOUND,
                None => Verdict::one(Code::PhoneBad),
            },
            Self::Url { length } if web::is_url(text) => judge_length(*length, text),
            Self::Url { .. } => Verdict::one(Code::UrlBad),
            Self::Uuid { length } if web::is_uuid(text) => judge_length(*length, text),
            Self::Uuid { .. } => Verdict::one(Code::UuidBad),
            Self::Reference { keys, .. } => match keys.as_ref().map(|keys| keys.find(text)) {
                None | Some(Refers::Key | Refers::Through(_)) => Verdict::SOUND,
                Some(Refers::Several) => Verdict::one(Code::ReferenceUnclear),
                Some(Refers::Nothing) => Verdict::one(Code::ReferenceUnknown),
            },
            Self::Many { inner, separator, max, .. } => judge_many(inner, separator, *max, text, picklists),
            Self::Email { length, .. } => match email::judge(text) {
                Ok(()) => judge_length(*length, text),
                Err(_) => Verdict::one(Code::EmailBad),
            },
        }
    }

    /// The value in one form; nothing when the text has no value of the kind. Equal values have equal forms, and
    /// others have others.
    pub(crate) fn standard<'a>(
        &self,
        given: impl Into<Given<'a>>,
        picklists: &'a [Picklist],
    ) -> Option<Cow<'a, str>> {
        let given = given.into();
        let text = given.text;
        match self {
            Self::Free | Self::Text { .. } | Self::Email { .. } => Some(Cow::Borrowed(text)),
            Self::Url { .. } => web::is_url(text).then_some(Cow::Borrowed(text)),
            Self::Uuid { .. } => web::is_uuid(text).then(|| text.to_ascii_lowercase().into()),
            Self::Phone { region } => phone::read(text, region.as_ref()).map(Cow::Owned),
            Self::Time { .. } => self.time(text).map(|time| time.to_string().into()),
            // Those with a distance from UTC are instants; a local time is none.
            Self::Datetime { .. } => self.moment(text).map(|moment| match moment.offset {
                Some(_) => format!("{}", moment.instant()).into(),
                None => moment.to_string().into(),
            }),
            Self::Reference { keys, .. } => match keys.as_ref().map(|keys| keys.find(text)) {
                None | Some(Refers::Key) => Some(Cow::Borrowed(text)),
                Some(Refers::Through(key)) => Some(key.to_owned().into()),
                Some(Refers::Several | Refers::Nothing) => None,
            },
            Self::Many { inner, separator, .. } => {
                let parts =
                    parts(text, separator).map(|part| inner.standard(part, picklists).map(Cow::into_owned));
                let parts: Option<Vec<String>> = parts.collect();
                parts.map(|parts| parts.join(separator).into())
            }
            Self::Integer { marks, .. } => {
                with_number(given, true, *marks, |number| number.to_string()).map(Cow::Owned)
            }
            Self::Decimal { affixes, .. } if given.is_percent && affixes.percent => {
                let text = hundredfold(text)?;
                let given = Given { text: &text, is_stored: true, is_percent: false };
                self.standard(given, picklists).map(|value| Cow::Owned(value.into_owned()))
            }
            Self::Decimal { marks, affixes, way, digits, range, .. } => {
                let text = affixes.bare(text);
                let given = Given { text: &text, ..given };
                if let Some(way) = way.filter(|way| goes_by_column(*way, given)) {
                    let number = judge_marked(way, given.text, *digits, range).ok()?;
                    return Some(Cow::Owned(number.to_string()));
                }
                with_number(given, false, *marks, |number| number.to_string()).map(Cow::Owned)
            }
            Self::Boolean { truth, .. } => truth.read(text).map(|value| truth::written(value).into()),
            Self::Date(dates) => dates.day(given).map(|date| date.to_string().into()),
            Self::Picklist { list, .. } => {
                let picklist = picklists.get(*list)?;
                match picklist.find(text) {
                    Match::Value(value) => picklist.values.get(value).map(|value| value.code.as_str().into()),
                    _ => picklist.open.then_some(Cow::Borrowed(text)),
                }
            }
        }
    }

    /// The value as ready rows carry it: in the first of the target's forms that gives it back when it is read.
    pub(crate) fn written<'a>(&self, given: Given<'a>, picklists: &'a [Picklist]) -> Option<Cow<'a, str>> {
        match self {
            Self::Date(dates) => dates.day(given).map(|date| dates.write(date).into()),
            Self::Time { own, .. } => self.time(given.text).map(|time| {
                let own = own.iter().find(|form| form.read(&form.write(time)) == Some(time));
                own.map_or_else(|| time.to_string(), |form| form.write(time)).into()
            }),
            Self::Datetime { own, today, .. } => self.moment(given.text).map(|moment| {
                let gives_back =
                    |form: &&MomentPattern| form.read(&form.write(&moment), *today) == Some(moment);
                let own = own.iter().find(gives_back);
                own.map_or_else(|| moment.to_string(), |form| form.write(&moment)).into()
            }),
            _ => self.standard(given, picklists),
        }
    }

    /// The value as conditions see it; nothing when the text has none.
    pub(crate) fn scalar<'a>(&self, given: Given<'a>, picklists: &'a [Picklist]) -> Option<Scalar<'a>> {
        match self {
            Self::Integer { .. } | Self::Decimal { .. } => {
                let text = self.standard(given, picklists)?;
                Decimal::from_str_exact(&text).ok().map(Scalar::Number)
            }
            Self::Boolean { truth, .. } => truth.read(given.text).map(Scalar::Boolean),
            Self::Date(dates) => dates.day(given).map(Scalar::Date),
            Self::Time { .. } => self.time(given.text).map(Scalar::Time),
            Self::Datetime { .. } => self.moment(given.text).map(|moment| Scalar::Moment(moment.instant())),
            _ => self.standard(given, picklists).map(Scalar::Text),
        }
    }

    /// Whether a sound value stands in the target's form already. False says nothing: `standard` writes it.
    #[inline]
    pub(crate) fn stands(&self, sound: &[u8]) -> bool {
        match self {
            Self::Free | Self::Text { .. } | Self::Email { .. } => true,
            // Under stated marks a point may part thousands.
            Self::Integer { marks, .. } => {
                marks.is_none() && Number::is_standard(sound) && !sound.contains(&b'.')
            }
            Self::Decimal { marks, way, .. } => {
                marks.is_none() && matches!(way, None | Some(Way::First)) && Number::is_standard(sound)
            }
            Self::Boolean { .. } => sound == b"true" || sound == b"false",
            // Ten bytes that give a day: digits and two dashes.
            Self::Date(dates) => dates.is_iso && matches!(sound, [_, _, _, _, b'-', _, _, b'-', _, _]),
            Self::Picklist { .. }
            | Self::Time { .. }
            | Self::Datetime { .. }
            | Self::Phone { .. }
            | Self::Uuid { .. }
            | Self::Reference { .. }
            | Self::Many { .. } => false,
            Self::Url { .. } => true,
        }
    }

    /// Whether it is a date that stands in ISO form in the target.
    pub(crate) fn is_iso_date(&self) -> bool {
        matches!(self, Self::Date(dates) if dates.is_iso)
    }

    /// The time that a text gives.
    fn time(&self, text: &str) -> Option<TimeOfDay> {
        let Self::Time { times, own, .. } = self else { return None };
        let stated = times.iter().find_map(|form| form.read(text));
        // A field's own forms stand alone.
        stated.or_else(|| if own.is_empty() { TimeOfDay::iso(text) } else { None })
    }

    /// The moment that a text gives.
    fn moment(&self, text: &str) -> Option<Moment> {
        let moment = self.written_moment(text)?;
        match self {
            Self::Datetime { zone: Some(zone), .. } => zone.settle(moment),
            _ => Some(moment),
        }
    }

    /// The moment that a text gives, as it is written.
    pub(crate) fn written_moment(&self, text: &str) -> Option<Moment> {
        let Self::Datetime { forms, own, today, .. } = self else { return None };
        let stated = forms.iter().find_map(|form| form.read(text, *today));
        stated.or_else(|| if own.is_empty() { Moment::iso(text) } else { None })
    }

    /// Whether a cell for several values holds none.
    pub(crate) fn holds_no_value(&self, text: &str) -> bool {
        matches!(self, Self::Many { separator, .. } if parts(text, separator).next().is_none())
    }

    /// The several codes of a cell; nothing where one is none.
    pub(crate) fn several(&self, text: &str, picklists: &[Picklist]) -> Option<Vec<String>> {
        let Self::Many { inner, separator, .. } = self else { return None };
        parts(text, separator).map(|part| inner.standard(part, picklists).map(Cow::into_owned)).collect()
    }

    /// The number of the picklist, of one value or several.
    pub(crate) fn list(&self) -> Option<usize> {
        match self {
            Self::Picklist { list, .. } => Some(*list),
            Self::Many { inner, .. } => inner.list(),
            _ => None,
        }
    }

    /// Whether the standard form of a sound value is its text, trimmed.
    pub(crate) const fn is_verbatim(&self) -> bool {
        matches!(self, Self::Free | Self::Text { .. } | Self::Email { .. } | Self::Url { .. })
    }
}

/// Whether the column's way of writing decides what a text with a mark in it gives: a plain number with a point needs
/// no asking in a column of points.
fn goes_by_column(way: Way, given: Given<'_>) -> bool {
    let is_marked = !given.is_stored && given.text.contains([',', '.']);
    is_marked && (way != Way::First || given.text.contains(',') || given.text.matches('.').count() > 1)
}

/// The values of a cell that holds several.
fn parts<'a>(text: &'a str, separator: &'a str) -> impl Iterator<Item = &'a str> {
    text.split(separator).map(str::trim).filter(|part| !part.is_empty())
}

/// Marks that people put between values.
pub(crate) const SEPARATORS: [&str; 5] = [";", ",", "|", "/", "\n"];

fn judge_many(
    inner: &Program,
    separator: &str,
    max: Option<usize>,
    text: &str,
    picklists: &[Picklist],
) -> Verdict {
    let mut verdict = Verdict::SOUND;
    let mut seen: Vec<String> = Vec::new();
    let mut count = 0;
    for part in parts(text, separator) {
        count += 1;
        let told = inner.judge(part, picklists);
        for code in
            told.codes().filter(|code| !verdict.codes().any(|known| known == *code)).collect::<Vec<_>>()
        {
            verdict.add(code);
        }
        if let Some(value) = inner.standard(part, picklists) {
            // Written beside others it would be read as several.
            if matches!(inner, Program::Reference { .. }) && value.contains(separator) {
                verdict.add(Code::ReferenceUnclear);
            }
            if seen.iter().any(|known| *known == *value)
                && !verdict.codes().any(|code| code == Code::ListRepeated)
            {
                verdict.add(Code::ListRepeated);
            }
            seen.push(value.into_owned());
        }
    }
    let is_off = verdict.codes().any(|code| matches!(code, Code::OffList | Code::ReferenceUnknown));
    if is_off && other_separator(inner, separator, text, picklists).is_some() {
        return Verdict::one(Code::ListSeparator);
    }
    if max.is_some_and(|max| count > max) {
        verdict.add(Code::ListTooMany);
    }
    verdict
}

/// Another common separator, at which the text splits into permitted values alone.
pub(crate) fn other_separator(
    inner: &Program,
    separator: &str,
    text: &str,
    picklists: &[Picklist],
) -> Option<&'static str> {
    SEPARATORS.into_iter().filter(|other| *other != separator && text.contains(other)).find(|other| {
        let is_sound = |part: &str| inner.judge(part, picklists) == Verdict::SOUND;
        parts(text, other).count() > 1 && parts(text, other).all(is_sound)
    })
}

fn judge_text(rules: &TextRules, text: &str) -> Verdict {
    let mut verdict = judge_length(rules.length, text);
    if with_zeros(rules, text).is_some() {
        return Verdict::one(Code::ZerosLost);
    }
    let fits = |text: &str| rules.pattern.as_ref().is_none_or(|pattern| pattern.fits(text));
    let wrong_case = rules.case.is_some_and(|case| case.of(text) != text);
    if fits(text) {
        if wrong_case {
            verdict.add(Code::CaseWrong);
        }
    } else if cased(rules, text).is_some() {
        verdict.add(Code::CaseWrong);
    } else {
        verdict.add(Code::PatternBroken);
    }
    verdict
}

/// The text in another case in which it fits, where only the case is wrong.
pub(crate) fn cased(rules: &TextRules, text: &str) -> Option<String> {
    let cases = match rules.case {
        Some(case) => vec![case],
        None => vec![Case::Upper, Case::Lower],
    };
    let fits = |text: &String| rules.pattern.as_ref().is_none_or(|pattern| pattern.fits(text));
    cases.into_iter().map(|case| case.of(text)).find(|changed| changed != text && fits(changed))
}

/// The text with the leading zeros that it lost, where its pattern does not fit but then would.
pub(crate) fn with_zeros(rules: &TextRules, text: &str) -> Option<String> {
    const MOST: usize = 18;
    let pattern = rules.pattern.as_ref()?;
    if !text.bytes().all(|byte| byte.is_ascii_digit()) || pattern.fits(text) {
        return None;
    }
    (1..=MOST)
        .map(|zeros| format!("{}{text}", "0".repeat(zeros)))
        .find(|padded| pattern.fits(padded) && judge_length(rules.length, padded) == Verdict::SOUND)
}

fn judge_length(length: Length, text: &str) -> Verdict {
    if length.min.is_none() && length.max.is_none() {
        return Verdict::SOUND;
    }
    let found = length.of(text);
    if length.max.is_some_and(|max| found > max) {
        Verdict::one(Code::TextTooLong)
    } else if length.min.is_some_and(|min| found < min) {
        Verdict::one(Code::TextTooShort)
    } else {
        Verdict::SOUND
    }
}

fn capitalised(word: &str) -> String {
    let mut chars = word.chars();
    chars.next().map(|first| first.to_uppercase().chain(chars).collect()).unwrap_or_default()
}

/// The pattern and the case as places, where every place permits only letters of that case, and the length
/// permits so many characters.
fn places(rules: &TextRules) -> Option<Places> {
    let ranges = rules.pattern.as_ref()?.byte_ranges()?;
    let cased = |&(low, high): &(u8, u8)| {
        (low..=high).all(|byte| match rules.case {
            Some(Case::Upper) => !byte.is_ascii_lowercase(),
            Some(Case::Lower) => !byte.is_ascii_uppercase(),
            None => true,
        })
    };
    // Bytes that are trimmed, and the quote, belong to the plain judge.
    let plain = |&(low, high): &(u8, u8)| low > b' ' && high < 0x7F && !(low..=high).contains(&b'"');
    let long_enough = rules.length.min.is_none_or(|min| ranges.len() >= min);
    let short_enough = rules.length.max.is_none_or(|max| ranges.len() <= max);
    // So does what looks like a formula, a spreadsheet's error or a number that lost its digits.
    let harmless = |(low, high): (u8, u8)| !(b"=+-@#".iter().any(|byte| (low..=high).contains(byte)));
    let written_plainly = ranges.len() <= 15
        && ranges.first().is_some_and(|first| harmless(*first))
        && !ranges.iter().any(|(low, high)| (*low..=*high).contains(&b'+') || (*low..=*high).contains(&b':'));
    let same = ranges.iter().all(|range| cased(range) && plain(range))
        && long_enough
        && short_enough
        && written_plainly;
    same.then(|| Places::new(&ranges)).flatten()
}
