//! The likely kind of a column.

use crate::draft::sample::{Column, Seen};
use crate::profile::{Class, Likely, Mark, plainly};
use crate::schema::raw::KindName;

/// The likely kind of a column.
pub(super) struct Guess {
    pub(super) kind: KindName,
    /// How its numbers are written.
    pub(super) form: Option<&'static str>,
    /// The kind that many cells have, but not enough.
    pub(super) mostly: Option<(&'static str, u64)>,
    pub(super) fitting: u64,
    pub(super) misfit: Option<(u64, String)>,
    /// The extremes, with their classes.
    pub(super) lowest: Option<(Class, String)>,
    pub(super) highest: Option<(Class, String)>,
    pub(super) digits: (u32, u32),
    pub(super) has_comma: bool,
    /// How many cells alone have decimals, and the first of them: few may be slips.
    pub(super) decimals: Option<(u64, (u64, String))>,
}

impl Guess {
    /// Of a column that its heading calls a key, or not: running numbers that begin with a year look like days.
    pub(super) fn of(column: &Column, is_called_a_key: bool) -> Self {
        let classes = if is_called_a_key { column.classes_without_days() } else { column.classes() };
        let counts: Vec<(Class, u64)> = classes.iter().map(|class| (class.0, class.1.count)).collect();
        let in_groups = classes.iter().find(|class| class.0 == Likely::IN_GROUPS);
        let in_groups = in_groups.map(|(_, seen)| (seen.lowest.as_str(), seen.highest.as_str()));
        let mut guess = Self {
            kind: KindName::Text,
            form: None,
            mostly: None,
            fitting: column.filled,
            misfit: None,
            lowest: None,
            highest: None,
            digits: (0, 0),
            has_comma: false,
            decimals: None,
        };
        let Some(likely) = Likely::among(&counts, column.lengths, in_groups) else { return guess };
        guess.form = likely.form.filter(|_| likely.is_likely);
        let named = |kind: &&KindName| kind.name() == likely.kind;
        let kind = KindName::ALL.iter().find(named).copied().unwrap_or(KindName::Text);
        let (fitting, rest): (Vec<(Class, &Seen)>, Vec<_>) =
            classes.iter().partition(|class| likely.classes.contains(&class.0));
        guess.misfit = rest.iter().map(|(_, seen)| seen.first.clone()).min_by_key(|first| first.0);
        // Without the code of their country, they are numbers of a region that is not known.
        if kind == KindName::Phone && likely.is_likely && !fitting.iter().all(|(_, seen)| is_abroad(seen)) {
            guess.form = Some(
                "LOOK: telephone numbers without the code of their country: kind = \"phone\" and their region read them",
            );
            return guess;
        }
        if !likely.is_likely || kind == KindName::Text {
            let is_said = !likely.is_likely && likely.fitting * 2 >= column.filled && likely.fitting > 1;
            guess.mostly = is_said.then_some((likely.kind, likely.fitting));
            return guess;
        }
        (guess.kind, guess.fitting) = (kind, likely.fitting);
        guess.has_comma = likely.form.is_some_and(|form| form.contains("comma"));
        fitting.into_iter().for_each(|(class, seen)| guess.take(class, seen));
        guess
    }

    /// Takes the extremes of the cells of a class.
    fn take(&mut self, class: Class, seen: &Seen) {
        let is_less = |one: &str, other: &str| match (bound_number(one), bound_number(other)) {
            (Some(one), Some(other)) => one < other,
            _ => one < other,
        };
        // In a column with a decimal comma, so is the one comma of `1,234`.
        let class = match class {
            Class::Thousands(Mark::Unsure, _) if self.has_comma => Class::CommaDecimal,
            class => class,
        };
        let end = |text: &String| match self.kind.is_number() {
            true => plainly(class, text).into_owned(),
            false => text.clone(),
        };
        let (low, high) = (end(&seen.lowest), end(&seen.highest));
        if self.lowest.as_ref().is_none_or(|lowest| is_less(&low, &lowest.1)) {
            self.lowest = Some((class, low));
        }
        if self.highest.as_ref().is_none_or(|highest| is_less(&highest.1, &high)) {
            self.highest = Some((class, high));
        }
        self.digits = (self.digits.0.max(seen.digits.0), self.digits.1.max(seen.digits.1));
        if matches!(class, Class::Decimal | Class::CommaDecimal) {
            let (count, first) = self.decimals.get_or_insert((0, seen.first.clone()));
            *count += seen.count;
            if seen.first.0 < first.0 {
                first.clone_from(&seen.first);
            }
        }
    }
}

/// Whether telephone numbers begin with the code of their country, as far as they are remembered.
fn is_abroad(seen: &Seen) -> bool {
    [&seen.first.1, &seen.lowest, &seen.highest].into_iter().all(|text| text.starts_with('+'))
}

pub(super) fn bound_number(text: &str) -> Option<f64> {
    text.replace('\u{2212}', "-").parse().ok()
}
