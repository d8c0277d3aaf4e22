//! Values in binary records, little-endian.

/// A number in four bytes: a whole number or the upper half of one with a point, perhaps in hundredths.
pub(super) fn rk(raw: u32) -> f64 {
    let number = if raw & 2 != 0 {
        f64::from(raw.cast_signed() >> 2)
    } else {
        f64::from_bits(u64::from(raw & !3) << 32)
    };
    if raw & 1 != 0 { number / 100.0 } else { number }
}

/// A boolean, or the code of an error.
pub(super) fn bool_or_error(value: Option<u8>, is_error: bool) -> String {
    match (value.unwrap_or(0), is_error) {
        (0, false) => "FALSE",
        (_, false) => "TRUE",
        (0x00, true) => "#NULL!",
        (0x07, true) => "#DIV/0!",
        (0x0F, true) => "#VALUE!",
        (0x17, true) => "#REF!",
        (0x1D, true) => "#NAME?",
        (0x24, true) => "#NUM!",
        (0x2B, true) => "#GETTING_DATA",
        (_, true) => "#N/A",
    }
    .to_owned()
}

/// Two bytes.
pub(super) fn u16_at(data: &[u8], at: usize) -> Option<u16> {
    data.get(at..at + 2)?.first_chunk().map(|bytes| u16::from_le_bytes(*bytes))
}

/// Four bytes.
pub(super) fn u32_at(data: &[u8], at: usize) -> Option<u32> {
    data.get(at..at + 4)?.first_chunk().map(|bytes| u32::from_le_bytes(*bytes))
}

/// A number of eight bytes (IEEE 754).
pub(super) fn f64_at(data: &[u8], at: usize) -> Option<f64> {
    data.get(at..at + 8)?.first_chunk().map(|bytes| f64::from_le_bytes(*bytes))
}
