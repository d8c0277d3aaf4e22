//! Hash tables whose keys are hashes already.

use std::hash::{BuildHasherDefault, Hasher};

/// An odd number whose bits are well mixed: 2^64 by the golden ratio.
pub(crate) const SPREAD: u64 = 0x9E37_79B9_7F4A_7C15;

/// Makes hashers of keys that are hashes.
pub(crate) type BuildStraight = BuildHasherDefault<Straight>;

/// A hash that is one already.
#[derive(Debug, Default)]
pub(crate) struct Straight(u64);

impl Hasher for Straight {
    fn finish(&self) -> u64 {
        self.0
    }

    fn write(&mut self, bytes: &[u8]) {
        self.0 = bytes.iter().fold(self.0, |sum, byte| sum.wrapping_mul(31).wrapping_add(u64::from(*byte)));
    }

    fn write_u64(&mut self, number: u64) {
        self.0 = number;
    }
}
