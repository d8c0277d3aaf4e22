//! A text copied byte by byte, but for its patches, in its own encoding.

use crate::error::Error;
use crate::output::Output;
use crate::row_output::encoded;
use crate::table_file::TableFile;
use encoding_rs::{UTF_8, UTF_16BE, UTF_16LE};
use tidy_gate_core::block::Block;
use tidy_gate_core::scan::{Dialect, RowWalk, walk_row};

/// A piece of a text and what stands in its place.
#[derive(Debug)]
pub(crate) struct Patch {
    pub(crate) from: u64,
    pub(crate) to: u64,
    pub(crate) text: Box<[u8]>,
}

/// Writes the text with its patches, which are in order.
pub(super) fn write(file: &TableFile, patches: &[Patch], output: &mut Output) -> Result<(), Error> {
    let mut writer = Writer::new(file, output)?;
    let (mut at, mut patches) = (0, patches.iter().peekable());
    file.rest_from(0, &mut |bytes| {
        let (begin, end) = (at, at + bytes.len() as u64);
        let piece = |from: u64, to: u64| -> &[u8] {
            let place = |offset: u64| usize::try_from(offset.clamp(begin, end) - begin).unwrap_or(0);
            bytes.get(place(from)..place(to)).unwrap_or_default()
        };
        while let Some(patch) = patches.peek().filter(|patch| patch.from < end) {
            writer.write(piece(at, patch.from))?;
            // What a patch takes away may go on in the next bytes.
            if patch.from >= begin {
                writer.write(&patch.text)?;
            }
            at = patch.to.min(end).max(at);
            if patch.to > end {
                break;
            }
            patches.next();
        }
        writer.write(piece(at, end))?;
        at = end;
        Ok(())
    })?;
    writer.finish()
}

/// Bytes of UTF-8 on their way into the file's own encoding.
struct Writer<'a> {
    output: &'a mut Output,
    encoding: &'static encoding_rs::Encoding,
    /// Whether carriage returns alone end lines.
    returns_alone: bool,
    /// The first bytes of a character that goes on in the next ones.
    kept: Vec<u8>,
}

impl<'a> Writer<'a> {
    fn new(file: &TableFile, output: &'a mut Output) -> Result<Self, Error> {
        let (encoding, has_mark) = file.encoding_and_mark();
        if has_mark && encoding == UTF_16LE {
            output.write(b"\xFF\xFE")?;
        } else if has_mark && encoding == UTF_16BE {
            output.write(b"\xFE\xFF")?;
        }
        Ok(Self { output, encoding, returns_alone: file.returns_alone(), kept: Vec::new() })
    }

    fn write(&mut self, bytes: &[u8]) -> Result<(), Error> {
        if self.encoding == UTF_8 && !self.returns_alone {
            return self.output.write(bytes);
        }
        self.kept.extend(bytes);
        let whole = match std::str::from_utf8(&self.kept) {
            Ok(_) => self.kept.len(),
            // What is cut off is not yet wrong.
            Err(error) if error.error_len().is_none() => error.valid_up_to(),
            Err(_) => self.kept.len(),
        };
        let rest = self.kept.split_off(whole);
        let mut text = std::mem::replace(&mut self.kept, rest);
        if self.returns_alone {
            text.iter_mut().filter(|byte| **byte == b'\n').for_each(|byte| *byte = b'\r');
        }
        if self.encoding == UTF_8 {
            return self.output.write(&text);
        }
        let encoded = encoded(&text, self.encoding).map_err(|letter| Error::Unwritable {
            path: self.output.path().to_owned(),
            letter,
            encoding: self.encoding.name(),
        })?;
        self.output.write(&encoded)
    }

    fn finish(mut self) -> Result<(), Error> {
        let rest = std::mem::take(&mut self.kept);
        if rest.is_empty() { Ok(()) } else { self.output.write(&rest) }
    }
}

/// A cell as it stands in the text: in quotes where it stood so, or needs them.
pub(super) fn cell(text: &str, raw: &[u8], delimiter: u8, quote: u8) -> Vec<u8> {
    let was_quoted = raw.first() == Some(&quote) && raw.len() > 1;
    let needs = |byte: u8| byte == delimiter || byte == quote || byte == b'\n' || byte == b'\r';
    if !was_quoted && !text.bytes().any(needs) {
        return text.as_bytes().to_vec();
    }
    let mut cell = vec![quote];
    for byte in text.bytes() {
        if byte == quote {
            cell.push(quote);
        }
        cell.push(byte);
    }
    cell.push(quote);
    cell
}

/// Where a row of a block stands, with its line break.
pub(super) fn row(block: &Block, row: u64, dialect: Dialect) -> (usize, usize) {
    let content = block.content();
    let mut start = 0;
    for number in block.first_row.. {
        let end = match walk_row(content, start, dialect, |_| (), |_| ()) {
            RowWalk::Whole { end, .. } => end,
            _ => content.len(),
        };
        if number == row || end >= content.len() {
            return (start, end);
        }
        start = end;
    }
    (start, start)
}
