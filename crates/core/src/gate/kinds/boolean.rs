//! `boolean`: yes or no.

use super::from::From;
use super::judging::Judging;
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::form::Form;
use crate::gate::sweep::{Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::gate::wordset::WordSet;
use crate::profile::Class;
use crate::schema::{Field, Kind};
use crate::value::{Picklist, Truth};

/// The words for yes and no.
#[derive(Debug)]
pub(crate) struct Boolean {
    words: WordSet,
    truth: Truth,
}

impl Boolean {
    pub(super) fn of(field: &Field, from: From<'_>) -> Option<Self> {
        let Kind::Boolean = field.kind else { return None };
        let truth = from.reading.truth.clone();
        let words = truth.yes.iter().chain(truth.no.iter());
        let cased = words.flat_map(|word| [word.to_owned(), word.to_uppercase(), capitalised(word)]);
        Some(Self { words: WordSet::new(cased), truth })
    }
}

impl Judging for Boolean {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        self.truth.read(given.text).map(Value::Truth).ok_or_else(|| Verdict::one(Code::BooleanBad))
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        sweep.over_words(&self.words)
    }

    fn stands(&self, sound: &[u8]) -> bool {
        sound == b"true" || sound == b"false"
    }

    fn standing(&self, _: &Form, _: &[Picklist]) -> Option<WordSet> {
        Some(WordSet::new(["true", "false"].into_iter().filter(|word| self.truth.read(word).is_some())))
    }

    fn is_of_class(&self, class: Class, _: &str) -> bool {
        class == Class::Boolean
    }

    fn expected(&self, code: Code, _: &Field, _: &[Picklist]) -> Option<String> {
        (code == Code::BooleanBad).then(|| "yes or no".to_owned())
    }
}

fn capitalised(word: &str) -> String {
    let mut chars = word.chars();
    chars.next().map(|first| first.to_uppercase().chain(chars).collect()).unwrap_or_default()
}
