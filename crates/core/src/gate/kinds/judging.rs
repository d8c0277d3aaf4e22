//! What a kind is to the gate.

use super::value::Value;
use crate::catalogue::Code;
use crate::condition::Scalar;
use crate::gate::evidence::Vote;
use crate::gate::form::Form;
use crate::gate::sweep::{Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::gate::wordset::WordSet;
use crate::profile::Class;
use crate::schema::Field;
use crate::value::Picklist;
use std::borrow::Cow;
use std::fmt::Debug;

/// What the values of a kind are like, as suspicions about cells tell them apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Nature {
    /// Anything may be meant, so that more is suspicious.
    Text,
    /// A number without decimals.
    Whole,
    /// A number.
    Number,
    /// A word of a list, which is taken with spaces aside.
    Listed,
    /// A form of its own, which little can hide in.
    Formed,
}

/// The rules of one column, of one kind. All texts are trimmed and not blank.
///
/// Before you change this: what [`Judging::sweep`] passes over must be sound for [`Judging::judge`] and stand in the
/// target's form as [`Judging::written`] gives it; `gate/tests.rs` compares the three cell by cell.
pub(crate) trait Judging: Debug + Send + Sync {
    /// The one reader of cells: the value that a text gives; or what is wrong with it, where it gives none.
    fn read<'a>(&self, given: Given<'a>, lists: &'a [Picklist]) -> Result<Value<'a>, Verdict>;

    /// What is wrong with a value that could be read.
    fn check(&self, _value: &Value<'_>, _text: &str) -> Verdict {
        Verdict::SOUND
    }

    /// Judges a text.
    fn judge(&self, given: Given<'_>, lists: &[Picklist]) -> Verdict {
        self.read(given, lists).map_or_else(|verdict| verdict, |value| self.check(&value, given.text))
    }

    /// The value as ready rows carry it: in the first of the target's forms that gives it back when it is read.
    fn written<'a>(&self, given: Given<'a>, lists: &'a [Picklist]) -> Option<Cow<'a, str>> {
        self.read(given, lists).ok().map(Value::standard)
    }

    /// The value as conditions see it; nothing when the text has none.
    fn scalar<'a>(&self, given: Given<'a>, lists: &'a [Picklist]) -> Option<Scalar<'a>> {
        self.read(given, lists).ok()?.scalar()
    }

    /// Passes over the cells of a column that are plainly sound.
    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        sweep.none()
    }

    /// Whether the sweep is right about bytes that are no text, too.
    fn sweeps_broken_text(&self) -> bool {
        false
    }

    /// Whether a sound value stands in the target's form already. False says nothing.
    fn stands(&self, _sound: &[u8]) -> bool {
        self.is_verbatim()
    }

    /// Words that are values as they stand, and stand so in the target.
    fn known_words(&self) -> Option<&WordSet> {
        None
    }

    /// Of the words that are known without a closer look, those that stand so in the target.
    fn standing(&self, _form: &Form, _lists: &[Picklist]) -> Option<WordSet> {
        None
    }

    /// Whether the standard form of a sound value is its text.
    fn is_verbatim(&self) -> bool {
        false
    }

    /// Whether sound values can differ in case, spaces or leading zeros alone.
    fn varies(&self) -> bool {
        self.is_verbatim()
    }

    /// Whether a sheet stores its values as what they are, so that how they are written there is no matter.
    fn is_stored_as_such(&self) -> bool {
        false
    }

    /// What its values are like.
    fn nature(&self) -> Nature {
        Nature::Formed
    }

    /// Whether a value only holds the place of one.
    fn holds_the_place(&self, _given: Given<'_>) -> bool {
        false
    }

    /// Whether its cells decide how the column is written.
    fn has_vote(&self) -> bool {
        false
    }

    /// What a cell says of the way in which its column is written.
    fn vote(&self, _given: Given<'_>) -> Vote {
        Vote::NONE
    }

    /// Whether it asks more than that there be some text.
    fn tells_apart(&self) -> bool {
        true
    }

    /// Whether hardly another column could fit it by chance.
    fn is_telling(&self, _lists: &[Picklist]) -> bool {
        false
    }

    /// Whether a text of this class is of the kind, perhaps in another notation.
    fn is_of_class(&self, _class: Class, _text: &str) -> bool {
        false
    }

    /// The number of the picklist, of one value or several.
    fn list(&self) -> Option<usize> {
        None
    }

    /// The words of which each is a value of its own, where several stand in a cell with this between them.
    fn codes(&self, _separator: &str, _lists: &[Picklist]) -> WordSet {
        WordSet::default()
    }

    /// Whether a value is a key of another record, which may hold what stands between several.
    fn takes_any_key(&self) -> bool {
        false
    }

    /// Whether a cell for several values holds none.
    fn holds_no_value(&self, _text: &str) -> bool {
        false
    }

    /// What is expected where a cell has this code.
    fn expected(&self, _code: Code, _field: &Field, _lists: &[Picklist]) -> Option<String> {
        None
    }

    /// What more can be said of why; of a sensitive value nothing that gives it away.
    fn detail(&self, _code: Code, _text: &str, _sensitive: bool) -> Option<String> {
        None
    }

    /// The value that was likely meant.
    fn suggestion(&self, _code: Code, _text: &str, _lists: &[Picklist]) -> Option<String> {
        None
    }
}
