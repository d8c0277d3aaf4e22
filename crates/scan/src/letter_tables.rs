//! What each byte adds to the sums over the letters of a text.

/// What a byte adds, from two tables by its upper and two by its lower half.
pub(crate) const UPPER: [[u8; 16]; 2] = [
    [0, 0, 0, 0x5B, 0x33, 0xC6, 0x33, 0xC6, 0x1D, 0x72, 0xA9, 0xE4, 0x4F, 0x98, 0x27, 0xD1],
    [0, 0, 0, 0xA7, 0x0E, 0x91, 0x0E, 0x91, 0xEC, 0x35, 0x58, 0x16, 0xBB, 0x6D, 0xD2, 0x43],
];
pub(crate) const LOWER: [[u8; 16]; 2] = [
    [0x81, 0x2E, 0xF7, 0x14, 0xB2, 0x69, 0xDC, 0x47, 0x9A, 0x05, 0xEB, 0x70, 0x3D, 0xC8, 0x56, 0xA3],
    [0x62, 0xD9, 0x1F, 0x84, 0x4B, 0xF0, 0x37, 0xAD, 0xE6, 0x5C, 0x93, 0x08, 0xC1, 0x7A, 0x2F, 0xB4],
];
/// The classes of which a byte must have one by both halves to add anything: a to o, p to z, digits, beyond ASCII.
pub(crate) const UPPER_CLASSES: [u8; 16] = [0, 0, 0, 4, 1, 2, 1, 2, 8, 8, 8, 8, 8, 8, 8, 8];
pub(crate) const LOWER_CLASSES: [u8; 16] = [14, 15, 15, 15, 15, 15, 15, 15, 15, 15, 11, 9, 9, 9, 9, 9];

const TWO_SUMS: [u64; 256] = {
    let mut sums = [0; 256];
    let mut byte = 0;
    while byte < 256 {
        let (upper, lower) = (byte >> 4, byte & 15);
        #[expect(clippy::indexing_slicing, reason = "halves of a byte index 16 places, a byte 256")]
        if UPPER_CLASSES[upper] & LOWER_CLASSES[lower] != 0 {
            let one = (UPPER[0][upper] ^ LOWER[0][lower]) as u64;
            let other = (UPPER[1][upper] ^ LOWER[1][lower]) as u64;
            sums[byte] = one | other << 32;
        }
        byte += 1;
    }
    sums
};

/// The sum of a text: two sums of 32 bits each.
#[must_use]
pub fn letter_sum(text: &[u8]) -> u64 {
    #[expect(clippy::indexing_slicing, reason = "a byte indexes 256 places")]
    text.iter().fold(0, |sum, byte| sum + TWO_SUMS[usize::from(*byte)])
}
