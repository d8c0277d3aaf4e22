//! Looking at all rows of a sample or an export, fast: what every column holds, kept so that the looks of several
//! threads can be joined and give the same whatever the order.

mod month_word;
mod seen;
mod slots;

pub(super) use seen::Seen;

use crate::block::Block;
use crate::profile::{COMPACT, Class, ENOUGH_COMPACT, FORM_COUNT, Kinds, compact_class};
use crate::rows::{Cells, text_of};
use crate::scan::{Dialect, plain_text};
use crate::straight::BuildStraight;
use crate::value::{AroundNumber, Date};
use month_word::month_word;
use seen::Quick;
use slots::Slots;
use std::collections::HashMap;
use xxhash_rust::xxh3::xxh3_64;

/// So many different values are kept with their counts.
pub(super) const MOST_VALUES: usize = 200;
/// So many classes of values are remembered.
const REMEMBERED: usize = 1 << 15;
/// Keys are sought among columns while these hold so many values.
const MOST_KEYS: usize = 20_000_000;
/// Up to this row the values of rows are kept, so that columns can be seen together.
const HEAD_ROWS: u64 = 20_000;
/// So many spoilt rows are named.
const SPOILERS: usize = 5;
/// Places of a value whose letters are looked at.
const PLACES: usize = 24;

/// What a thread has seen of the columns.
#[derive(Debug)]
pub struct SampleLook {
    dialect: Dialect,
    cells: Cells,
    kinds: Kinds,
    columns: Vec<Column>,
    rows: u64,
    left_out: Vec<LeftOut>,
}

/// One of the last rows that is no record.
#[derive(Debug, Clone, Copy)]
pub(super) struct LeftOut {
    pub(super) row: u64,
    /// Whether it looks like a total; else it is a note below the table.
    pub(super) is_total: bool,
    pub(super) is_last: bool,
}

/// What all rows hold, column by column.
#[derive(Debug, Default)]
pub struct Sampled {
    /// How many rows there are.
    pub rows: u64,
    /// The last rows, where they are no records.
    pub(super) left_out: Vec<LeftOut>,
    pub(super) columns: Vec<Column>,
}

/// What a column holds.
#[derive(Debug, Default)]
pub(super) struct Column {
    pub(super) filled: u64,
    pub(super) blank: u64,
    /// The different values, while there are few.
    values: HashMap<u64, Value, BuildStraight>,
    pub(super) is_full: bool,
    known: HashMap<u64, Known, BuildStraight>,
    classes: Vec<(Class, Seen)>,
    /// How many cells each form of dates reads.
    pub(super) forms: [u64; FORM_COUNT],
    /// The least and most characters.
    pub(super) lengths: Option<(u64, u64)>,
    /// The range of the bytes at each place; none where values differ in length or go beyond ASCII.
    places: Option<Vec<(u8, u8)>>,
    has_places: bool,
    /// Hashes of all values and their rows, while few of them come again.
    keys: Vec<(u64, u32)>,
    is_repeated: bool,
    /// The first rows' numbers and values, as hashes: nought where the cell is blank.
    pub(super) head: Vec<(u32, u64)>,
    /// The first value, and its row.
    pub(super) first: Option<(u64, String)>,
    /// What stands around numbers.
    around: Slots<AroundNumber, 4>,
    /// What may be the names of months.
    months: Slots<String, 40>,
}

/// A value that comes again and again.
#[derive(Debug)]
struct Value {
    text: String,
    count: u64,
    known: Known,
}

#[derive(Debug, Clone, Copy)]
struct Known {
    class: u8,
    forms: u32,
    around: u8,
    month: u8,
}

impl SampleLook {
    /// For a table of so many columns; `today` decides the century of years of two digits.
    #[must_use]
    pub fn new(width: usize, dialect: Dialect, today: Date, short_rows_are_blank: bool) -> Self {
        let mut cells = Cells::default();
        cells.short_rows_are_blank = short_rows_are_blank;
        let columns = (0..width).map(|_| Column::default()).collect();
        Self { dialect, cells, kinds: Kinds::new(today), columns, rows: 0, left_out: Vec::new() }
    }

    /// Looks at a block.
    pub fn look_at(&mut self, block: &Block) {
        let width = self.columns.len();
        self.cells.lay_out(block, self.dialect, width, 0);
        let (cells, kinds, dialect) = (&self.cells, &self.kinds, self.dialect);
        self.rows += cells.len() as u64;
        for (number, column) in self.columns.iter_mut().enumerate() {
            cells.each_in_column(number, |row, start, end| {
                let raw = block.buffer.get(start..end).unwrap_or_default();
                let at = block.first_row + u64::from(cells.place(row));
                if at <= HEAD_ROWS {
                    let text = text_of(raw, dialect).unwrap_or_default();
                    let text = text.trim();
                    let hash = if text.is_empty() { 0 } else { xxh3_64(text.as_bytes()).max(1) };
                    column.head.push((short(at), hash));
                }
                if let Some(text) = plain_text(raw, dialect) {
                    column.see(text, at, kinds);
                } else {
                    match text_of(raw, dialect) {
                        Ok(text) => column.see(text.trim().as_bytes(), at, kinds),
                        Err(bytes) => {
                            column.see(String::from_utf8_lossy(&bytes).trim().as_bytes(), at, kinds)
                        }
                    }
                }
            });
        }
    }

    /// Says that one of the last rows, which begins the block, is no record but a total, or a note below the table.
    pub fn leave_out(&mut self, block: &Block, is_total: bool) {
        self.left_out.push(LeftOut { row: block.first_row, is_total, is_last: block.last });
    }

    /// Joins the looks of several threads.
    #[must_use]
    pub fn join(looks: Vec<Self>) -> Sampled {
        let mut whole = Sampled::default();
        for look in looks {
            whole.rows += look.rows;
            whole.left_out.extend(look.left_out);
            if whole.columns.is_empty() {
                whole.columns = look.columns;
                continue;
            }
            for (sum, column) in whole.columns.iter_mut().zip(look.columns) {
                sum.join(column, &look.kinds);
            }
        }
        whole.left_out.sort_unstable_by_key(|left_out| left_out.row);
        whole
    }
}

impl Column {
    #[inline]
    fn see(&mut self, text: &[u8], row: u64, kinds: &Kinds) {
        if text.is_empty() {
            self.blank += 1;
            return;
        }
        self.filled += 1;
        if !self.is_full {
            let hash = xxh3_64(text);
            if !self.is_repeated {
                self.keep_key(hash, row);
            }
            if let Some(value) = self.values.get_mut(&hash) {
                value.count += 1;
                let known = value.known;
                return self.count(known);
            }
            return self.see_value(hash, text, row, kinds);
        }
        if let Some(quick) = Quick::of(text) {
            if !self.is_repeated {
                self.keep_key(xxh3_64(text), row);
            }
            return self.see_quick(quick, text, row);
        }
        let hash = xxh3_64(text);
        if !self.is_repeated {
            self.keep_key(hash, row);
        }
        match self.known.get(&hash) {
            Some(known) => {
                let known = *known;
                self.count(known);
            }
            None => {
                let known = self.see_unknown(text, row, kinds);
                if let Some(known) = known.filter(|_| self.known.len() < REMEMBERED) {
                    self.known.insert(hash, known);
                }
            }
        }
    }

    /// Counts a value of a known class.
    #[inline]
    fn count(&mut self, known: Known) {
        if let Some(class) = self.classes.get_mut(usize::from(known.class)) {
            class.1.count += 1;
        }
        self.around.count(known.around);
        self.months.count(known.month);
        let mut forms = known.forms;
        while forms != 0 {
            if let Some(count) = self.forms.get_mut(forms.trailing_zeros() as usize) {
                *count += 1;
            }
            forms &= forms - 1;
        }
    }

    /// What is known of a text of a class.
    #[inline]
    fn known_of(&mut self, slot: usize, class: Class, forms: u32, text: &[u8]) -> Known {
        let (mut around, mut month) = (slots::NONE, slots::NONE);
        if class == Class::Text {
            around = self.around.slot(text, AroundNumber::of);
            month = self.months.slot(text, month_word);
        }
        Known { class: u8::try_from(slot).unwrap_or(u8::MAX), forms, around, month }
    }

    /// Takes a value whose class is plain from its bytes.
    #[inline]
    fn see_quick(&mut self, quick: Quick, text: &[u8], row: u64) {
        let slot = match self.classes.iter().position(|known| known.0 == quick.class) {
            Some(slot) => slot,
            None => self.class_slot(quick.class, row, &String::from_utf8_lossy(text)),
        };
        let known = self.known_of(slot, quick.class, quick.forms, text);
        self.count(known);
        if let Some((_, seen)) = self.classes.get_mut(slot) {
            seen.see_quick(&quick, text);
        }
        self.see_shape(text, text.len() as u64);
    }

    #[inline]
    fn keep_key(&mut self, hash: u64, row: u64) {
        self.keys.push((hash, short(row)));
        // The most columns repeat soon.
        if matches!(self.keys.len(), 256 | 4_096 | 65_536 | MOST_KEYS) {
            let allowed = if self.keys.len() == 256 { 128 } else { self.keys.len() / 10 };
            if self.keys.len() >= MOST_KEYS || repeated(&self.keys).1 > allowed {
                self.is_repeated = true;
                self.keys = Vec::new();
            }
        }
    }

    /// Keeps a value while there are few.
    #[cold]
    fn see_value(&mut self, hash: u64, text: &[u8], row: u64, kinds: &Kinds) {
        let Some(known) = self.see_unknown(text, row, kinds) else { return };
        if self.values.len() >= MOST_VALUES {
            self.is_full = true;
            self.values = HashMap::default();
            return;
        }
        let text = String::from_utf8_lossy(text).into_owned();
        self.values.insert(hash, Value { text, count: 1, known });
    }

    #[cold]
    fn see_unknown(&mut self, text: &[u8], row: u64, kinds: &Kinds) -> Option<Known> {
        let whole = std::str::from_utf8(text).ok()?;
        let (class, forms) = kinds.class(whole);
        let slot = self.class_slot(class, row, whole);
        let forms = forms.iter().fold(0_u32, |bits, form| bits | 1 << form);
        let known = self.known_of(slot, class, forms, text);
        self.count(known);
        if let Some((class, seen)) = self.classes.get_mut(slot) {
            seen.see(*class, row, whole, kinds);
        }
        if self.first.as_ref().is_none_or(|first| row < first.0) {
            self.first = Some((row, whole.to_owned()));
        }
        let length = if whole.is_ascii() { whole.len() } else { whole.chars().count() } as u64;
        self.see_shape(text, length);
        Some(known)
    }

    /// What stands around the numbers that nearly all values are, and around how many.
    pub(super) fn around(&self) -> Option<(&AroundNumber, u64)> {
        let (around, count) = self.around.found().iter().max_by_key(|found| found.1)?;
        self.nearly_all(*count).then_some((around, *count))
    }

    /// What may be the names of months, of how many values, where nearly all may be days with such names.
    pub(super) fn months(&self) -> Option<(Vec<&str>, u64)> {
        let words = self.months.found().iter().map(|found| found.0.as_str()).collect();
        let count = self.months.found().iter().map(|found| found.1).sum();
        self.nearly_all(count).then_some((words, count))
    }

    fn nearly_all(&self, count: u64) -> bool {
        /// From so many in a hundred cells on.
        const NEARLY: u64 = 80;
        count > 0 && count * 100 >= self.filled * NEARLY
    }

    /// Takes the length and the letters of a value.
    #[inline]
    fn see_shape(&mut self, text: &[u8], length: u64) {
        let (least, most) = self.lengths.unwrap_or((length, length));
        self.lengths = Some((least.min(length), most.max(length)));
        if self.places.is_some() || !self.has_places {
            self.see_places(text);
        }
    }

    fn class_slot(&mut self, class: Class, row: u64, text: &str) -> usize {
        if let Some(slot) = self.classes.iter().position(|known| known.0 == class) {
            return slot;
        }
        let seen = Seen {
            count: 0,
            first: (row, text.to_owned()),
            lowest: text.to_owned(),
            highest: text.to_owned(),
            digits: (0, 0),
            numbers: None,
        };
        // Most columns hold one class; a vector would make room for four.
        self.classes.reserve_exact(1);
        self.classes.push((class, seen));
        self.classes.len() - 1
    }

    fn see_places(&mut self, text: &[u8]) {
        let is_plain = text.len() <= PLACES && text.is_ascii();
        match &mut self.places {
            None if !self.has_places && is_plain => {
                self.places = Some(text.iter().map(|byte| (*byte, *byte)).collect());
            }
            Some(places) if is_plain && places.len() == text.len() => {
                for (place, byte) in places.iter_mut().zip(text) {
                    *place = (place.0.min(*byte), place.1.max(*byte));
                }
            }
            _ => self.places = None,
        }
        self.has_places = true;
    }

    fn join(&mut self, other: Self, kinds: &Kinds) {
        self.filled += other.filled;
        self.blank += other.blank;
        if other.is_full {
            self.is_full = true;
        }
        if !self.is_full {
            for (hash, value) in other.values {
                let Value { text, count, known } = value;
                self.values.entry(hash).or_insert(Value { text, count: 0, known }).count += count;
            }
            self.is_full = self.values.len() > MOST_VALUES;
        }
        if self.is_full {
            self.values = HashMap::default();
        }
        for (class, seen) in other.classes {
            let slot = self.class_slot(class, seen.first.0, &seen.first.1);
            if let Some((class, sum)) = self.classes.get_mut(slot) {
                sum.join(*class, seen, kinds);
            }
        }
        self.forms.iter_mut().zip(other.forms).for_each(|(sum, count)| *sum += count);
        self.lengths = match (self.lengths, other.lengths) {
            (Some(one), Some(other)) => Some((one.0.min(other.0), one.1.max(other.1))),
            (one, other) => one.or(other),
        };
        self.places = match (self.places.take(), other.places, self.has_places, other.has_places) {
            (Some(one), Some(other), ..) if one.len() == other.len() => {
                Some(one.iter().zip(&other).map(|(a, b)| (a.0.min(b.0), a.1.max(b.1))).collect())
            }
            (one, None, _, false) => one,
            (None, other, false, _) => other,
            _ => None,
        };
        self.has_places |= other.has_places;
        if self.first.as_ref().map(|first| first.0) > other.first.as_ref().map(|first| first.0)
            && other.first.is_some()
            || self.first.is_none()
        {
            self.first = other.first;
        }
        self.around.join(other.around);
        self.months.join(other.months);
        self.is_repeated |= other.is_repeated;
        self.keys.extend(other.keys);
        self.head.extend(other.head);
        if self.is_repeated {
            self.keys = Vec::new();
        }
    }

    /// The values with their counts, the most frequent first; nothing where there are too many.
    pub(super) fn values(&self) -> Option<Vec<(&str, u64)>> {
        if self.is_full {
            return None;
        }
        let mut values: Vec<(&str, u64)> =
            self.values.values().map(|value| (value.text.as_str(), value.count)).collect();
        values.sort_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(b.0)));
        Some(values)
    }

    /// The first rows that hold what a row above them holds, and how many do; nothing where many do.
    pub(super) fn repeats(&self) -> Option<(Vec<u32>, usize)> {
        (!self.is_repeated && self.keys.len() as u64 == self.filled).then(|| repeated(&self.keys))
    }

    /// The classes, those with most cells first; with whole numbers that may all be days without marks as such.
    pub(super) fn classes(&self) -> Vec<(Class, &Seen)> {
        let has_enough = self.is_full || self.values.len() >= ENOUGH_COMPACT;
        let compact =
            self.forms.get(usize::from(COMPACT)).copied().filter(|_| has_enough).unwrap_or_default();
        self.classes_by(|class, seen| compact_class(class, seen.count, compact))
    }

    /// The classes of a column that holds no days, those with most cells first.
    pub(super) fn classes_without_days(&self) -> Vec<(Class, &Seen)> {
        self.classes_by(|class, _| class)
    }

    fn classes_by(&self, class: impl Fn(Class, &Seen) -> Class) -> Vec<(Class, &Seen)> {
        let mut classes: Vec<(Class, &Seen)> =
            self.classes.iter().map(|(of, seen)| (class(*of, seen), seen)).collect();
        classes.sort_by(|a, b| b.1.count.cmp(&a.1.count).then(a.0.cmp(&b.0)));
        classes
    }

    /// The range of the bytes at each place, where all values are of one length.
    pub(super) fn places(&self) -> Option<&[(u8, u8)]> {
        self.places.as_deref()
    }
}

fn short(row: u64) -> u32 {
    u32::try_from(row).unwrap_or(u32::MAX)
}

/// The first rows whose value stands in a row above, and how many such rows there are.
fn repeated(keys: &[(u64, u32)]) -> (Vec<u32>, usize) {
    let mut sorted = keys.to_vec();
    sorted.sort_unstable();
    let mut rows: Vec<u32> = sorted
        .windows(2)
        .filter_map(|pair| match pair {
            [one, other] if one.0 == other.0 => Some(other.1),
            _ => None,
        })
        .collect();
    rows.sort_unstable();
    let count = rows.len();
    rows.truncate(SPOILERS);
    (rows, count)
}
