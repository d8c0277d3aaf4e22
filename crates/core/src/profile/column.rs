//! What one column holds.

use super::kind::{self, Class, Kinds};
use super::likely::Likely;
use super::seen::Seen;
use super::spread::{Spread, SpreadLook};
use crate::catalogue::Code;
use crate::finding::MASK;
use crate::headings::calls_a_key;
use crate::value::{Date, Number, sheet_error, suspicion};
use std::collections::HashMap;
use xxhash_rust::xxh3::xxh3_128;

/// So many different values are counted exactly.
const MOST_DISTINCT: usize = 1000;
/// A value is shown up to so many characters.
const LONGEST_SHOWN: usize = 60;
/// So many examples are shown.
const EXAMPLES: usize = 3;

/// What a column was seen to hold.
#[derive(Debug, Clone, Default)]
pub struct ColumnProfile {
    /// Cells that hold something.
    pub filled: u64,
    /// Cells that hold nothing.
    pub blank: u64,
    /// How many different values there are; nothing beyond 1,000.
    pub distinct: Option<u64>,
    /// The likely kind, such as "integer"; nothing in an empty column.
    pub kind: Option<&'static str>,
    /// More of the kind, such as the form of its dates.
    pub form: Option<String>,
    /// How many of the filled cells fit the kind.
    pub fitting: u64,
    /// The first cell that does not fit it, and its row.
    pub misfit: Option<(u64, String)>,
    /// The least and the greatest number of characters.
    pub lengths: Option<(u64, u64)>,
    /// The lowest and the highest value, in the order of the kind.
    pub range: Option<(String, String)>,
    /// The first different values.
    pub examples: Vec<String>,
    /// What is odd.
    pub oddities: Vec<Oddity>,
    /// How its values are spread, where that was looked at.
    pub spread: Spread,
}

impl ColumnProfile {
    /// Takes all values away.
    pub fn hide(&mut self) {
        (self.range, self.spread) = (None, Spread::Nothing);
        self.examples.clear();
        self.misfit.iter_mut().for_each(|misfit| MASK.clone_into(&mut misfit.1));
    }
}

/// Something odd about the cells of a column.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Oddity {
    /// What, in the words of findings.
    pub code: Code,
    /// In how many cells, and in which row first.
    pub seen: Seen,
}

/// A column while it is looked at.
#[derive(Debug, Default)]
pub(super) struct ColumnLook {
    filled: u64,
    blank: u64,
    /// What is known of values that were met before; no more are added when it is full.
    known: HashMap<u128, Known>,
    is_full: bool,
    classes: HashMap<Class, Extremes>,
    /// How many cells each date form reads.
    forms: [u64; kind::COUNT],
    lengths: Option<(u64, u64)>,
    examples: Vec<String>,
    oddities: HashMap<Code, Seen>,
    spread: Option<SpreadLook>,
    is_called_a_key: bool,
}

/// A value that was met before.
#[derive(Debug, Clone)]
struct Known {
    class: Class,
    forms: Vec<u8>,
    length: u64,
    odd: Vec<Code>,
}

/// The cells of one class.
#[derive(Debug, Default)]
struct Extremes {
    count: u64,
    first: (u64, String),
    lowest: String,
    highest: String,
}

impl ColumnLook {
    /// Of a column with this heading: running numbers that begin with a year look like days, but are keys.
    pub(super) fn of(heading: &str) -> Self {
        Self { is_called_a_key: calls_a_key(heading), ..Self::default() }
    }

    /// From now on, it is seen how values are spread.
    pub(super) fn see_spread(&mut self) {
        self.spread = Some(SpreadLook::default());
    }

    pub(super) fn look_at(&mut self, text: &str, is_broken: bool, row: u64, kinds: &Kinds) {
        let trimmed = text.trim();
        if trimmed.is_empty() {
            self.blank += 1;
            return;
        }
        self.filled += 1;
        if trimmed.len() < text.len() {
            self.oddities.entry(Code::SpaceStray).or_default().note(1, row);
        }
        if is_broken {
            self.oddities.entry(Code::EncodingDoubt).or_default().note(1, row);
        }
        let hash = xxh3_128(trimmed.as_bytes());
        if let Some(known) = self.known.get(&hash) {
            let known = known.clone();
            self.count(&known, trimmed, row, kinds, false);
            return;
        }
        let (class, forms) = kinds.class(trimmed);
        let length = trimmed.chars().count() as u64;
        let known = Known { class, forms, length, odd: odd(trimmed, class) };
        if self.examples.len() < EXAMPLES {
            self.examples.push(shortened(trimmed));
        }
        self.count(&known, trimmed, row, kinds, true);
        if self.known.len() < MOST_DISTINCT {
            self.known.insert(hash, known);
        } else {
            self.is_full = true;
        }
    }

    fn count(&mut self, known: &Known, trimmed: &str, row: u64, kinds: &Kinds, is_new: bool) {
        if let Some(spread) = &mut self.spread {
            spread.look_at(trimmed, known.class, known.length, kinds);
        }
        for &code in &known.odd {
            self.oddities.entry(code).or_default().note(1, row);
        }
        for &form in &known.forms {
            if let Some(count) = self.forms.get_mut(usize::from(form)) {
                *count += 1;
            }
        }
        let extremes = self.classes.entry(known.class).or_default();
        extremes.count += 1;
        if extremes.count == 1 {
            extremes.first = (row, shortened(trimmed));
            (extremes.lowest, extremes.highest) = (trimmed.to_owned(), trimmed.to_owned());
        } else if is_new {
            if kinds.is_lower(known.class, trimmed, &extremes.lowest) {
                trimmed.clone_into(&mut extremes.lowest);
            }
            if kinds.is_lower(known.class, &extremes.highest, trimmed) {
                trimmed.clone_into(&mut extremes.highest);
            }
        }
        let (shortest, longest) = self.lengths.unwrap_or((known.length, known.length));
        self.lengths = Some((shortest.min(known.length), longest.max(known.length)));
    }

    pub(super) fn finish(mut self, kinds: &Kinds) -> ColumnProfile {
        let has_enough = self.known.len() >= kind::ENOUGH_COMPACT && !self.is_called_a_key;
        let compact = self.forms.get(usize::from(kind::COMPACT)).copied().filter(|_| has_enough);
        let class = |class, count| kind::compact_class(class, count, compact.unwrap_or_default());
        self.classes = self.classes.into_iter().map(|(of, seen)| (class(of, seen.count), seen)).collect();
        let distinct = (!self.is_full).then_some(self.known.len() as u64);
        let found = Guess::of(&self, distinct);
        let mut oddities: Vec<_> =
            self.oddities.iter().map(|(code, seen)| Oddity { code: *code, seen: *seen }).collect();
        oddities.sort_by_key(|oddity| oddity.code);
        let mut misfit: Option<(u64, String)> = None;
        let mut range: Option<[(Class, &str); 2]> = None;
        for (class, extremes) in &self.classes {
            if !found.takes(*class) {
                if misfit.as_ref().is_none_or(|before| extremes.first.0 < before.0) {
                    misfit = Some(extremes.first.clone());
                }
                continue;
            }
            let (lowest, highest) = ((*class, extremes.lowest.as_str()), (*class, extremes.highest.as_str()));
            let [low, high] = range.get_or_insert([lowest, highest]);
            if found.is_lower(lowest, *low, kinds) {
                *low = lowest;
            }
            if found.is_lower(*high, highest, kinds) {
                *high = highest;
            }
        }
        let range = range.map(|[low, high]| (shortened(low.1), shortened(high.1)));
        ColumnProfile {
            filled: self.filled,
            blank: self.blank,
            distinct,
            kind: found.kind,
            form: found.form,
            fitting: found.fitting,
            misfit,
            lengths: self.lengths,
            range,
            examples: self.examples,
            oddities,
            spread: self.spread.map(|spread| spread.finish(found.kind)).unwrap_or_default(),
        }
    }
}

/// The likely kind of a column.
struct Guess {
    kind: Option<&'static str>,
    form: Option<String>,
    fitting: u64,
    classes: Vec<Class>,
}

impl Guess {
    fn of(look: &ColumnLook, distinct: Option<u64>) -> Self {
        let count = |class: Class| look.classes.get(&class).map_or(0, |extremes| extremes.count);
        let sum = |classes: &[Class]| classes.iter().map(|class| count(*class)).sum::<u64>();
        let dates: Vec<Class> =
            look.classes.keys().copied().filter(|class| matches!(class, Class::Date(_))).collect();
        let datetimes: Vec<Class> =
            look.classes.keys().copied().filter(|class| matches!(class, Class::Datetime(_))).collect();
        let best = (0_u8..).zip(look.forms).max_by_key(|(number, count)| (*count, u8::MAX - number));
        let (form, form_count) = best.unwrap_or_default();
        let form_says = |form_count: u64| {
            let all = sum(&dates) + sum(&datetimes);
            let twins =
                (0_u8..).zip(look.forms).filter(|(number, count)| *number != form && *count == form_count);
            let twins: Vec<_> = twins.map(|(number, _)| kind::form(number)).collect();
            match twins.as_slice() {
                [] if form_count < all => format!("mostly {}", kind::form(form)),
                [] => kind::form(form).to_owned(),
                twins => format!("{} or {}", kind::form(form), twins.join(" or ")),
            }
        };
        if look.filled == 0 {
            return Self { kind: None, form: None, fitting: 0, classes: Vec::new() };
        }
        let counts: Vec<(Class, u64)> =
            look.classes.iter().map(|(class, extremes)| (*class, extremes.count)).collect();
        let in_groups = look.classes.get(&Likely::IN_GROUPS);
        let in_groups = in_groups.map(|extremes| (extremes.lowest.as_str(), extremes.highest.as_str()));
        let likely = Likely::among(&counts, look.lengths, in_groups).filter(|likely| likely.is_likely);
        if let Some(Likely { kind, form, classes, fitting, .. }) = likely {
            let form = match kind {
                "date" => Some(form_says(form_count)),
                "datetime" => Some(format!("{} with a time", form_says(form_count))),
                _ => form.map(ToOwned::to_owned),
            };
            return Self { kind: Some(kind), form, fitting, classes };
        }
        let all: Vec<Class> = look.classes.keys().copied().collect();
        let is_short = look.lengths.is_some_and(|lengths| lengths.1 <= 40);
        let is_listed = distinct.is_some_and(|distinct| distinct <= 50 && look.filled >= 5 * distinct);
        let kind = if is_listed && is_short { "picklist" } else { "text" };
        Self { kind: Some(kind), form: None, fitting: look.filled, classes: all }
    }

    fn takes(&self, class: Class) -> bool {
        self.classes.contains(&class)
    }

    /// Whether one text comes before another, each with its class.
    fn is_lower(&self, one: (Class, &str), other: (Class, &str), kinds: &Kinds) -> bool {
        match (self.kind, one.0, other.0) {
            (Some("text" | "picklist"), ..) => one.1 < other.1,
            (Some("integer" | "decimal"), ..) => {
                let (one, other) = (kind::plainly(one.0, one.1), kind::plainly(other.0, other.1));
                Number::decimal(&one) < Number::decimal(&other)
            }
            (_, Class::Date(form) | Class::Datetime(form), Class::Date(others) | Class::Datetime(others)) => {
                kinds.day(one.1, form).map(Date::packed) < kinds.day(other.1, others).map(Date::packed)
            }
            _ => kinds.is_lower(one.0, one.1, other.1),
        }
    }
}

/// What is odd about a trimmed text.
fn odd(trimmed: &str, class: Class) -> Vec<Code> {
    let is_text = class == Class::Text;
    let tests = [
        (sheet_error::is_one(trimmed), Code::SpreadsheetError),
        (is_text && suspicion::has_stray_space(trimmed), Code::SpaceStray),
        (suspicion::control(trimmed).is_some(), Code::ControlCharacters),
        (suspicion::invisible(trimmed).is_some(), Code::CharactersInvisible),
        (suspicion::lookalike(trimmed).is_some(), Code::CharactersLookalike),
        (suspicion::before_double_encoding(trimmed).is_some(), Code::EncodingDoubt),
        (is_text && suspicion::is_formula_like(trimmed), Code::FormulaLike),
        (suspicion::has_lost_precision(trimmed), Code::PrecisionLost),
        (is_text && suspicion::is_placeholder(trimmed) || suspicion::is_nines(trimmed), Code::Placeholder),
    ];
    tests.into_iter().filter(|test| test.0).map(|test| test.1).collect()
}

fn shortened(text: &str) -> String {
    match text.char_indices().nth(LONGEST_SHOWN) {
        Some((at, _)) => format!("{}…", text.get(..at).unwrap_or_default()),
        None => text.to_owned(),
    }
}
