//! Picklists: which value of the list a text stands for.

use crate::likeness::{self, Index, Likening};
use std::sync::{Arc, OnceLock};
use xxhash_rust::xxh3::xxh3_64;

/// A list of permitted values. A clone shares what is long with it.
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
    pub values: Arc<[PickValue]>,
    /// All words by their hash as they stand, and without case.
    exactly: Arc<[Word]>,
    loosely: Arc<[Word]>,
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
    pub fn words(&self) -> impl Iterator<Item = (u32, &str)> {
        let also = self.also.iter().map(|word| (2, word.as_str()));
        std::iter::once((0, self.code.as_str()))
            .chain(self.label.as_deref().map(|label| (1, label)))
            .chain(also)
    }

    /// The word at this place among them.
    #[must_use]
    pub fn word(&self, which: usize) -> Option<&str> {
        match (which, &self.label) {
            (0, _) => Some(&self.code),
            (1, Some(label)) => Some(label),
            (_, label) => self.also.get(which - 1 - usize::from(label.is_some())).map(String::as_str),
        }
    }
}

/// One of the words of a value: 16 bytes, whatever its length.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Word {
    /// The hash of what it is looked up by.
    hash: u64,
    /// Which of the value's words it is; in the two highest bits whether code (0), label (1) or another (2).
    place: u32,
    /// The value.
    value: u32,
}

impl Word {
    const BITS: u32 = 30;

    fn rank(self) -> u32 {
        self.place >> Self::BITS
    }

    fn which(self) -> usize {
        (self.place & ((1 << Self::BITS) - 1)) as usize
    }

    fn text(self, values: &[PickValue]) -> &str {
        values.get(self.value as usize).and_then(|value| value.word(self.which())).unwrap_or_default()
    }

    /// The words of all values by their hash; codes before labels before others, and the first value first. What a
    /// value says twice is there once.
    fn all(
        values: &[PickValue],
        hash: impl Fn(&str) -> u64,
        is_same: impl Fn(&str, &str) -> bool,
    ) -> Vec<Self> {
        let mut all = Vec::with_capacity(values.len() * 2);
        for (value, number) in values.iter().zip(0_u32..) {
            let words = value.words().zip(0_u32..);
            all.extend(words.map(|((rank, word), which)| {
                let place = (rank << Self::BITS) | which;
                Self { hash: hash(word), place, value: number }
            }));
        }
        all.sort_unstable_by_key(|word| (word.hash, word.rank(), word.value, word.which()));
        all.dedup_by(|one, other| {
            (one.hash, one.rank(), one.value) == (other.hash, other.rank(), other.value)
                && is_same(one.text(values), other.text(values))
        });
        all
    }
}

/// The values that claim a word.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
enum Claim {
    #[default]
    None,
    One(u32),
    Several,
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
        let exactly = Word::all(&values, |word| xxh3_64(word.as_bytes()), |one, other| one == other);
        // Where only the code counts, letter by letter, nothing is looked up otherwise.
        let loosely = match exact {
            true => Vec::new(),
            false => Word::all(&values, loose_hash, |one, other| folded(one) == folded(other)),
        };
        let (exactly, loosely) = (exactly.into(), loosely.into());
        let (name, values) = (name.to_owned(), values.into());
        Self { name, open, exact, values, exactly, loosely, current, ..Self::default() }
    }

    /// A word as it is written.
    fn text(&self, word: Word) -> &str {
        word.text(&self.values)
    }

    /// The words of a hash that are the wanted one.
    fn all<'a>(
        &'a self,
        words: &'a [Word],
        hash: u64,
        is_it: impl Fn(&str) -> bool + 'a,
    ) -> impl Iterator<Item = Word> + 'a {
        let from = first_of(words, hash);
        let equal = words.iter().skip(from).take_while(move |word| word.hash == hash).copied();
        equal.filter(move |word| is_it(self.text(*word)))
    }

    /// Which value claims a word: code before label before other words.
    fn claim(mut words: impl Iterator<Item = Word>) -> Claim {
        let Some(first) = words.next() else { return Claim::None };
        let mut others = words.take_while(|word| word.rank() == first.rank());
        if others.any(|word| word.value != first.value) { Claim::Several } else { Claim::One(first.value) }
    }

    /// The words as they stand that are this text.
    fn exactly<'a>(&'a self, text: &'a str) -> impl Iterator<Item = Word> + 'a {
        self.all(&self.exactly, xxh3_64(text.as_bytes()), move |word| word == text)
    }

    /// The value of this code.
    #[must_use]
    pub fn of_code(&self, code: &str) -> Option<usize> {
        self.exactly(code).next().filter(|word| word.rank() == 0).map(|word| word.value as usize)
    }

    /// The only code that is a text but for case and spaces, in a list where codes count letter by letter.
    #[must_use]
    pub fn exact_but_for_case(&self, text: &str) -> Option<&str> {
        let wanted = folded(text);
        let mut same = self.values.iter().filter(|value| self.exact && folded(&value.code) == wanted);
        let one = same.next()?;
        same.next().is_none().then_some(one.code.as_str())
    }

    /// Words that are two codes, two labels or two other words: the later value, and which of its words it is.
    #[must_use]
    pub fn told_twice(&self) -> Vec<(usize, usize)> {
        let is_twice = |word: &&Word| {
            let mut same = self.exactly(self.text(**word)).filter(|other| other.rank() == word.rank());
            same.any(|other| other.value < word.value)
        };
        let alone = |at: usize| {
            let hash = |at: usize| self.exactly.get(at).map(|word| word.hash);
            let before = at.checked_sub(1).and_then(hash);
            before != hash(at)
        };
        let words = self.exactly.iter().enumerate().filter(|(at, _)| !alone(*at)).map(|(_, word)| word);
        let mut twice: Vec<_> =
            words.filter(is_twice).map(|word| (word.value as usize, word.which())).collect();
        twice.sort_unstable();
        twice
    }

    /// What the text stands for: exactly first, then with case, outer and doubled spaces aside; code before
    /// label before other words.
    #[must_use]
    pub fn find(&self, text: &str) -> Match {
        if self.exact {
            return self.of_code(text).map_or(Match::None, Match::Value);
        }
        match Self::claim(self.exactly(text)) {
            Claim::One(value) => Match::Value(value as usize),
            _ => {
                let loose = folded(text);
                let hash = xxh3_64(loose.as_bytes());
                match Self::claim(self.all(&self.loosely, hash, |word| folded(word) == loose)) {
                    Claim::One(value) => Match::Value(value as usize),
                    Claim::Several => Match::Several,
                    Claim::None => Match::None,
                }
            }
        }
    }

    /// How many of its values are not retired.
    #[must_use]
    pub fn current(&self) -> usize {
        self.current
    }

    /// Every text that is exactly one of the words, with the value it stands for.
    pub fn exact_words(&self) -> impl Iterator<Item = (&str, usize)> {
        let of_hash = self.exactly.chunk_by(|one, other| one.hash == other.hash);
        of_hash.flat_map(|words| words.iter().map(move |word| (words, *word))).filter_map(|(words, word)| {
            let text = self.text(word);
            let mut same = words.iter().copied().filter(|other| self.text(*other) == text);
            let claim = Self::claim(same.clone());
            match claim {
                Claim::One(value) if same.next() == Some(word) && !(self.exact && word.rank() > 0) => {
                    Some((text, value as usize))
                }
                _ => None,
            }
        })
    }

    /// The label that stands for the value of this code; nothing where it has none, or another value is meant by it.
    #[must_use]
    pub fn label_of(&self, code: &str) -> Option<&str> {
        let number = self.of_code(code)?;
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
        let word = self.values.get(*value as usize)?.word(*which as usize)?;
        // The word that was refused is no help.
        (word != text).then_some(word)
    }
}

/// Where the words of a hash begin. Hashes are spread evenly, so that the place is guessed first; a search of all words
/// is what it falls back to.
fn first_of(words: &[Word], hash: u64) -> usize {
    const BESIDE: usize = 512;
    let guess = usize::try_from((u128::from(hash) * words.len() as u128) >> 64).unwrap_or_default();
    let (low, high) = (guess.saturating_sub(BESIDE), (guess + BESIDE).min(words.len()));
    let is_between =
        low.checked_sub(1).and_then(|before| words.get(before)).is_none_or(|word| word.hash < hash)
            && words.get(high).is_none_or(|word| word.hash >= hash);
    let (low, high) = if is_between { (low, high) } else { (0, words.len()) };
    let near = words.get(low..high).unwrap_or_default();
    low + near.partition_point(|word| word.hash < hash)
}

fn loose_hash(word: &str) -> u64 {
    xxh3_64(folded(word).as_bytes())
}

/// The word with case, outer and doubled spaces aside.
pub(super) fn folded(word: &str) -> String {
    let mut spaced = String::with_capacity(word.len());
    for part in word.split_whitespace() {
        if !spaced.is_empty() {
            spaced.push(' ');
        }
        spaced.push_str(part);
    }
    if spaced.is_ascii() {
        spaced.make_ascii_lowercase();
        return spaced;
    }
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
