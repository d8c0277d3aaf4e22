//! Several values in one cell.

use super::judging::Judging;
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::sweep::{Sound, Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::gate::wordset::WordSet;
use crate::numerals::counted;
use crate::scan::{Lanes, Numbers};
use crate::schema;
use crate::schema::Field;
use crate::value::Picklist;
use std::borrow::Cow;
use std::cell::Cell;

/// Values of one kind with something between them.
#[derive(Debug)]
pub(crate) struct Many {
    inner: Box<dyn Judging>,
    separator: String,
    max: Option<usize>,
    /// The words of which each is a value of its own: codes that are not retired, or keys.
    codes: WordSet,
}

impl Many {
    /// Several values of `inner`.
    pub(super) fn new(inner: Box<dyn Judging>, stated: &schema::Many, lists: &[Picklist]) -> Self {
        Self {
            codes: inner.codes(&stated.separator, lists),
            inner,
            separator: stated.separator.clone(),
            max: stated.max.map(|max| max as usize),
        }
    }

    fn standard<'a>(&self, part: &'a str, lists: &'a [Picklist]) -> Option<Cow<'a, str>> {
        self.inner.read(part.into(), lists).ok().map(Value::standard)
    }

    /// The standard forms of the values; nothing where one has none.
    pub(super) fn standards(&self, text: &str, lists: &[Picklist]) -> Option<Vec<String>> {
        let standard = |part| self.standard(part, lists).map(Cow::into_owned);
        parts(text, &self.separator).map(standard).collect()
    }

    /// Another common separator, at which the text splits into permitted values alone.
    fn other_separator(&self, text: &str, lists: &[Picklist]) -> Option<&'static str> {
        SEPARATORS.into_iter().filter(|other| *other != self.separator && text.contains(other)).find(
            |other| {
                let is_sound = |part: &str| self.inner.judge(part.into(), lists) == Verdict::SOUND;
                parts(text, other).count() > 1 && parts(text, other).all(is_sound)
            },
        )
    }
}

impl Judging for Many {
    fn read<'a>(&self, given: Given<'a>, lists: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        let values = self.standards(given.text, lists);
        let joined = values.map(|values| Value::Text(values.join(&self.separator).into()));
        joined.ok_or_else(|| self.judge(given, lists))
    }

    fn judge(&self, given: Given<'_>, lists: &[Picklist]) -> Verdict {
        let mut verdict = Verdict::SOUND;
        let mut seen: Vec<String> = Vec::new();
        let mut count = 0;
        for part in parts(given.text, &self.separator) {
            count += 1;
            self.inner.judge(part.into(), lists).codes().for_each(|code| verdict.add_once(code));
            if let Some(value) = self.standard(part, lists) {
                // Written beside others it would be read as several.
                if self.inner.takes_any_key() && value.contains(&self.separator) {
                    verdict.add(Code::ReferenceUnclear);
                }
                if seen.iter().any(|known| *known == *value) {
                    verdict.add_once(Code::ListRepeated);
                }
                seen.push(value.into_owned());
            }
        }
        let is_off = verdict.codes().any(|code| matches!(code, Code::OffList | Code::ReferenceUnknown));
        if is_off && self.other_separator(given.text, lists).is_some() {
            return Verdict::one(Code::ListSeparator);
        }
        if self.max.is_some_and(|max| count > max) {
            verdict.add(Code::ListTooMany);
        }
        verdict
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let buffer = sweep.buffer;
        let (false, [separator]) = (self.codes.is_empty(), self.separator.as_bytes()) else {
            return sweep.none();
        };
        let (max, unlike) = (self.max.unwrap_or(usize::MAX), Cell::new(0));
        let codes = &self.codes;
        let swept = sweep.over(Several { buffer, separator: *separator, max, codes, unlike: &unlike });
        Swept { unlike: unlike.get(), ..swept }
    }

    fn stands(&self, sound: &[u8]) -> bool {
        match self.separator.as_bytes() {
            [separator] => sound.split(|byte| byte == separator).all(|part| self.codes.has(part)),
            _ => false,
        }
    }

    fn known_words(&self) -> Option<&WordSet> {
        Some(&self.codes)
    }

    fn list(&self) -> Option<usize> {
        self.inner.list()
    }

    fn holds_no_value(&self, text: &str) -> bool {
        parts(text, &self.separator).next().is_none()
    }

    fn expected(&self, code: Code, field: &Field, lists: &[Picklist]) -> Option<String> {
        match code {
            Code::ListTooMany => {
                Some(format!("at most {}", counted(self.max.unwrap_or(0) as u64, "value", "values")))
            }
            Code::ListSeparator => Some(format!("{:?} between the values", self.separator)),
            Code::OffList | Code::OffListRetired | Code::ReferenceUnknown | Code::ReferenceUnclear => {
                self.inner.expected(code, field, lists)
            }
            _ => None,
        }
    }

    fn suggestion(&self, code: Code, text: &str, lists: &[Picklist]) -> Option<String> {
        match code {
            Code::ListSeparator => {
                let other = self.other_separator(text, lists)?;
                let parts: Vec<&str> = text.split(other).map(str::trim).collect();
                Some(parts.join(&format!("{} ", self.separator.trim())))
            }
            Code::OffList | Code::ReferenceUnknown => {
                let is_off =
                    |part: &&str| self.inner.judge((*part).into(), lists).codes().any(|found| found == code);
                let wrong = text.split(self.separator.as_str()).map(str::trim).find(is_off)?;
                self.inner.suggestion(code, wrong, lists)
            }
            _ => None,
        }
    }
}

/// Marks that people put between values.
const SEPARATORS: [&str; 5] = [";", ",", "|", "/", "\n"];

/// The values of a cell that holds several.
fn parts<'a>(text: &'a str, separator: &'a str) -> impl Iterator<Item = &'a str> {
    text.split(separator).map(str::trim).filter(|part| !part.is_empty())
}

/// Whether the cell is a list of codes, none of which stands twice; and then whether no space stands behind a separator,
/// as in the target.
#[inline(always)]
fn several(
    buffer: &[u8],
    (start, end): (usize, usize),
    separator: u8,
    max: usize,
    codes: &WordSet,
) -> Option<bool> {
    const MOST: usize = 8;
    let mut seen = [(0, 0); MOST];
    let (mut count, mut at, mut is_spaced) = (0, start, false);
    loop {
        let rest = buffer.get(at..end).unwrap_or_default();
        let part_end = memchr::memchr(separator, rest).map_or(end, |found| at + found);
        if count > 0 && buffer.get(at) == Some(&b' ') {
            at += 1;
            is_spaced = true;
        }
        if part_end <= at || count >= MOST.min(max) || !codes.holds(buffer, at, part_end - at) {
            return None;
        }
        let part = buffer.get(at..part_end);
        if seen.iter().take(count).any(|&(start, end)| buffer.get(start..end) == part) {
            return None;
        }
        if let Some(slot) = seen.get_mut(count) {
            *slot = (at, part_end);
        }
        count += 1;
        if part_end == end {
            return Some(!is_spaced);
        }
        at = part_end + 1;
    }
}

/// Cells of codes with a separator between them.
struct Several<'a> {
    buffer: &'a [u8],
    separator: u8,
    max: usize,
    codes: &'a WordSet,
    /// Counts those with a space behind a separator.
    unlike: &'a Cell<u64>,
}

impl Sound for Several<'_> {
    const KNOWS_SIXTEEN: bool = true;

    #[inline(always)]
    fn sound<L: Lanes>(&self, _: &L, start: usize, end: usize) -> bool {
        let stands = several(self.buffer, (start, end), self.separator, self.max, self.codes);
        self.unlike.set(self.unlike.get() + u64::from(stands == Some(false)));
        stands.is_some()
    }

    // Many cells hold one code alone.
    #[inline(always)]
    fn sixteen<N: Numbers>(&self, numbers: N, starts: N::Sixteen, lengths: N::Sixteen) -> Option<N::Sixteen> {
        if self.max == 0 { None } else { self.codes.held(numbers, self.buffer, starts, lengths) }
    }
}
