//! `text`: any text, by pattern, case and length.

use super::from::From;
use super::judging::{Judging, Nature};
use super::lengths::{expected_length, found_length, judge_length};
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::plain_text::{are_written_plainly, is_odd_at, is_written_plainly};
use crate::gate::sweep::{Sound, Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::scan::{Dialect, Lanes, Numbers, Places, is_plain};
use crate::schema::{Field, Kind, TextRules};
use crate::value::{Case, Picklist, suspicion};

/// The rules of a text.
#[derive(Debug)]
pub(crate) struct Text {
    rules: TextRules,
    /// The pattern as places, where that says the same as pattern and case together.
    places: Option<Places>,
}

impl Text {
    pub(super) fn of(field: &Field, _: From<'_>) -> Option<Self> {
        let Kind::Text(rules) = &field.kind else { return None };
        Some(Self { rules: rules.clone(), places: places(rules) })
    }

    fn fits(&self, text: &str) -> bool {
        self.rules.pattern.as_ref().is_none_or(|pattern| pattern.fits(text))
    }

    /// The text in another case in which it fits, where only the case is wrong.
    fn cased(&self, text: &str) -> Option<String> {
        let cases = match self.rules.case {
            Some(case) => vec![case],
            None => vec![Case::Upper, Case::Lower],
        };
        let changed = cases.into_iter().map(|case| case.of(text));
        changed.into_iter().find(|changed| changed != text && self.fits(changed))
    }

    /// The text with the leading zeros that it lost, where its pattern does not fit but then would.
    fn with_zeros(&self, text: &str) -> Option<String> {
        const MOST: usize = 18;
        let pattern = self.rules.pattern.as_ref()?;
        if !text.bytes().all(|byte| byte.is_ascii_digit()) || pattern.fits(text) {
            return None;
        }
        let fits = |padded: &String| {
            pattern.fits(padded) && judge_length(self.rules.length, padded) == Verdict::SOUND
        };
        (1..=MOST).map(|zeros| format!("{}{text}", "0".repeat(zeros))).find(fits)
    }

    /// The expected form, never a bare pattern where words or an example are to be had.
    fn form(&self, field: &Field) -> String {
        let words = || self.rules.pattern.as_ref().and_then(|pattern| pattern.words());
        match (&self.rules.pattern_says, &field.example) {
            (Some(says), _) => says.clone(),
            (None, Some(example)) => format!("a value of the form of {example}"),
            (None, None) => words().unwrap_or_else(|| "the form that the record schema states".to_owned()),
        }
    }
}

impl Judging for Text {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        Ok(Value::Text(given.text.into()))
    }

    fn check(&self, _: &Value<'_>, text: &str) -> Verdict {
        let mut verdict = judge_length(self.rules.length, text);
        if self.with_zeros(text).is_some() {
            return Verdict::one(Code::ZerosLost);
        }
        let wrong_case = self.rules.case.is_some_and(|case| case.of(text) != text);
        if self.fits(text) {
            if wrong_case {
                verdict.add(Code::CaseWrong);
            }
        } else if self.cased(text).is_some() {
            verdict.add(Code::CaseWrong);
        } else {
            verdict.add(Code::PatternBroken);
        }
        verdict
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let (buffer, dialect, rules) = (sweep.buffer, sweep.dialect, &self.rules);
        let looks = sweep.cells.oddities.any_in_text();
        if let Some(places) = &self.places {
            return sweep.over(|start, end| places.fit(buffer, start, end - start));
        }
        // No unit counts more for a text than its bytes.
        if rules.pattern.is_none() && rules.case.is_none() && rules.length.min.is_none() {
            let longest = rules.length.max.unwrap_or(usize::MAX);
            return sweep.over(Written { buffer, longest, looks });
        }
        if sweep.cells.oddities.non_ascii {
            return sweep.none();
        }
        sweep.over(|start, end| {
            ascii_text(buffer, start, end, rules, dialect) && !(looks && is_odd_at(buffer, start, end))
        })
    }

    fn is_verbatim(&self) -> bool {
        true
    }

    fn varies(&self) -> bool {
        self.places.is_none()
    }

    fn nature(&self) -> Nature {
        Nature::Text
    }

    fn holds_the_place(&self, given: Given<'_>) -> bool {
        // What fits a stated pattern is meant.
        self.rules.pattern.is_none() && suspicion::is_placeholder(given.text)
    }

    fn tells_apart(&self) -> bool {
        self.rules.pattern.is_some()
    }

    fn is_telling(&self, _: &[Picklist]) -> bool {
        self.rules.pattern.is_some()
    }

    fn expected(&self, code: Code, field: &Field, _: &[Picklist]) -> Option<String> {
        match code {
            Code::PatternBroken | Code::ZerosLost => Some(self.form(field)),
            Code::CaseWrong => Some(match self.rules.case {
                Some(case) => case.name().to_owned(),
                None => self.form(field),
            }),
            _ => expected_length(code, self.rules.length),
        }
    }

    fn detail(&self, code: Code, text: &str, _: bool) -> Option<String> {
        found_length(code, self.rules.length, text)
    }

    fn suggestion(&self, code: Code, text: &str, _: &[Picklist]) -> Option<String> {
        match code {
            Code::CaseWrong => self.cased(text),
            Code::ZerosLost => self.with_zeros(text),
            _ => None,
        }
    }
}

/// Texts without a rule but how long they are at most.
struct Written<'a> {
    buffer: &'a [u8],
    longest: usize,
    /// Whether some of the bytes are unusual.
    looks: bool,
}

impl Sound for Written<'_> {
    const IS_FLAT: bool = true;
    const KNOWS_SIXTEEN: bool = true;

    #[inline(always)]
    fn sound<L: Lanes>(&self, _: &L, start: usize, end: usize) -> bool {
        (end - start <= self.longest) & is_written_plainly(self.buffer, start, end, true)
            && !(self.looks && is_odd_at(self.buffer, start, end))
    }

    #[inline(always)]
    fn sixteen<N: Numbers>(&self, numbers: N, starts: N::Sixteen, lengths: N::Sixteen) -> Option<N::Sixteen> {
        if self.looks {
            return None;
        }
        let longest = numbers.all(u32::try_from(self.longest).unwrap_or(u32::MAX));
        let known = are_written_plainly(numbers, self.buffer, starts, lengths)?;
        Some(numbers.without(known, numbers.over(lengths, longest)))
    }
}

/// Whether a text of ASCII alone keeps all rules: its bytes are its characters in every unit.
#[inline(always)]
fn ascii_text(buffer: &[u8], start: usize, end: usize, rules: &TextRules, dialect: Dialect) -> bool {
    let Some(raw) = buffer.get(start..end) else { return false };
    let length = rules.length;
    is_plain(raw, dialect)
        && is_written_plainly(buffer, start, end, rules.pattern.is_none())
        && memchr::memchr(dialect.quote, raw).is_none()
        && length.max.is_none_or(|max| raw.len() <= max)
        && length.min.is_none_or(|min| raw.len() >= min)
        && match rules.case {
            Some(Case::Upper) => !raw.iter().any(u8::is_ascii_lowercase),
            Some(Case::Lower) => !raw.iter().any(u8::is_ascii_uppercase),
            None => true,
        }
        && match &rules.pattern {
            Some(pattern) => std::str::from_utf8(raw).is_ok_and(|text| pattern.fits(text)),
            None => true,
        }
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
