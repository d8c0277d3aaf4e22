//! Rows as delimited text, in the encoding of the input.

use super::begin::Begin;
use super::rows::Rows;
use super::sink::RowSink;
use crate::error::Error;
use crate::output::one::Output;
use encoding_rs::{EncoderResult, Encoding, UTF_8, UTF_16BE, UTF_16LE};

/// Writes rows as text.
pub(super) struct TextForm {
    pub(super) encoding: &'static Encoding,
}

impl RowSink for TextForm {
    fn begin(&mut self, _: Begin<'_>, output: &mut Output) -> Result<(), Error> {
        match self.encoding {
            encoding if encoding == UTF_16LE => output.write(b"\xFF\xFE"),
            encoding if encoding == UTF_16BE => output.write(b"\xFE\xFF"),
            _ => Ok(()),
        }
    }

    fn rows(&mut self, rows: &Rows, output: &mut Output) -> Result<(), Error> {
        let Rows::Text(rows) = rows else { return Ok(()) };
        if self.encoding == UTF_8 {
            return output.write(rows);
        }
        let encoded = encoded(rows, self.encoding).map_err(|letter| Error::Unwritable {
            path: output.path().to_owned(),
            letter,
            encoding: self.encoding.name(),
        })?;
        output.write(&encoded)
    }

    fn finish(&mut self, _: &mut Output) -> Result<(), Error> {
        Ok(())
    }

    fn takes_text(&self) -> bool {
        true
    }

    fn takes_mark(&self) -> bool {
        self.encoding == UTF_8
    }
}

/// The rows in another encoding, or the first character that it does not have.
pub(crate) fn encoded(rows: &[u8], encoding: &'static Encoding) -> Result<Vec<u8>, char> {
    let text = String::from_utf8_lossy(rows);
    if encoding == UTF_16LE {
        return Ok(text.encode_utf16().flat_map(u16::to_le_bytes).collect());
    }
    if encoding == UTF_16BE {
        return Ok(text.encode_utf16().flat_map(u16::to_be_bytes).collect());
    }
    let mut encoder = encoding.new_encoder();
    let most = encoder.max_buffer_length_from_utf8_without_replacement(text.len());
    let mut bytes = Vec::with_capacity(most.unwrap_or(4 * text.len()) + 16);
    match encoder.encode_from_utf8_to_vec_without_replacement(&text, &mut bytes, true).0 {
        EncoderResult::Unmappable(letter) => Err(letter),
        EncoderResult::InputEmpty | EncoderResult::OutputFull => Ok(bytes),
    }
}
