//! From another encoding to UTF-8, some bytes at a time. A sequence that cannot be decoded becomes one byte
//! that stands in no UTF-8, so that its cell is found by whoever reads the text.

use super::input::read_full;
use encoding_rs::{DecoderResult, Encoding, UTF_16BE, UTF_16LE};
use std::io::{self, Read};

/// So many bytes are decoded at once.
const CHUNK: usize = 64 << 10;
/// Stands for what cannot be decoded.
const BROKEN: u8 = 0xFF;

/// A place in the decoded text and in the bytes it is decoded from, where decoding can begin.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Point {
    pub(super) text: u64,
    pub(super) raw: u64,
}

/// A reader that decodes.
pub(super) struct Recoder<R> {
    encoding: &'static Encoding,
    decoder: encoding_rs::Decoder,
    from: R,
    /// Bytes to be decoded; the first `kept` are left from before.
    raw: Vec<u8>,
    kept: usize,
    /// Room for decoded bytes, how many there are, and how many of them were given out.
    text: Vec<u8>,
    len: usize,
    given: usize,
    /// Where the decoded bytes begin.
    point: Point,
    is_done: bool,
}

/// Whether decoding can begin at any chunk: no character depends on those before it.
pub(super) fn is_stateless(encoding: &'static Encoding) -> bool {
    encoding.is_single_byte() || is_utf16(encoding)
}

fn is_utf16(encoding: &'static Encoding) -> bool {
    encoding == UTF_16LE || encoding == UTF_16BE
}

impl<R: Read> Recoder<R> {
    /// Decodes what `from` gives; its first byte is the one at `raw` in the file.
    pub(super) fn new(encoding: &'static Encoding, from: R, raw: u64) -> Self {
        Self {
            encoding,
            decoder: encoding.new_decoder_without_bom_handling(),
            from,
            raw: vec![0; CHUNK],
            kept: 0,
            // A byte becomes three at most in all encodings, and one that cannot be decoded becomes one.
            text: vec![0; 3 * CHUNK + 64],
            len: 0,
            given: 0,
            point: Point { text: 0, raw },
            is_done: false,
        }
    }

    /// Passes over the byte-order mark.
    pub(super) fn after(mut self, bom: usize) -> io::Result<Self> {
        let mut mark = vec![0; bom];
        read_full(&mut self.from, &mut mark)?;
        Ok(self)
    }

    /// Fills `into` as far as there is text; tells of each place where decoding can begin.
    pub(super) fn fill(&mut self, into: &mut [u8], mut tell: impl FnMut(Point)) -> io::Result<usize> {
        let mut filled = 0;
        while filled < into.len() {
            if self.given == self.len {
                if self.is_done {
                    break;
                }
                self.decode_on(&mut tell)?;
            }
            let ready = self.text.get(self.given..self.len).unwrap_or_default();
            let room = into.get_mut(filled..).unwrap_or_default();
            let count = ready.len().min(room.len());
            if let (Some(to), Some(from)) = (room.get_mut(..count), ready.get(..count)) {
                to.copy_from_slice(from);
            }
            filled += count;
            self.given += count;
        }
        Ok(filled)
    }

    /// Passes over so many bytes of the text.
    pub(super) fn skip(&mut self, mut count: u64) -> io::Result<()> {
        while count > 0 {
            if self.given == self.len {
                if self.is_done {
                    return Ok(());
                }
                self.decode_on(&mut |_| ())?;
            }
            let ready = ((self.len - self.given) as u64).min(count);
            self.given += usize::try_from(ready).unwrap_or(usize::MAX);
            count -= ready;
        }
        Ok(())
    }

    /// Decodes the next bytes.
    fn decode_on(&mut self, tell: &mut impl FnMut(Point)) -> io::Result<()> {
        let read = read_full(&mut self.from, self.raw.get_mut(self.kept..).unwrap_or_default())?;
        let len = self.kept + read;
        let is_last = len < self.raw.len();
        self.point.text += self.len as u64;
        tell(self.point);
        let whole = if is_last { len } else { self.whole_characters(len) };
        (self.len, self.given) = (0, 0);
        let mut at = 0;
        loop {
            let rest = self.raw.get(at..whole).unwrap_or_default();
            let room =
                self.decoder.max_utf8_buffer_length_without_replacement(rest.len()).unwrap_or(CHUNK * 3);
            if self.text.len() < self.len + room + 1 {
                self.text.resize(self.len + room + 1, 0);
            }
            let into = self.text.get_mut(self.len..).unwrap_or_default();
            let (result, used, written) =
                self.decoder.decode_to_utf8_without_replacement(rest, into, is_last);
            self.len += written;
            at += used;
            match result {
                DecoderResult::InputEmpty => break,
                DecoderResult::OutputFull => {}
                DecoderResult::Malformed(..) => {
                    if let Some(broken) = self.text.get_mut(self.len) {
                        *broken = BROKEN;
                    }
                    self.len += 1;
                }
            }
        }
        self.point.raw += whole as u64;
        self.raw.copy_within(whole..len, 0);
        self.kept = len - whole;
        self.is_done = is_last;
        Ok(())
    }

    /// How many of the bytes are whole characters, where that can be told from them.
    fn whole_characters(&self, len: usize) -> usize {
        if !is_utf16(self.encoding) {
            return len;
        }
        let even = len & !1;
        let unit = match even.checked_sub(2).and_then(|at| self.raw.get(at..even)) {
            Some(&[low, high]) if self.encoding == UTF_16LE => u16::from_le_bytes([low, high]),
            Some(&[high, low]) => u16::from_be_bytes([high, low]),
            _ => return even,
        };
        // The first half of a pair waits for the second.
        if (0xD800..0xDC00).contains(&unit) { even - 2 } else { even }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use encoding_rs::{SHIFT_JIS, WINDOWS_1252};

    #[test]
    fn text_is_decoded_whole_and_again_from_every_point() {
        let text: String = (0..60_000).map(|n| if n % 7 == 0 { "🌳é" } else { "tree " }).collect();
        let raw: Vec<u8> = text.encode_utf16().flat_map(u16::to_le_bytes).collect();
        let mut points = Vec::new();
        let mut whole = vec![0; text.len() + 10];
        let count =
            Recoder::new(UTF_16LE, raw.as_slice(), 0).fill(&mut whole, |point| points.push(point)).unwrap();
        assert!(whole[..count] == *text.as_bytes() && points.len() > 3);
        for point in points {
            let mut piece = vec![0; 1000];
            let mut recoder = Recoder::new(UTF_16LE, &raw[point.raw as usize..], point.raw);
            let count = recoder.fill(&mut piece, |_| ()).unwrap();
            assert_eq!(piece[..count], text.as_bytes()[point.text as usize..][..count]);
        }
    }

    #[test]
    fn what_cannot_be_decoded_becomes_a_byte_of_no_text() {
        let read = |encoding, bytes: &[u8]| {
            let mut into = vec![0; 64];
            let count = Recoder::new(encoding, bytes, 0).fill(&mut into, |_| ()).unwrap();
            into[..count].to_vec()
        };
        assert_eq!(read(UTF_16LE, b"a\0\x00\xD8b\0"), b"a\xFFb");
        assert_eq!(read(UTF_16LE, b"a\0b"), b"a\xFF");
        assert_eq!(read(SHIFT_JIS, b"a\x81\xFFb"), b"a\xFFb");
        assert_eq!(read(WINDOWS_1252, b"\xE9\x80"), "é€".as_bytes());
        assert_eq!(read(WINDOWS_1252, b""), b"");
    }
}
