//! The record schema as it is judged by: fields, keys, rules, picklists.

use super::raw::KindName;
use super::required::Required;
use crate::catalogue::{Code, Level};
use crate::condition::model::Condition;
use crate::value::{
    Case, Date, DatePattern, Duration, DurationUnit, Length, MomentPattern, Number, Pattern, Picklist,
    TimeOfDay, TimePattern,
};
use std::borrow::Cow;
use std::collections::BTreeSet;
use std::sync::Arc;

/// A record schema that has passed every test of its own.
#[derive(Debug, Clone)]
pub struct RecordSchema {
    /// The technical name of the record.
    pub record: String,
    /// The name people use.
    pub label: String,
    /// The version, as the schema states it.
    pub version: Option<String>,
    /// The fields that identify a record.
    pub key: Vec<usize>,
    /// Further combinations that must not repeat.
    pub unique: Vec<Vec<usize>>,
    /// Unique fields that may stand for the key.
    pub also_by: Vec<usize>,
    /// The fields that together make a likely duplicate, where the schema names them.
    pub alike: Vec<usize>,
    /// The fields, in the schema's order.
    pub fields: Vec<Field>,
    /// The picklists.
    pub picklists: Vec<Picklist>,
    /// Conditions between the fields of one row.
    pub rules: Vec<Rule>,
    /// Blocks of fields.
    pub blocks: Vec<Together>,
    /// Permitted combinations of values.
    pub combinations: Vec<Combination>,
    /// How several rows make one record, where they do.
    pub lines: Option<Lines>,
}

/// Several rows make one record: a header with its lines.
#[derive(Debug, Clone)]
pub struct Lines {
    /// The fields that have one value a record; those of the key come first.
    pub header: Vec<usize>,
    /// The fields that must not repeat within a record.
    pub key: Vec<usize>,
    /// How many lines a record may have.
    pub count: Range<u64>,
}

/// A condition between the fields of one row.
#[derive(Debug, Clone)]
pub struct Rule {
    /// Its name.
    pub name: String,
    /// Where it applies.
    pub when: Option<Condition>,
    /// What it asks there.
    pub asks: Asks,
    /// How grave it is.
    pub level: Level,
    /// Whether it sees what the file says, and not the record as it would be.
    pub sees_cells: bool,
    /// What to say when it is broken.
    pub message: Option<String>,
}

impl Rule {
    /// The fields of its conditions, ascending.
    #[must_use]
    pub fn fields(&self) -> Vec<usize> {
        let mut fields: Vec<usize> =
            self.conditions().flat_map(|condition| condition.fields.iter().copied()).collect();
        fields.sort_unstable();
        fields.dedup();
        fields
    }

    /// The fields that it requires or forbids.
    #[must_use]
    pub fn asked(&self) -> Vec<usize> {
        match &self.asks {
            Asks::Require(fields) | Asks::Forbid(fields) => fields.clone(),
            Asks::Must(..) => Vec::new(),
        }
    }

    /// The conditions that it holds.
    pub fn conditions(&self) -> impl Iterator<Item = &Condition> {
        let must = match &self.asks {
            Asks::Must(must, _) => Some(must),
            Asks::Require(_) | Asks::Forbid(_) => None,
        };
        self.when.iter().chain(must)
    }
}

/// What a rule asks.
#[derive(Debug, Clone)]
pub enum Asks {
    /// That these fields be filled.
    Require(Vec<usize>),
    /// That these fields be blank.
    Forbid(Vec<usize>),
    /// That this condition hold.
    Must(Condition, String),
}

/// A block of fields that is filled as a whole or not at all.
#[derive(Debug, Clone)]
pub struct Together {
    /// Its name.
    pub name: String,
    /// Its fields.
    pub fields: Vec<usize>,
    /// Those that are needed as soon as any is filled.
    pub needs: Vec<usize>,
}

/// Permitted combinations of values.
#[derive(Debug, Clone)]
pub struct Combination {
    /// Its name.
    pub name: String,
    /// Its fields.
    pub fields: Vec<usize>,
    /// The permitted values, by code, in order.
    pub allowed: Arc<BTreeSet<Vec<String>>>,
}

/// One field of the record.
#[derive(Debug, Clone)]
pub struct Field {
    /// The target's own name for it.
    pub name: String,
    /// The name people use.
    pub label: String,
    /// Other headings seen for it.
    pub also: Vec<String>,
    /// What its values are.
    pub kind: Kind,
    /// Whether a record must have it.
    pub required: Required,
    /// The value for blank cells and an absent column when adding, as the schema states it.
    pub default: Option<String>,
    /// Whether the target computes it.
    pub read_only: bool,
    /// Whether it may be set when adding, and must not change later.
    pub read_only_later: bool,
    /// Whether the target gives the number where a new record or line leaves it blank.
    pub numbered: bool,
    /// Whether its values are masked in reports.
    pub sensitive: bool,
    /// What the schema says of it for people and other systems.
    pub stated: Stated,
    /// What of it is not judged yet, in words.
    pub unjudged: Option<String>,
    /// A value that shows the form.
    pub example: Option<String>,
    /// Suspicions that are not wanted for it.
    pub ignore: Vec<Code>,
}

impl Field {
    /// A field of any text.
    fn text(name: &str) -> Self {
        let stated = Stated {
            kind: KindName::Text,
            help: None,
            picklist: None,
            many: None,
            to: None,
            range: Range::default(),
            length: Length::default(),
            digits: (None, None),
            dates: Vec::new(),
            percent: false,
            currency: Vec::new(),
            unit: None,
        };
        Self {
            name: name.to_owned(),
            label: name.to_owned(),
            also: Vec::new(),
            kind: Kind::Text(TextRules::default()),
            required: Required::No,
            default: None,
            read_only: false,
            read_only_later: false,
            numbered: false,
            sensitive: false,
            stated,
            unjudged: None,
            example: None,
            ignore: Vec::new(),
        }
    }
}

/// What a schema says of a field beside the rules that are judged, as it stands there.
#[derive(Debug, Clone)]
pub struct Stated {
    /// The name of its kind.
    pub kind: KindName,
    /// What people should know when they fill it.
    pub help: Option<String>,
    /// The number of its picklist.
    pub picklist: Option<usize>,
    /// Several values in one cell.
    pub many: Option<Many>,
    /// The record that it refers to.
    pub to: Option<String>,
    /// The permitted range: numbers, ISO dates and times, or "today".
    pub range: Range<String>,
    /// The permitted length.
    pub length: Length,
    /// The most digits before and after the point.
    pub digits: (Option<u32>, Option<u32>),
    /// Its own forms of dates.
    pub dates: Vec<String>,
    /// Whether it is a percentage.
    pub percent: bool,
    /// Marks of currency that may stand beside it.
    pub currency: Vec<String>,
    /// The unit of its numbers.
    pub unit: Option<String>,
}

/// Several values in one cell.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Many {
    /// What stands between them.
    pub separator: String,
    /// The most.
    pub max: Option<u32>,
}

/// What the values of a field are, with the options of the kind.
#[derive(Debug, Clone)]
pub enum Kind {
    /// Any text.
    Text(TextRules),
    /// A whole number.
    Integer(Range<Number<'static>>),
    /// A number.
    Decimal {
        /// The most digits before and after the point.
        digits: (Option<usize>, Option<usize>),
        /// The permitted range.
        range: Range<Number<'static>>,
        /// What may stand beside the number.
        affixes: Affixes,
    },
    /// Yes or no.
    Boolean,
    /// A day.
    Date {
        /// The field's own forms; they stand alone.
        dates: Vec<DatePattern>,
        /// The permitted range.
        range: Range<DateBound>,
    },
    /// A value of the picklist of this number.
    Picklist(usize),
    /// An e-mail address.
    Email(Length),
    /// A day with a time.
    Datetime {
        /// The field's own forms; they stand alone.
        dates: Vec<MomentPattern>,
        /// The permitted range.
        range: Range<MomentBound>,
    },
    /// A time of day.
    Time {
        /// The field's own forms; they stand alone.
        times: Vec<TimePattern>,
        /// The permitted range.
        range: Range<TimeOfDay>,
    },
    /// A length of time.
    Duration {
        /// What plain numbers count, where that is stated.
        unit: Option<DurationUnit>,
        /// The permitted range.
        range: Range<Duration>,
    },
    /// A phone number; the region, by its ISO 3166-1 code, whose national forms are read too.
    Phone(Option<String>),
    /// A web address.
    Url(Length),
    /// A UUID.
    Uuid(Length),
    /// A value that must be the key of the record of this name.
    Reference(String),
    /// A kind, or a form of one, whose values are not judged yet.
    Unjudged,
}

/// What may stand beside a number.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Affixes {
    /// A percent sign behind it.
    pub percent: bool,
    /// Marks of currency before or behind it.
    pub currency: Vec<String>,
}

impl Affixes {
    /// The number alone, with its sign before it; the text as it is where nothing stands beside it. A mark of currency
    /// may stand between sign and number, or within an accountant's parentheses.
    #[must_use]
    pub fn bare<'a>(&self, text: &'a str) -> Cow<'a, str> {
        if !self.percent && self.currency.is_empty() {
            return Cow::Borrowed(text);
        }
        let bare = if self.percent { text.strip_suffix('%').map_or(text, str::trim_end) } else { text };
        let within = bare.strip_prefix('(').and_then(|inner| inner.strip_suffix(')'));
        let minus = ['-', '\u{2212}'];
        let (is_less, body) = match within {
            Some(inner) => (true, inner.trim()),
            None => match bare.strip_prefix(minus).or_else(|| bare.strip_suffix(minus)) {
                Some(body) => (true, body.trim()),
                None => (false, bare),
            },
        };
        let Some(body) = self.without_currency(body) else { return Cow::Borrowed(bare) };
        if !is_less {
            return Cow::Borrowed(body);
        }
        // Two signs are none.
        if body.starts_with(['-', '+', '(', '\u{2212}']) || body.ends_with(minus) {
            return Cow::Borrowed(bare);
        }
        Cow::Owned(format!("-{body}"))
    }

    /// A text without its mark of currency; nothing where it has none.
    fn without_currency<'a>(&self, text: &'a str) -> Option<&'a str> {
        self.currency.iter().find_map(|mark| {
            let before = text.strip_prefix(mark.as_str()).map(str::trim_start);
            before.or_else(|| text.strip_suffix(mark.as_str()).map(str::trim_end))
        })
    }
}

/// An end of a range of days with times.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MomentBound {
    /// A moment, in nanoseconds.
    At(i128),
    /// The day of the run.
    Today,
}

/// The rules of a text.
#[derive(Debug, Clone, Default)]
pub struct TextRules {
    /// The pattern the whole value must match.
    pub pattern: Option<Pattern>,
    /// The pattern in words.
    pub pattern_says: Option<String>,
    /// The case it must have.
    pub case: Option<Case>,
    /// The permitted length.
    pub length: Length,
}

/// A range, ends included; either may be open.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Range<T> {
    /// The lowest permitted value.
    pub min: Option<T>,
    /// The highest permitted value.
    pub max: Option<T>,
}

impl<T> Default for Range<T> {
    fn default() -> Self {
        Self { min: None, max: None }
    }
}

impl<T: Ord> Range<T> {
    /// Whether the value lies within.
    pub fn holds(&self, value: &T) -> bool {
        self.min.as_ref().is_none_or(|min| value >= min) && self.max.as_ref().is_none_or(|max| value <= max)
    }
}

/// An end of a range of dates.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DateBound {
    /// A day.
    Day(Date),
    /// The day of the run.
    Today,
}

impl DateBound {
    /// The day it means.
    #[must_use]
    pub fn on(self, today: Date) -> Date {
        match self {
            Self::Day(date) => date,
            Self::Today => today,
        }
    }
}

/// Suspicions that a field may ask to be left alone (`ignore`).
pub(crate) const SUSPICIONS: [&str; 9] = [
    "characters-invisible",
    "characters-lookalike",
    "control-characters",
    "formula-like",
    "number-as-text",
    "placeholder",
    "precision-lost",
    "space-stray",
    Code::DateTwoDigitYear.name(),
];

impl RecordSchema {
    /// A record without fields, for looking at a table without a record schema.
    #[must_use]
    pub fn empty() -> Self {
        Self {
            record: String::new(),
            label: String::new(),
            version: None,
            key: Vec::new(),
            unique: Vec::new(),
            also_by: Vec::new(),
            alike: Vec::new(),
            fields: Vec::new(),
            picklists: Vec::new(),
            rules: Vec::new(),
            blocks: Vec::new(),
            combinations: Vec::new(),
            lines: None,
        }
    }

    /// A record with text fields of these names, of which the first is the key: for finding a table by its headings.
    #[must_use]
    pub fn of_headings<'a>(headings: impl IntoIterator<Item = &'a String>) -> Self {
        let fields = headings.into_iter().map(|heading| Field::text(heading)).collect();
        Self { key: vec![0], fields, ..Self::empty() }
    }

    /// The record as it is read where it is: nothing is computed or fixed while it is only looked at.
    #[must_use]
    pub fn as_it_stands(mut self) -> Self {
        for field in &mut self.fields {
            (field.read_only, field.read_only_later) = (false, false);
        }
        self
    }

    /// Whether these fields are one that may stand for the key.
    #[must_use]
    pub fn stands_for_key(&self, fields: &[usize]) -> bool {
        matches!(fields, [field] if self.also_by.contains(field))
    }

    /// Whether a field tells the lines of a record apart, where several rows make one.
    #[must_use]
    pub fn is_line_key(&self, number: usize) -> bool {
        self.lines.as_ref().is_some_and(|lines| lines.key.contains(&number))
    }

    /// Whether a field belongs to the key, of the record or of a line: it is always needed and takes no default.
    #[must_use]
    pub fn is_keyed(&self, number: usize) -> bool {
        self.key.contains(&number) || self.is_line_key(number)
    }

    /// The field of this name.
    #[must_use]
    pub fn field(&self, name: &str) -> Option<usize> {
        self.fields.iter().position(|field| field.name == name)
    }
}
