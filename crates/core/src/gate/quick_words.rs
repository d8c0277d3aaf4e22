//! Short words that sixteen cells at a time are looked up in.

use crate::scan::Numbers;

/// Words of up to sixteen bytes, each at the one place that its bytes give. Of words with the same place one alone is held.
#[derive(Debug, Default)]
pub(super) struct QuickWords {
    /// The first eight bytes of each word; noughts where there is no word, and behind it.
    firsts: Vec<u64>,
    /// The last eight bytes of those that are longer.
    lasts: Vec<u64>,
    /// How long each is.
    lengths: Vec<u32>,
    mixers: [u32; 4],
    shift: u32,
    /// Whether some are longer than eight bytes.
    has_long: bool,
}

/// So many places at most: a megabyte.
const MOST_PLACES: usize = 1 << 16;

/// Of so many words at most it pays to look for a way that gives each a place of its own.
const FEW: usize = 256;

/// The first eight bytes of a word, noughts behind it, and the last eight where it is longer.
fn parts(word: &[u8]) -> [u64; 2] {
    let mut first = [0; 8];
    first.iter_mut().zip(word).for_each(|(to, from)| *to = *from);
    let last = word.last_chunk().filter(|_| word.len() > 8).copied().unwrap_or_default();
    [first, last].map(u64::from_le_bytes)
}

impl QuickWords {
    /// For these words, each of one to sixteen bytes.
    pub(super) fn new<'a>(words: impl Iterator<Item = &'a [u8]> + Clone) -> Self {
        let count = words.clone().count();
        if count == 0 || count > MOST_PLACES {
            return Self::default();
        }
        let size = (16 * count).next_power_of_two().clamp(16, MOST_PLACES);
        let has_long = words.clone().any(|word| word.len() > 8);
        // Of some ways to mix the bytes the one that gives the most words a place of their own.
        let (shift, tries) = (32 - size.trailing_zeros(), if count <= FEW { 40 } else { 6 });
        let (mut best, mut taken) = ((0, Self::default()), vec![0_u64; size.div_ceil(64)]);
        let mut mixers = [0x9E37_79B1_u32, 0x85EB_CA6B, 0xC2B2_AE35, 0x27D4_EB2F];
        for _ in 0..tries {
            let made = Self { mixers, shift, has_long, ..Self::default() };
            taken.fill(0);
            let is_first = |word: &&[u8]| {
                let at = made.place(parts(word));
                let (slot, bit) = (at / 64, 1 << (at % 64));
                taken.get_mut(slot).is_some_and(|slot| {
                    let is_first = *slot & bit == 0;
                    *slot |= bit;
                    is_first
                })
            };
            let held = words.clone().filter(is_first).count();
            if held > best.0 {
                best = (held, made);
            }
            if held == count {
                break;
            }
            mixers = mixers.map(|mixer| mixer.wrapping_mul(0x915F_77F5) ^ mixer >> 15 | 1);
        }
        let (_, mut found) = best;
        let long = if has_long { size } else { 0 };
        (found.firsts, found.lasts, found.lengths) = (vec![0; size], vec![0; long], vec![0; long]);
        words.for_each(|word| found.insert(word));
        found
    }

    /// The place of a word of these parts.
    fn place(&self, [first, last]: [u64; 2]) -> usize {
        let [one, two, three, four] = self.mixers;
        #[expect(clippy::cast_possible_truncation, reason = "the two halves")]
        let half = |word: u64, low: u32, high: u32| {
            (word as u32).wrapping_mul(low).wrapping_add(((word >> 32) as u32).wrapping_mul(high))
        };
        (half(first, one, two).wrapping_add(half(last, three, four)) >> self.shift) as usize
    }

    fn insert(&mut self, word: &[u8]) {
        let [first, last] = parts(word);
        let at = self.place([first, last]);
        match self.firsts.get_mut(at) {
            Some(place) if *place == 0 => *place = first,
            _ => return,
        }
        self.lasts.get_mut(at).into_iter().for_each(|place| *place = last);
        let length = u32::try_from(word.len()).unwrap_or(u32::MAX);
        self.lengths.get_mut(at).into_iter().for_each(|place| *place = length);
    }

    /// Of sixteen cells those that surely hold one of the words; what is said of empty ones does not count.
    #[inline(always)]
    pub(super) fn held<N: Numbers>(
        &self,
        numbers: N,
        buffer: &[u8],
        starts: N::Sixteen,
        lengths: N::Sixteen,
    ) -> Option<N::Sixteen> {
        let of = |number: u32| numbers.all(number);
        let (head, tail) = numbers.eight_bytes(buffer, starts)?;
        // So many bits of each half are the cell's.
        let inside = numbers.times(numbers.least(lengths, of(8)), of(8));
        let over_half = numbers.less(numbers.most(inside, of(32)), of(32));
        let head = numbers.and(head, numbers.less(numbers.up(of(1), inside), of(1)));
        let tail = numbers.and(tail, numbers.less(numbers.up(of(1), over_half), of(1)));
        let [one, two, three, four] = self.mixers;
        let mixed = numbers.add(numbers.times(head, of(one)), numbers.times(tail, of(two)));
        if !self.has_long {
            let (first, rest) = numbers.take_halves(&self.firsts, numbers.down(mixed, of(self.shift)))?;
            let is_word = numbers.and(numbers.equal(head, first), numbers.equal(tail, rest));
            return Some(numbers.without(is_word, numbers.over(numbers.less(lengths, of(1)), of(7))));
        }
        let last_eight = numbers.add(numbers.add(starts, lengths), of(8_u32.wrapping_neg()));
        let is_longer = numbers.over(lengths, of(8));
        let (last_head, last_tail) = numbers.eight_bytes(buffer, last_eight)?;
        let (last_head, last_tail) = (numbers.and(last_head, is_longer), numbers.and(last_tail, is_longer));
        let mixed = numbers.add(mixed, numbers.times(last_head, of(three)));
        let mixed = numbers.add(mixed, numbers.times(last_tail, of(four)));
        let at = numbers.down(mixed, of(self.shift));
        let (first, rest) = numbers.take_halves(&self.firsts, at)?;
        let (last, last_rest) = numbers.take_halves(&self.lasts, at)?;
        let begins = numbers.and(numbers.equal(head, first), numbers.equal(tail, rest));
        let ends = numbers.and(numbers.equal(last_head, last), numbers.equal(last_tail, last_rest));
        // Between them nothing is hidden, since no word of this length is longer than both.
        let is_long_as = numbers.equal(lengths, numbers.take(&self.lengths, at)?);
        Some(numbers.and(numbers.and(begins, ends), is_long_as))
    }
}

#[cfg(test)]
mod tests {
    use crate::gate::wordset::WordSet;
    use crate::scan::{Dialect, Lanes, Numbers, PADDING, Task, with_lanes};
    use proptest::prelude::*;

    struct Held<'a>(&'a WordSet, &'a [u8], [u32; 16], [u32; 16]);

    impl Task for Held<'_> {
        type Output = u16;

        fn run<L: Lanes>(self, lanes: L) -> u16 {
            let numbers = lanes.numbers();
            let (starts, lengths) = (numbers.of(self.2), numbers.of(self.3));
            let held = self.0.quick.held(numbers, self.1, starts, lengths);
            held.map_or(0, |held| numbers.bits(held))
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 80, failure_persistence: None, ..ProptestConfig::default() })]

        #[test]
        fn what_is_held_is_a_word_and_nearly_every_word_is(
            words in prop::collection::vec("[ab]{1,3}|[a-c1]{6,11}|W[0-9]{2}-[0-9]{1,12}", 1..400),
            others in prop::collection::vec("[ab]{0,3}|[a-c1]{6,20}|W[0-9]{2}-[0-9]{1,16}", 8),
            first in 0_usize..400,
        ) {
            let set = WordSet::new(&words);
            let (mut buffer, mut starts, mut lengths) = (b"the start".to_vec(), [0; 16], [0; 16]);
            let known = (0..8).map(|at| &words[(first + at) % words.len()]);
            for (at, cell) in others.iter().chain(known).enumerate() {
                (starts[at], lengths[at]) = (buffer.len() as u32, cell.len() as u32);
                buffer.extend(cell.as_bytes());
                buffer.push(b',');
            }
            buffer.resize(buffer.len() + PADDING, b'a');
            let held = with_lanes(Dialect::default(), Held(&set, &buffer, starts, lengths));
            for (at, (start, len)) in starts.into_iter().zip(lengths).enumerate() {
                let is_word = || set.holds(&buffer, start as usize, len as usize);
                prop_assert!(held >> at & 1 == 0 || len == 0 || is_word(), "{at} {:?}", others);
            }
            prop_assert!((held >> 8).count_ones() >= 6, "{held:b}");
        }
    }
}
