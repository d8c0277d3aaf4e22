/// A text of fixed length with a range of bytes at each place: a tag number, a date of fixed width. All
/// places are tested at once.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Places {
    len: usize,
    low: [u8; 16],
    span: [u8; 16],
}

impl Places {
    /// The longest text that can be tested.
    pub const MOST: usize = 16;

    /// From the lowest and highest byte of each place; nothing for more than [`Places::MOST`] places, for
    /// none, or for a range upside down.
    #[must_use]
    pub fn new(ranges: &[(u8, u8)]) -> Option<Self> {
        if ranges.is_empty() || ranges.len() > Self::MOST {
            return None;
        }
        let mut places = Self { len: ranges.len(), low: [0; 16], span: [255; 16] };
        for (&(low, high), (to_low, to_span)) in
            ranges.iter().zip(places.low.iter_mut().zip(&mut places.span))
        {
            *to_low = low;
            *to_span = high.checked_sub(low)?;
        }
        Some(places)
    }

    /// Whether the `len` bytes at `start` fit. The buffer has [`crate::PADDING`] bytes behind its content.
    #[inline(always)]
    #[must_use]
    pub fn fit(&self, buffer: &[u8], start: usize, len: usize) -> bool {
        self.fitting(buffer, start, len).is_some()
    }

    /// The bytes at `start`, where the first `len` of them fit.
    #[inline(always)]
    #[must_use]
    pub fn fitting<'a>(&self, buffer: &'a [u8], start: usize, len: usize) -> Option<&'a [u8; 16]> {
        let bytes = buffer.get(start..)?.first_chunk::<16>()?;
        let mut bad = u8::from(len != self.len);
        for (byte, (low, span)) in bytes.iter().zip(self.low.iter().zip(&self.span)) {
            bad |= u8::from(byte.wrapping_sub(*low) > *span);
        }
        if bad == 0 { Some(bytes) } else { None }
    }
}
