//! What can be asked of a step of 64 bytes.

use super::numbers::Numbers;
use crate::email::is_common_email;
use crate::oddities::Oddities;

/// Comparisons over a step of 64 bytes. One value serves one walk over one buffer.
pub trait Lanes {
    /// What counts sixteen numbers at once.
    type Numbers: Numbers;
    /// It.
    fn numbers(&self) -> Self::Numbers;
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
    /// Whether the first `len` (at most 64) bytes of the step are an address of the common shape.
    #[inline(always)]
    fn is_address(&self, step: &[u8; 64], len: usize) -> bool {
        is_common_email(step.get(..len).unwrap_or_default())
    }
    /// Writes the position of each set bit, `base` added, from the first slot on. Those behind the last one may be
    /// scribbled on.
    #[inline(always)]
    fn positions(&self, base: u32, mut mask: u64, slots: &mut [u32; 64]) {
        let count = mask.count_ones() as usize;
        // Eight at a time whether so many are there or not: a count would be guessed wrong too often.
        let mut write = |slots: &mut [u32; 8]| {
            for slot in slots {
                *slot = base.wrapping_add(mask.trailing_zeros());
                mask &= mask.wrapping_sub(1);
            }
        };
        let (eights, _) = slots.as_chunks_mut::<8>();
        for (done, slots) in eights.iter_mut().enumerate() {
            write(slots);
            if count <= 8 * (done + 1) {
                break;
            }
        }
    }
    /// Remembers what unusual bytes the step holds.
    fn watch(&mut self, step: &[u8; 64]);
    /// What was remembered.
    fn watched(&self) -> Oddities;
}

/// Work over lanes, given to whichever kind of lanes this processor has.
pub trait Task {
    /// What it comes to.
    type Output;
    /// Does it; to be built into its caller (`#[inline(always)]`), so that the lanes are.
    fn run<L: Lanes>(self, lanes: L) -> Self::Output;
}
