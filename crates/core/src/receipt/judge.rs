//! A receipt held against what there is now.

use super::keys::PublicKey;
use super::model::{FileProof, KeysProof, Receipt};
use crate::numerals::grouped;
use schemars::JsonSchema;
use serde::Serialize;

/// What of a receipt is as it was.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct Verified {
    /// The version of this form: 1.
    pub format: u32,
    /// Whether nothing that was judged differs.
    pub valid: bool,
    /// When the receipt was made.
    pub made: String,
    /// Every aspect of it.
    pub aspects: Vec<Aspect>,
}

/// One aspect of a receipt.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Aspect {
    /// Which it is, such as `ready`.
    pub what: String,
    /// What became of it.
    pub judgement: Judgement,
    /// What was found.
    pub said: String,
}

/// What became of an aspect.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Judgement {
    /// It is as it was.
    Same,
    /// It differs.
    Differs,
    /// It was not given, so nobody knows.
    NotJudged,
}

impl Verified {
    /// Begins with the receipt itself, and the key that it is to be signed with.
    #[must_use]
    pub fn of(receipt: &Receipt, trust: Option<&PublicKey>) -> Self {
        let mut verified = Self { format: 1, valid: true, made: receipt.made.clone(), aspects: Vec::new() };
        match receipt.is_whole() {
            true => verified.push("receipt", Judgement::Same, "as it was written".to_owned()),
            false => {
                verified.push("receipt", Judgement::Differs, "it was changed after it was written".to_owned())
            }
        }
        let (judgement, said) = match (trust, &receipt.signature) {
            (Some(key), Some(_)) if receipt.is_signed_by(key) => {
                (Judgement::Same, format!("by the trusted key {}", short(&key.name())))
            }
            (Some(key), Some(signature)) => {
                let by = format!("by the key {}", short(&signature.key));
                let said = match signature.key == key.name() {
                    true => "the signature does not fit what it stands under".to_owned(),
                    false => format!("{by}, not by the trusted key {}", short(&key.name())),
                };
                (Judgement::Differs, said)
            }
            (Some(_), None) => (Judgement::Differs, "the receipt is not signed".to_owned()),
            (None, Some(signature)) => {
                let said = format!("by the key {}; --trust judges it", short(&signature.key));
                (Judgement::NotJudged, said)
            }
            (None, None) => (Judgement::NotJudged, "the receipt is not signed".to_owned()),
        };
        verified.push("signature", judgement, said);
        verified
    }

    fn push(&mut self, what: &str, judgement: Judgement, said: String) {
        self.valid &= judgement != Judgement::Differs;
        self.aspects.push(Aspect { what: what.to_owned(), judgement, said });
    }

    /// What was not given, or was not there then.
    fn one_sided(&mut self, what: &str, then: Option<&String>, now: Option<&String>) {
        match (then, now) {
            (Some(then), _) => self.push(what, Judgement::NotJudged, format!("not given; it was {then}")),
            (None, Some(now)) => {
                self.push(what, Judgement::Differs, format!("{now} is given, and there was none"));
            }
            (None, None) => {}
        }
    }

    /// Judges a file, where it is given.
    pub fn file(&mut self, what: &str, then: Option<&FileProof>, now: Option<&FileProof>) {
        let size = |file: &FileProof| format!("{} bytes", grouped(file.bytes));
        match (then, now) {
            (Some(then), Some(now)) if then.sha256 == now.sha256 && then.bytes == now.bytes => {
                let said = format!("{}, {}, SHA-256 {}", now.name, size(now), short(&now.sha256));
                self.push(what, Judgement::Same, said);
            }
            (Some(then), Some(now)) if then.bytes != now.bytes => {
                let said = format!("{} has {}, the receipt is for {}", now.name, size(now), size(then));
                self.push(what, Judgement::Differs, said);
            }
            (Some(then), Some(now)) => {
                let (other, own) = (short(&now.sha256), short(&then.sha256));
                let said = format!("{} has other bytes: SHA-256 {other}, the receipt is for {own}", now.name);
                self.push(what, Judgement::Differs, said);
            }
            (then, now) => self.one_sided(what, then.map(|then| &then.name), now.map(|now| &now.name)),
        }
    }

    /// Judges the records of a source, where they are given.
    pub fn keys(&mut self, what: &str, then: Option<&KeysProof>, now: Option<&KeysProof>) {
        match (then, now) {
            (Some(then), Some(now)) if (then.count, &then.keys) == (now.count, &now.keys) => {
                self.push(what, Judgement::Same, format!("{} keys of {}", grouped(now.count), now.name));
            }
            (Some(then), Some(now)) => {
                let said = match then.count == now.count {
                    true => format!("{} has other keys than then", now.name),
                    false => {
                        format!("{} has {} keys, then {}", now.name, grouped(now.count), grouped(then.count))
                    }
                };
                self.push(what, Judgement::Differs, said);
            }
            (then, now) => self.one_sided(what, then.map(|then| &then.name), now.map(|now| &now.name)),
        }
    }
}

/// As much of a hash as people compare.
fn short(hash: &str) -> String {
    hash.chars().take(16).chain(['\u{2026}']).collect()
}
