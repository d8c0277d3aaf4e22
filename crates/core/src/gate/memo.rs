//! What the plain judge said of a column's last cells: values that need a closer look tend to come again.

use super::evidence::Vote;
use super::verdict::Verdict;
use xxhash_rust::xxh3::xxh3_64;

/// What a cell is to the plain judge.
#[derive(Debug, Clone, Copy)]
pub(super) enum Told {
    /// Bytes that are no text.
    Broken,
    /// Nothing, or a word for it.
    Blank { is_word: bool },
    /// A formula whose result is not stored.
    Stale,
    /// The word that empties the field.
    Clear,
    /// A value: what is wrong with it, what it says of the column, and whether it is written in another way than the
    /// target's.
    Verdict(Verdict, Vote, bool),
}

/// So many cells of a column are kept at first; of a file with very many columns fewer.
const SLOTS: usize = 64;
const FEW_SLOTS: usize = 8;
const MANY_COLUMNS: usize = 512;
/// Where most of them come again after others took their place, so many more are kept, up to the last number; of files
/// with few columns.
const MORE: usize = 8;
const MOST_SLOTS: usize = 8192;
const FEW_COLUMNS: usize = 64;
/// Longer cells are kept beside them: so many of a column, none longer than this.
const SHORT: usize = 40;
const LONG_SLOTS: usize = 32;
const LONGEST: usize = 1000;

#[derive(Debug, Clone, Copy)]
struct Slot {
    raw: [u8; SHORT],
    len: u8,
    told: Told,
}

/// A few cells of one column with what was told of them.
#[derive(Debug)]
pub(super) struct Memo {
    slots: Vec<Option<Slot>>,
    long: Vec<(Vec<u8>, Told)>,
    most: usize,
    limit: usize,
    /// Values that took the place of another since there are so many slots.
    displaced: usize,
}

impl Memo {
    /// For a column of a file with so many.
    pub(super) fn new(columns: usize) -> Self {
        let most = if columns > MANY_COLUMNS { FEW_SLOTS } else { SLOTS };
        let limit = if columns > FEW_COLUMNS { most } else { MOST_SLOTS };
        Self { slots: Vec::new(), long: Vec::new(), most, limit, displaced: 0 }
    }

    /// What is known of the raw cell, or what `judge` says of it.
    #[inline]
    pub(super) fn of(&mut self, raw: &[u8], judge: impl FnOnce() -> Told) -> Told {
        if raw.len() > SHORT {
            return self.of_long(raw, judge);
        }
        if self.slots.is_empty() {
            self.slots.resize(self.most, None);
        }
        #[expect(clippy::cast_possible_truncation, reason = "masked to the slots")]
        let at = xxh3_64(raw) as usize % self.most;
        // Each value has two places.
        for at in [at, at ^ 1] {
            if let Some(Some(known)) = self.slots.get(at)
                && known.raw.get(..usize::from(known.len)) == Some(raw)
            {
                return known.told;
            }
        }
        let told = judge();
        let mut kept = Slot { raw: [0; SHORT], len: u8::try_from(raw.len()).unwrap_or(u8::MAX), told };
        for (to, from) in kept.raw.iter_mut().zip(raw) {
            *to = *from;
        }
        let Some(before) = self.slots.get_mut(at).map(|slot| slot.replace(kept)) else { return told };
        if let (Some(_), Some(other)) = (before, self.slots.get_mut(at ^ 1)) {
            self.displaced += usize::from(other.is_some());
            *other = before;
        }
        if self.displaced > MORE * self.most && self.most < self.limit {
            self.most = (self.most * MORE).min(self.limit);
            self.displaced = 0;
            self.slots.clear();
        }
        told
    }

    /// The same of a cell that is too long for the slots.
    fn of_long(&mut self, raw: &[u8], judge: impl FnOnce() -> Told) -> Told {
        if raw.len() > LONGEST {
            return judge();
        }
        if self.long.is_empty() {
            self.long.resize(LONG_SLOTS.min(self.most), (Vec::new(), Told::Broken));
        }
        #[expect(clippy::cast_possible_truncation, reason = "masked to the slots")]
        let at = xxh3_64(raw) as usize % self.long.len();
        let Some((known, told)) = self.long.get_mut(at) else { return judge() };
        if known.as_slice() != raw {
            *told = judge();
            known.clear();
            known.extend_from_slice(raw);
        }
        *told
    }
}
