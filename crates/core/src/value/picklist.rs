//! Picklists: which value of the list a text stands for.

use crate::likeness::{self, Index, Likening};
use std::collections::HashMap;
use std::sync::{Arc, OnceLock};

/// A list of permitted values.
#[derive(Debug, Clone, Default)]
pub struct Picklist {
    /// Its name in the record schema.
    pub name: String,
    /// Whether a value that is not on the list only warns.
    pub open: bool,
    /// Whether only the code counts, letter by letter.
    pub exact: bool,
    /// Whether it is a standard list, of whose values one is often like another.
    pub is_standard: bool,
    /// The values.
    pub values: Vec<PickValue>,
    exactly: HashMap<Box<str>, Ranked>,
    loosely: HashMap<Box<str>, Ranked>,
    /// How many of its values are not retired.
    current: usize,
    near: Arc<OnceLock<Near>>,
}

/// The words that may be proposed.
#[derive(Debug)]
struct Near {
    index: Index,
    /// The value of each word, and which of its words it is.
    places: Vec<(u32, u32)>,
}

/// One permitted value.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct PickValue {
    /// What the target stores.
    pub code: String,
    /// What people read, where it differs from the code.
    pub label: Option<String>,
    /// Other words for it.
    pub also: Vec<String>,
    /// Whether new records may no longer carry it.
    pub retired: bool,
}

impl PickValue {
    /// Its words with their rank: the code 0, the label 1, other words 2.
    pub fn words(&self) -> impl Iterator<Item = (usize, &str)> {
        let also = self.also.iter().map(|word| (2, word.as_str()));
        std::iter::once((0, self.code.as_str()))
            .chain(self.label.as_deref().map(|label| (1, label)))
            .chain(also)
    }
}

/// The values that claim a word, by rank: as code, as label, as another word.
#[derive(Debug, Clone, Default)]
struct Ranked([Claim; 3]);

#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
enum Claim {
    #[default]
    None,
    One(u32),
    Several,
}

impl Claim {
    fn add(&mut self, value: u32) {
        *self = match *self {
            Self::None => Self::One(value),
            Self::One(before) if before == value => return,
            Self::One(_) | Self::Several => Self::Several,
        };
    }
}

/// What a text stands for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Match {
    /// The value of this number.
    Value(usize),
    /// Case and spaces aside, several values.
    Several,
    /// No value of the list.
    None,
}

impl Picklist {
    /// A list ready for look-ups.
    #[must_use]
    pub fn new(name: &str, open: bool, exact: bool, values: Vec<PickValue>) -> Self {
        let current = values.iter().filter(|value| !value.retired).count();
        let mut list = Self { name: name.to_owned(), open, exact, values, current, ..Self::default() };
        for (value, number) in list.values.iter().zip(0_u32..) {
            for (rank, word) in value.words() {
                for (words, word) in
                    [(&mut list.exactly, word.into()), (&mut list.loosely, folded(word).into())]
                {
                    if let Some(claim) = words.entry(word).or_default().0.get_mut(rank) {
                        claim.add(number);
                    }
                }
            }
        }
        list
    }

    /// What the text stands for: exactly first, then with case, outer and doubled spaces aside; code before
    /// label before other words.
    #[must_use]
    pub fn find(&self, text: &str) -> Match {
        if self.exact {
            return match self.exactly.get(text).map(|ranked| ranked.0[0]) {
                Some(Claim::One(value)) => Match::Value(value as usize),
                _ => Match::None,
            };
        }
        match first_claim(self.exactly.get(text)) {
            Claim::One(value) => Match::Value(value as usize),
            _ => match first_claim(self.loosely.get(folded(text).as_str())) {
                Claim::One(value) => Match::Value(value as usize),
                Claim::Several => Match::Several,
                Claim::None => Match::None,
            },
        }
    }

    /// How many of its values are not retired.
    #[must_use]
    pub fn current(&self) -> usize {
        self.current
    }

    /// Every text that is exactly one of the words, with the value it stands for.
    pub fn exact_words(&self) -> impl Iterator<Item = (&str, usize)> {
        self.exactly.iter().filter_map(|(word, ranked)| {
            let claim = if self.exact { ranked.0[0] } else { first_claim(Some(ranked)) };
            match claim {
                Claim::One(value) => Some((&**word, value as usize)),
                _ => None,
            }
        })
    }

    /// The label that stands for the value of this code; nothing where it has none, or another value is meant by it.
    #[must_use]
    pub fn label_of(&self, code: &str) -> Option<&str> {
        let number = self.values.iter().position(|value| value.code == code)?;
        let label = self.values.get(number)?.label.as_deref()?;
        (self.find(label) == Match::Value(number)).then_some(label)
    }

    /// The word nearest to the text, where one is near; retired values are not proposed.
    #[must_use]
    pub fn nearest(&self, text: &str) -> Option<&str> {
        let values = || self.values.iter().zip(0_u32..).filter(|(value, _)| !value.retired);
        if self.is_standard
            && let Some(code) =
                values().map(|(value, _)| &value.code).find(|code| likeness::is_slip(code, text))
        {
            return Some(code);
        }
        let near = self.near.get_or_init(|| {
            let of_rank = |rank| if self.is_standard { rank == 1 } else { !self.exact || rank == 0 };
            let words = values().flat_map(|(value, number)| {
                value.words().zip(0_u32..).map(move |((rank, word), which)| (rank, word, (number, which)))
            });
            let (words, places): (Vec<&str>, Vec<(u32, u32)>) =
                words.filter(|word| of_rank(word.0)).map(|(_, word, place)| (word, place)).unzip();
            let likening = if self.is_standard { Likening::Names } else { Likening::Words };
            Near { index: Index::new(likening, words.into_iter()), places }
        });
        let (value, which) = near.index.nearest(text).and_then(|number| near.places.get(number))?;
        let word = self.values.get(*value as usize)?.words().nth(*which as usize)?.1;
        // The word that was refused is no help.
        (word != text).then_some(word)
    }
}

fn first_claim(ranked: Option<&Ranked>) -> Claim {
    ranked.and_then(|ranked| ranked.0.iter().copied().find(|claim| *claim != Claim::None)).unwrap_or_default()
}

/// The word with case, outer and doubled spaces aside.
fn folded(word: &str) -> String {
    let spaced = word.split_whitespace().collect::<Vec<_>>().join(" ");
    caseless::default_case_fold_str(&spaced)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn value(code: &str, label: &str, also: &[&str]) -> PickValue {
        let label = (!label.is_empty()).then(|| label.to_owned());
        PickValue {
            code: code.into(),
            label,
            also: also.iter().map(ToString::to_string).collect(),
            retired: false,
        }
    }

    #[test]
    fn exact_words_win_and_loose_ones_count_where_one_value_is_left() {
        let values = vec![
            value("E", "Excellent", &["top"]),
            value("G", "Good", &["OK", "Fine"]),
            value("e", "Evergreen", &[]),
            value("F", "good enough", &["Good"]),
        ];
        let list = Picklist::new("condition", false, false, values.clone());
        for (text, wanted) in [
            ("E", Match::Value(0)),
            ("e", Match::Value(2)),
            ("EXCELLENT", Match::Value(0)),
            ("  good   ENOUGH ", Match::Value(3)),
            ("Good", Match::Value(1)),
            ("ok", Match::Value(1)),
            ("poor", Match::None),
            ("", Match::None),
        ] {
            assert_eq!(list.find(text), wanted, "{text}");
        }
        let twice = Picklist::new("x", false, false, vec![value("Ab", "", &[]), value("aB", "", &[])]);
        assert_eq!((twice.find("Ab"), twice.find("AB")), (Match::Value(0), Match::Several));
        let exact = Picklist::new("condition", false, true, values);
        assert_eq!(
            (exact.find("G"), exact.find("Good"), exact.find("g")),
            (Match::Value(1), Match::None, Match::None)
        );
        assert_eq!((list.label_of("E"), exact.label_of("E")), (Some("Excellent"), None));
        let crossed = vec![value("A", "B", &[]), value("B", "A", &[])];
        assert_eq!(Picklist::new("x", false, false, crossed).label_of("A"), None);
        assert_eq!(list.nearest("Excelent"), Some("Excellent"));
        assert_eq!(list.nearest("42"), None);
    }

    /// Wrong words of several trades, with what should be proposed: none where the list holds nothing that was meant.
    #[test]
    fn a_wrong_word_gets_the_word_that_was_meant_or_none() {
        for (list, words) in WRONG_WORDS {
            let values = list.split(", ").map(|said| match said.split_once('=') {
                Some((code, label)) => value(code, label, &[]),
                None => value(said, "", &[]),
            });
            let list = Picklist::new("list", false, false, values.collect());
            for (word, wanted) in *words {
                assert_eq!(list.nearest(word), (!wanted.is_empty()).then_some(*wanted), "{word}");
            }
        }
    }

    const WRONG_WORDS: &[(&str, &[(&str, &str)])] = &[
        (
            "E=Excellent, G=Good, F=Fair, P=Poor, D=Dead",
            &[
                ("Exellent", "Excellent"),
                ("Goood", "Good"),
                ("Goo", "Good"),
                ("Farir", "Fair"),
                ("dea d", "Dead"),
                ("X", ""),
                ("EG", ""),
                ("unknown", ""),
                ("bad", ""),
                ("Moderate", ""),
            ],
        ),
        (
            "ROO=Root plate, CRN=Crown, STM=Stem, DCY=Decay",
            &[
                ("Rot", ""),
                ("RO", "ROO"),
                ("RROO", "ROO"),
                ("CNR", "CRN"),
                ("CRW", ""),
                ("Crwon", "Crown"),
                ("Rootplate", "Root plate"),
                ("STN", ""),
                ("decayed", "Decay"),
                ("n/a", ""),
            ],
        ),
        (
            "GRD=Guard, HRD=Head guard, SUP=Supervisor, TMP=Temporary staff",
            &[
                ("GUR", ""),
                ("Superviser", "Supervisor"),
                ("Temp. staff", "Temporary staff"),
                ("Head gaurd", "Head guard"),
                ("Manager", ""),
                ("SPU", "SUP"),
            ],
        ),
        (
            "EUR, GBP, SEK, NOK, CHF",
            &[("EUO", ""), ("ERU", "EUR"), ("EURO", "EUR"), ("Kroner", ""), ("SKE", "SEK"), ("NO", "NOK")],
        ),
        (
            "bezahlt, offen, überfällig, storniert",
            &[
                ("bezalt", "bezahlt"),
                ("ofen", "offen"),
                ("ueberfällig", "überfällig"),
                ("überfallig", "überfällig"),
                ("storno", "storniert"),
                ("unbezahlt", "bezahlt"),
                ("neu", ""),
            ],
        ),
        (
            "payée, en attente, annulée",
            &[("payee", "payée"), ("en attent", "en attente"), ("anulée", "annulée"), ("reçue", "")],
        ),
    ];
}
