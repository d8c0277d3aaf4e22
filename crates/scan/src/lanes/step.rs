//! What can be asked of a step of 64 bytes.

use crate::oddities::Oddities;

/// Comparisons over a step of 64 bytes. One value serves one walk over one buffer.
pub(crate) trait Lanes {
    /// Where the quote stands.
    fn quotes(&self, step: &[u8; 64]) -> u64;
    /// Where a delimiter or a line feed stands.
    fn separators(&self, step: &[u8; 64]) -> u64;
    /// Where a line feed stands.
    fn line_feeds(&self, step: &[u8; 64]) -> u64;
    /// Where a carriage return stands.
    fn carriage_returns(&self, step: &[u8; 64]) -> u64;
    /// For each bit, the parity of the bits up to and including it: from a quote's opening bit up to, but
    /// without, its closing bit.
    fn prefix_parity(&self, mask: u64) -> u64;
    /// The sum of the letters among the first bytes of the step, and whether these are ASCII.
    fn letters(&self, step: &[u8; 64], len: usize) -> (u64, bool);
    /// Remembers what unusual bytes the step holds.
    fn watch(&mut self, step: &[u8; 64]);
    /// What was remembered.
    fn watched(&self) -> Oddities;
}

/// Work over lanes, given to whichever kind of lanes this processor has.
pub(crate) trait Task {
    type Output;
    fn run<L: Lanes>(self, lanes: L) -> Self::Output;
}
