//! `reference`: the key of another record.

use super::from::From;
use super::judging::Judging;
use super::value::Value;
use crate::catalogue::Code;
use crate::gate::plain_text::is_written_plainly;
use crate::gate::sweep::{Sweep, Swept};
use crate::gate::verdict::{Given, Verdict};
use crate::gate::wordset::WordSet;
use crate::schema::{Field, Kind, References, Refers};
use crate::value::Picklist;
use std::sync::Arc;

/// The keys that there are; without them any text will do.
#[derive(Debug)]
pub(crate) struct Reference {
    pub(crate) keys: Option<Arc<References>>,
    /// The keys, where all of them are short.
    words: WordSet,
}

impl Reference {
    pub(super) fn of(field: &Field, from: From<'_>) -> Option<Self> {
        let Kind::Reference(to) = &field.kind else { return None };
        let keys = from.settings.references.get(to).cloned();
        let words = keys.iter().flat_map(|keys| keys.short_keys());
        Some(Self { words: WordSet::new(words), keys })
    }
}

impl Judging for Reference {
    fn read<'a>(&self, given: Given<'a>, _: &'a [Picklist]) -> Result<Value<'a>, Verdict> {
        match self.keys.as_ref().map(|keys| keys.find(given.text)) {
            None | Some(Refers::Key) => Ok(Value::Text(given.text.into())),
            Some(Refers::Through(key)) => Ok(Value::Text(key.to_owned().into())),
            Some(Refers::Several) => Err(Verdict::one(Code::ReferenceUnclear)),
            Some(Refers::Nothing) => Err(Verdict::one(Code::ReferenceUnknown)),
        }
    }

    fn sweep(&self, sweep: Sweep<'_>) -> Swept {
        let buffer = sweep.buffer;
        match &self.keys {
            // A key stands as it is.
            Some(_) if !self.words.is_empty() => sweep.over_words(&self.words),
            Some(keys) => sweep.over(|start, end| {
                let raw = buffer.get(start..end).unwrap_or_default();
                std::str::from_utf8(raw).is_ok_and(|text| keys.has(text))
            }),
            None => sweep.over(|start, end| is_written_plainly(buffer, start, end, false)),
        }
    }

    // What refers to nothing that is known is handed on as it stands.
    fn stands(&self, sound: &[u8]) -> bool {
        let is_key = |keys: &References| std::str::from_utf8(sound).is_ok_and(|text| keys.has(text));
        self.keys.as_deref().is_none_or(is_key)
    }

    fn known_words(&self) -> Option<&WordSet> {
        self.keys.is_some().then_some(&self.words)
    }

    fn codes(&self, _: &str, _: &[Picklist]) -> WordSet {
        WordSet::new(self.keys.iter().flat_map(|keys| keys.short_keys()))
    }

    fn takes_any_key(&self) -> bool {
        true
    }

    fn tells_apart(&self) -> bool {
        self.keys.is_some()
    }

    fn is_telling(&self, _: &[Picklist]) -> bool {
        self.keys.is_some()
    }

    fn expected(&self, code: Code, field: &Field, _: &[Picklist]) -> Option<String> {
        let is_off = matches!(code, Code::ReferenceUnknown | Code::ReferenceUnclear);
        is_off.then(|| format!("a key of {}", field.stated.to.as_deref().unwrap_or("the other record")))
    }

    fn suggestion(&self, code: Code, text: &str, _: &[Picklist]) -> Option<String> {
        let keys = self.keys.as_ref()?;
        match code {
            Code::ReferenceUnknown => keys.nearest(text).map(ToOwned::to_owned),
            Code::ReferenceUnclear => {
                let (last, first) = keys.stands_for(text).split_last()?;
                // One more is known than is named.
                Some(match first.len() {
                    3 => format!("{} or others", first.join(", ")),
                    _ => format!("{} or {last}", first.join(", ")),
                })
            }
            _ => None,
        }
    }
}
