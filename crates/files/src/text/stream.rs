//! The text of an input as UTF-8 with line feeds: unpacked, decoded, and readable again by its place.

use super::encoding::{Chosen, How, choose};
use super::input::{Input, read_at, read_full};
use super::opening::no_table;
use super::options::ReadOptions;
use super::recode::{Point, Recoder, is_stateless};
use super::unpack::{Packing, TOO_LARGE, unpacked};
use crate::error::Error;
use encoding_rs::UTF_8;
use std::fs::File;
use std::io::{self, Cursor, Read, Write};
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

/// So many bytes are looked at for packing and encoding.
const HEAD: usize = 256 << 10;

/// A text, read in order.
pub(crate) struct TextStream {
    path: PathBuf,
    source: Source,
    /// What was read ahead.
    ahead: Vec<u8>,
    taken: usize,
    /// So many bytes are still to come of the source, where that is known.
    rest: Option<usize>,
    /// Keeps the text where it cannot be made again.
    keep: Option<File>,
    /// Whether carriage returns alone end the lines.
    returns_alone: bool,
    facts: StreamFacts,
    /// How many times its packed size a packed text may hold.
    expansion: u64,
}

enum Source {
    Plain(Box<dyn Read + Send>),
    Recoded(Box<Recoder<Box<dyn Read + Send>>>, Arc<Mutex<Vec<Point>>>),
}

/// What was found out about an input.
#[derive(Debug, Clone)]
pub(crate) struct StreamFacts {
    pub(crate) packing: Option<Packing>,
    pub(crate) chosen: Chosen,
}

/// The text, readable again by its place.
pub(crate) enum Again {
    /// It cannot be read again.
    Never,
    /// From the file as it lies there.
    File { file: Mutex<File>, returns_alone: bool },
    /// From a temporary file.
    Kept { file: Mutex<File>, returns_alone: bool },
    /// By decoding the file once more.
    Recoded { file: Mutex<File>, points: Arc<Mutex<Vec<Point>>>, chosen: Chosen, returns_alone: bool },
}

impl TextStream {
    /// Begins to read an input; what it is made of is told apart by its first bytes. Where it `may_return`, it
    /// can be read again afterwards.
    pub(crate) fn open(
        input: &mut Input,
        options: &ReadOptions,
        may_return: bool,
    ) -> Result<(Self, Again), Error> {
        let (path, (mut reader, mut file)) = (input.path().to_owned(), input.take());
        let failed = |source| Error::Read { path: path.clone(), source };
        let (mut head, mut is_whole) =
            head_of(&mut reader).map_err(|source| reading_failed(&path, source))?;
        let packing = Packing::of(&head).filter(|_| !options.is_made);
        if let Some(packing) = packing {
            file = None;
            let packed = Cursor::new(head).chain(reader);
            let failed = |source| unpacking_failed(&path, packing, options.limits.expansion, source);
            reader = unpacked(packing, packed, options.limits).map_err(failed)?;
            (head, is_whole) = head_of(&mut reader).map_err(failed)?;
        }
        let chosen = choose(&head, is_whole, options.encoding, options.turned_to);
        let not_utf8 = chosen.encoding != UTF_8;
        if let Some(shape) = no_table(&head, not_utf8).filter(|_| !options.is_made) {
            return Err(Error::NotTable { path, shape });
        }
        let (bom, encoding) = (chosen.bom, chosen.encoding);
        let facts = StreamFacts { packing, chosen: chosen.clone() };
        let rest = (is_whole && !not_utf8).then_some(head.len());
        let whole: Box<dyn Read + Send> = Box::new(Cursor::new(head).chain(reader));
        let source = match not_utf8 {
            true => {
                let points = Arc::new(Mutex::new(Vec::new()));
                let recoder = Recoder::new(encoding, whole, bom as u64);
                Source::Recoded(Box::new(recoder.after(bom).map_err(failed)?), points)
            }
            false => Source::Plain(whole),
        };
        let mut stream = Self {
            path,
            source,
            ahead: Vec::new(),
            taken: 0,
            rest,
            keep: None,
            returns_alone: false,
            facts,
            expansion: options.limits.expansion,
        };
        stream.returns_alone = ends_with_returns(stream.peek(HEAD)?);
        let returns_alone = stream.returns_alone;
        let again = match (file, &stream.source) {
            (Some(file), Source::Plain(_)) => Again::File { file: Mutex::new(file), returns_alone },
            (Some(file), Source::Recoded(_, points)) if is_stateless(encoding) => {
                let (file, points) = (Mutex::new(file), Arc::clone(points));
                Again::Recoded { file, points, chosen, returns_alone }
            }
            _ if may_return => {
                let (keep, kept) = kept_at(&stream.path)?;
                stream.keep = Some(keep);
                Again::Kept { file: Mutex::new(kept), returns_alone }
            }
            _ => Again::Never,
        };
        stream.settle_ahead()?;
        Ok((stream, again))
    }

    /// What is ahead is given out as all else will be.
    fn settle_ahead(&mut self) -> Result<(), Error> {
        if self.returns_alone {
            to_line_feeds(&mut self.ahead);
        }
        let ahead = std::mem::take(&mut self.ahead);
        self.keep(&ahead)?;
        self.ahead = ahead;
        Ok(())
    }

    pub(crate) fn facts(&self) -> &StreamFacts {
        &self.facts
    }

    pub(crate) fn returns_alone(&self) -> bool {
        self.returns_alone
    }

    /// The next bytes, up to so many, without taking them; fewer at the end.
    pub(crate) fn peek(&mut self, count: usize) -> Result<&[u8], Error> {
        if self.taken > 0 {
            self.ahead.drain(..self.taken);
            self.taken = 0;
        }
        let start = self.ahead.len();
        let wanted = count.saturating_sub(start).min(self.rest.unwrap_or(usize::MAX));
        if wanted > 0 {
            self.ahead.resize(start + wanted, 0);
            let mut ahead = std::mem::take(&mut self.ahead);
            let filled = self.fill(ahead.get_mut(start..).unwrap_or_default());
            ahead.truncate(start + filled.as_ref().map_or(0, |filled| *filled));
            self.ahead = ahead;
            filled?;
        }
        Ok(self.ahead.get(..count.min(self.ahead.len())).unwrap_or_default())
    }

    /// Reads until `into` is full or the end is reached.
    pub(crate) fn read(&mut self, into: &mut [u8]) -> Result<usize, Error> {
        let ahead = self.ahead.get(self.taken..).unwrap_or_default();
        let count = ahead.len().min(into.len());
        for (to, from) in into.iter_mut().zip(ahead) {
            *to = *from;
        }
        self.taken += count;
        if self.taken == self.ahead.len() {
            self.ahead.clear();
            self.taken = 0;
        }
        let rest = into.get_mut(count..).unwrap_or_default();
        if rest.is_empty() {
            return Ok(count);
        }
        Ok(count + self.fill(rest)?)
    }

    /// How many bytes follow, where that is known.
    pub(crate) fn left(&self) -> Option<usize> {
        Some(self.ahead.len() - self.taken + self.rest?)
    }

    /// Passes over bytes that were peeked at; gives how many.
    pub(crate) fn pass(&mut self, count: usize) -> usize {
        let count = count.min(self.ahead.len() - self.taken);
        self.taken += count;
        count
    }

    /// Whether nothing follows.
    pub(crate) fn is_at_end(&mut self) -> Result<bool, Error> {
        Ok(self.taken == self.ahead.len() && self.peek(1)?.is_empty())
    }

    fn fill(&mut self, into: &mut [u8]) -> Result<usize, Error> {
        let filled = match &mut self.source {
            Source::Plain(reader) => read_full(reader.as_mut(), into),
            Source::Recoded(recoder, points) => recoder.fill(into, |point| {
                points.lock().unwrap_or_else(PoisonError::into_inner).push(point);
            }),
        };
        let count = filled.map_err(|source| match self.facts.packing {
            Some(packing) => unpacking_failed(&self.path, packing, self.expansion, source),
            None => reading_failed(&self.path, source),
        })?;
        self.rest =
            if count < into.len() { Some(0) } else { self.rest.map(|rest| rest.saturating_sub(count)) };
        let read = into.get_mut(..count).unwrap_or_default();
        if self.returns_alone {
            to_line_feeds(read);
        }
        self.keep(read)?;
        Ok(count)
    }

    fn keep(&mut self, bytes: &[u8]) -> Result<(), Error> {
        let Some(keep) = &mut self.keep else { return Ok(()) };
        keep.write_all(bytes).map_err(|source| Error::Read { path: self.path.clone(), source })
    }
}

impl Again {
    /// Reads from a place in the text as much of `into` as there is.
    pub(crate) fn read_at(&self, offset: u64, into: &mut [u8]) -> io::Result<usize> {
        let (count, returns_alone) = match self {
            Self::Never => return Err(io::ErrorKind::Unsupported.into()),
            Self::Kept { file, .. } => (read_at(file, offset, into)?, false),
            Self::File { file, returns_alone } => (read_at(file, offset, into)?, *returns_alone),
            Self::Recoded { file, points, chosen, returns_alone } => {
                let point = {
                    let points = points.lock().unwrap_or_else(PoisonError::into_inner);
                    let next = points.partition_point(|point| point.text <= offset);
                    next.checked_sub(1).and_then(|at| points.get(at).copied())
                };
                let Some(point) = point else { return Ok(0) };
                let from = Place { file, offset: point.raw };
                let mut recoder = Recoder::new(chosen.encoding, from, point.raw);
                recoder.skip(offset - point.text)?;
                (recoder.fill(into, |_| ())?, *returns_alone)
            }
        };
        if returns_alone {
            to_line_feeds(into.get_mut(..count).unwrap_or_default());
        }
        Ok(count)
    }

    /// Whether carriage returns alone end the lines of the file.
    pub(crate) fn returns_alone(&self) -> bool {
        match self {
            Self::File { returns_alone, .. } | Self::Recoded { returns_alone, .. } => *returns_alone,
            Self::Kept { returns_alone, .. } => *returns_alone,
            Self::Never => false,
        }
    }

    /// Whether the text can be read again at all.
    pub(crate) fn is_possible(&self) -> bool {
        !matches!(self, Self::Never)
    }
}

/// A temporary file for the text of an input, to be written and to be read: both handles share one place in it, so that all
/// is written before anything is read again.
fn kept_at(path: &Path) -> Result<(File, File), Error> {
    let failed = |source| Error::Read { path: path.to_owned(), source };
    let kept = tempfile::tempfile().map_err(failed)?;
    Ok((kept.try_clone().map_err(failed)?, kept))
}

/// A file read on from a place, whatever others read of it meanwhile.
struct Place<'a> {
    file: &'a Mutex<File>,
    offset: u64,
}

impl Read for Place<'_> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let count = read_at(self.file, self.offset, into)?;
        self.offset += count as u64;
        Ok(count)
    }
}

fn head_of(reader: &mut Box<dyn Read + Send>) -> io::Result<(Vec<u8>, bool)> {
    let mut head = vec![0; HEAD];
    let count = read_full(reader.as_mut(), &mut head)?;
    head.truncate(count);
    Ok((head, count < HEAD))
}

/// Whether carriage returns alone end the lines of a text. Line feeds within quoted cells are none of its line ends.
fn ends_with_returns(text: &[u8]) -> bool {
    let Some(first) = memchr::memchr(b'\r', text) else { return false };
    if memchr::memchr(b'\n', text).is_none() {
        return true;
    }
    // A line end before the first quote decides.
    let quote = memchr::memchr(b'"', text).unwrap_or(text.len());
    if memchr::memchr(b'\n', text).is_some_and(|feed| feed < quote) {
        return false;
    }
    let (mut is_quoted, mut before, mut returns) = (false, b'\n', first < quote);
    let mut bytes = text.iter().copied().peekable();
    while let Some(byte) = bytes.next() {
        match byte {
            b'"' if is_quoted => is_quoted = bytes.next_if_eq(&b'"').is_some(),
            b'"' => is_quoted = matches!(before, b',' | b';' | b'\t' | b'|' | b'\r' | b'\n'),
            b'\n' if !is_quoted => return false,
            b'\r' if !is_quoted => returns = true,
            _ => {}
        }
        before = byte;
    }
    returns
}

fn to_line_feeds(bytes: &mut [u8]) {
    bytes.iter_mut().filter(|byte| **byte == b'\r').for_each(|byte| *byte = b'\n');
}

/// The error of a reader; one of ours comes out as it went in.
fn reading_failed(path: &Path, source: io::Error) -> Error {
    match source.downcast::<Error>() {
        Ok(own) => own,
        Err(source) => Error::Read { path: path.to_owned(), source },
    }
}

fn unpacking_failed(path: &Path, packing: Packing, limit: u64, source: io::Error) -> Error {
    let path = path.to_owned();
    if source.kind() == io::ErrorKind::FileTooLarge && source.to_string() == TOO_LARGE {
        return Error::Expands { path, limit };
    }
    Error::Unpack { path, packing: packing.name(), source }
}

impl StreamFacts {
    /// Whether another encoding may turn out to be right.
    pub(crate) fn is_encoding_open(&self) -> bool {
        self.chosen.how == How::Assumed
    }
}
