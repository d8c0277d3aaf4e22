//! `picklist`: a value of a list, by its code, its label or another spelling.

use super::from::From;
use super::judging::{Judging, Nature};
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::form::Form;
use crate::gate::sweep::{Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::gate::wordset::WordSet;
use crate::numerals::grouped;
use crate::schema::{Field, Kind};
use crate::value::{Match, Picklist};

/// A list.
#[derive(Debug)]
pub(crate) struct PicklistKind {
    pub(crate) list: usize,
    /// Words that stand for a value that is not retired.
    words: WordSet,
}

impl PicklistKind {
    pub(super) fn of(field: &Field, from: From<'_>) -> Option<Self> {
        let Kind::Picklist(list) = &field.kind else { return None };
        let words = from.schema.picklists.get(*list).into_iter().flat_map(|picklist| {
            let current = |value: usize| picklist.values.get(value).is_some_and(|value| !value.retired);
            picklist.exact_words().filter(move |word| current(word.1)).map(|word| word.0)
        });
        Some(Self { list: *list, words: WordSet::new(words) })
    }
}

impl Judging for PicklistKind {
    fn read<'a>(&self, given: Given<'a>, lists: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        let Some(list) = lists.get(self.list) else { return Err(Verdict::SOUND) };
        match list.find(given.text) {
            Match::Value(value) => {
                let value = list.values.get(value).map(|value| value.code.as_str().into());
                value.map(Value::Text).ok_or(Verdict::SOUND)
            }
            _ if list.open => Ok(Value::Text(given.text.into())),
            _ => Err(Verdict::one(Code::OffList)),
        }
    }

    // An open list takes what is off it, and says so.
    fn judge(&self, given: Given<'_>, lists: &[Picklist]) -> Verdict {
        let Some(list) = lists.get(self.list) else { return Verdict::SOUND };
        match list.find(given.text) {
            Match::Value(value) if list.values.get(value).is_some_and(|value| value.retired) => {
                Verdict::one(Code::OffListRetired)
            }
            Match::Value(_) => Verdict::SOUND,
            Match::Several | Match::None => Verdict::one(Code::OffList),
        }
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        sweep.over_words(&self.words)
    }

    fn standing(&self, form: &Form, lists: &[Picklist]) -> Option<WordSet> {
        let list = lists.get(self.list)?;
        let stands = |code| match form {
            Form::Labelled(_) => list.label_of(code).unwrap_or(code),
            _ => code,
        };
        let current = list.values.iter().filter(|value| !value.retired);
        Some(WordSet::new(current.map(|value| stands(&value.code))))
    }

    fn nature(&self) -> Nature {
        Nature::Listed
    }

    /// Codes that are not retired.
    fn codes(&self, separator: &str, lists: &[Picklist]) -> WordSet {
        let values = lists.get(self.list).into_iter().flat_map(|list| list.values.iter());
        let current = values.filter(|value| !value.retired && !value.code.contains(separator));
        WordSet::new(current.map(|value| &value.code))
    }

    fn is_telling(&self, lists: &[Picklist]) -> bool {
        lists.get(self.list).is_some_and(|list| !list.open && list.values.len() > 1)
    }

    fn list(&self) -> Option<usize> {
        Some(self.list)
    }

    fn expected(&self, code: Code, _: &Field, lists: &[Picklist]) -> Option<String> {
        let is_off = matches!(code, Code::OffList | Code::OffListRetired);
        lists.get(self.list).filter(|_| is_off).map(values_of)
    }

    fn suggestion(&self, code: Code, text: &str, lists: &[Picklist]) -> Option<String> {
        let list = lists.get(self.list).filter(|_| code == Code::OffList)?;
        list.nearest(text).map(ToOwned::to_owned)
    }
}

/// The permitted values, as far as they can be named in a line.
fn values_of(list: &Picklist) -> String {
    const NAMED: usize = 6;
    let current = if list.current() > NAMED { 0 } else { NAMED };
    let names: Vec<_> = list
        .values
        .iter()
        .filter(|value| !value.retired)
        .take(current)
        .map(|value| match &value.label {
            Some(label) if !list.exact && *label != value.code => format!("{label} ({})", value.code),
            _ => value.code.clone(),
        })
        .collect();
    match list.current() {
        0 => format!("a value of the picklist {}", list.name),
        1..=6 => format!("one of {}", names.join(", ")),
        more => format!("one of {} values of the picklist {}", grouped(more as u64), list.name),
    }
}
