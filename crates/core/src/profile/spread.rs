//! How the values of a column are spread: over a range, or over words.

use super::kind::{COMPACT, Class, Kinds, is_compact_day, plainly};
use crate::value::Date;
use std::collections::HashMap;
use xxhash_rust::xxh3::xxh3_64;

/// A range is parted into so many equal parts.
const BINS: usize = 12;
/// So many words are told, the most frequent first.
const WORDS: usize = 6;
/// A word is told up to so many characters.
const LONGEST_WORD: usize = 24;

/// How the values of a column are spread.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub enum Spread {
    /// There is nothing to tell.
    #[default]
    Nothing,
    /// How many values stand in each of the equal parts between the lowest and the highest one.
    Values(Vec<u64>),
    /// How many texts there are of each length, in equal parts between the shortest and the longest.
    Lengths(Vec<u64>),
    /// The most frequent words, and how many cells hold others.
    Words(Vec<(String, u64)>, u64),
}

/// The values of a column while they go by.
#[derive(Debug, Default)]
pub(super) struct SpreadLook {
    numbers: Vec<f64>,
    days: Vec<i64>,
    lengths: Vec<u32>,
    words: HashMap<u64, (String, u64)>,
}

impl SpreadLook {
    pub(super) fn look_at(&mut self, text: &str, class: Class, length: u64, kinds: &Kinds) {
        match class {
            Class::Date(form) | Class::Datetime(form) => {
                self.days.extend(kinds.day(text, form).map(Date::number));
            }
            class if class.is_plain_number() => {
                if is_compact_day(text.as_bytes()) {
                    self.days.extend(kinds.day(text, COMPACT).map(Date::number));
                }
                self.numbers
                    .extend(plainly(class, text).parse::<f64>().ok().filter(|number| number.is_finite()));
            }
            _ => {}
        }
        self.lengths.push(u32::try_from(length).unwrap_or(u32::MAX));
        let word = self.words.entry(xxh3_64(text.as_bytes()));
        word.or_insert_with(|| (text.chars().take(LONGEST_WORD).collect(), 0)).1 += 1;
    }

    /// What it comes to in a column of this kind.
    pub(super) fn finish(self, kind: Option<&str>) -> Spread {
        #[expect(clippy::cast_precision_loss, reason = "days are far below 2^52")]
        let days = || self.days.iter().map(|day| *day as f64).collect::<Vec<f64>>();
        let few = self.words.len() <= WORDS;
        match kind {
            Some("integer" | "decimal") if !few => Spread::Values(bins(&self.numbers)),
            Some("date" | "datetime") if !few => Spread::Values(bins(&days())),
            Some("picklist" | "boolean") => self.into_words(),
            None => Spread::Nothing,
            Some(_) if few => self.into_words(),
            Some(_) => {
                let lengths: Vec<f64> = self.lengths.iter().map(|length| f64::from(*length)).collect();
                Spread::Lengths(bins(&lengths))
            }
        }
    }

    fn into_words(self) -> Spread {
        let mut words: Vec<(String, u64)> = self.words.into_values().collect();
        words.sort_by(|one, other| {
            (std::cmp::Reverse(one.1), &one.0).cmp(&(std::cmp::Reverse(other.1), &other.0))
        });
        let rest = words.split_off(words.len().min(WORDS));
        Spread::Words(words, rest.iter().map(|word| word.1).sum())
    }
}

/// How many of the numbers stand in each of the equal parts of their range.
#[expect(
    clippy::cast_possible_truncation,
    clippy::cast_sign_loss,
    reason = "the place is a small positive number"
)]
fn bins(numbers: &[f64]) -> Vec<u64> {
    let lowest = numbers.iter().copied().fold(f64::INFINITY, f64::min);
    let highest = numbers.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let mut bins = vec![0; BINS];
    let span = highest - lowest;
    if numbers.is_empty() || !span.is_finite() {
        return Vec::new();
    }
    for number in numbers {
        let place = if span > 0.0 { (number - lowest) / span * 12.0 } else { 0.0 };
        if let Some(bin) = bins.get_mut((place as usize).min(BINS - 1)) {
            *bin += 1;
        }
    }
    bins
}
