//! Where the bytes come from: a file, which can be read twice, or a stream.

use crate::digest::DigestSoFar;
use crate::error::Error;
use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};
use std::time::SystemTime;

/// An input as it lies on the disk or comes in.
pub struct Input {
    path: PathBuf,
    reader: Box<dyn Read + Send>,
    /// For reading again; none for a stream.
    again: Option<File>,
    /// Size and time of change when the run began; none for a stream.
    state: Option<(u64, Option<SystemTime>)>,
    /// How many bytes of a stream were kept in a file.
    kept: Option<u64>,
}

/// How a workbook is packed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Package {
    /// A ZIP archive.
    Archive,
    /// A compound file.
    Compound,
}

impl Package {
    /// By the first bytes.
    pub(crate) fn of(head: &[u8]) -> Option<Self> {
        match head {
            _ if head.starts_with(b"PK\x03\x04") => Some(Self::Archive),
            _ if head.starts_with(b"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1") => Some(Self::Compound),
            _ => None,
        }
    }
}

impl Input {
    /// Opens a file; `-` is standard input.
    ///
    /// # Errors
    /// When it cannot be opened, or is a folder.
    pub fn open(path: &Path) -> Result<Self, Error> {
        let failed = |source| Error::Read { path: path.to_owned(), source };
        if path == Path::new("-") {
            return Ok(Self::stream(Path::new("standard input"), Box::new(io::stdin())));
        }
        let file = File::open(path).map_err(failed)?;
        let metadata = file.metadata().map_err(failed)?;
        if metadata.is_dir() {
            return Err(Error::Folder { path: path.to_owned() });
        }
        if !metadata.is_file() {
            return Ok(Self::stream(path, Box::new(file)));
        }
        let again = Some(File::open(path).map_err(failed)?);
        let state = Some((metadata.len(), metadata.modified().ok()));
        Ok(Self { path: path.to_owned(), reader: Box::new(file), again, state, kept: None })
    }

    /// Bytes that come in once; the path is for messages.
    #[must_use]
    pub fn stream(path: &Path, reader: Box<dyn Read + Send>) -> Self {
        Self { path: path.to_owned(), reader, again: None, state: None, kept: None }
    }

    /// Takes a digest of what comes in, where it comes in once.
    pub fn digest(&mut self, so_far: &DigestSoFar) {
        if self.state.is_none() {
            let reader = std::mem::replace(&mut self.reader, Box::new(io::empty()));
            self.reader = so_far.beside(reader);
        }
    }

    /// The first bytes, which stay to be read.
    pub(crate) fn head(&mut self) -> Result<Vec<u8>, Error> {
        let failed = |source| Error::Read { path: self.path.clone(), source };
        let mut head = vec![0; 512];
        let count = read_full(self.reader.as_mut(), &mut head).map_err(failed)?;
        head.truncate(count);
        let reader = std::mem::replace(&mut self.reader, Box::new(io::empty()));
        self.reader = Box::new(io::Cursor::new(head.clone()).chain(reader));
        Ok(head)
    }

    /// How it is packed if it may be a workbook. An archive may begin behind other bytes, but ends where the file does.
    pub(crate) fn package(&mut self, head: &[u8]) -> Result<Option<Package>, Error> {
        if let Some(package) = Package::of(head) {
            return Ok(Some(package));
        }
        let (Some(file), Some((size, _))) = (&mut self.again, self.state) else { return Ok(None) };
        let failed = |source| Error::Read { path: self.path.clone(), source };
        // The record at the end, with a comment of 16 bits behind it (APPNOTE.TXT of ZIP, 4.3.16).
        const END: &[u8] = b"PK\x05\x06";
        const LONGEST: u64 = 22 + 0xFFFF;
        let begin = size.saturating_sub(LONGEST);
        let mut tail = Vec::new();
        file.seek(SeekFrom::Start(begin)).map_err(failed)?;
        file.take(LONGEST).read_to_end(&mut tail).map_err(failed)?;
        file.rewind().map_err(failed)?;
        let ends = memchr::memmem::rfind(&tail, END).and_then(|at| tail.get(at..));
        let is_end = ends.is_some_and(|end| {
            let length = end.get(20..22).and_then(|length| length.try_into().ok()).map(u16::from_le_bytes);
            length.is_some_and(|length| end.len() == 22 + usize::from(length))
        });
        Ok(is_end.then_some(Package::Archive))
    }

    /// The input as a file that can be read at any place: the file itself, or what comes in, kept.
    pub(crate) fn take_file(&mut self) -> Result<File, Error> {
        let failed = |source| Error::Read { path: self.path.clone(), source };
        match self.again.take() {
            Some(file) => Ok(file),
            None => {
                let mut file = tempfile::tempfile().map_err(Error::temporary)?;
                let copied = io::copy(&mut self.reader, &mut file).map_err(|source| match source.kind() {
                    // Whoever is read from has no want of room.
                    io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded => Error::temporary(source),
                    _ => failed(source),
                });
                self.kept = Some(copied?);
                file.rewind().map_err(failed)?;
                Ok(file)
            }
        }
    }

    /// Puts what was made of the input in its place.
    pub(crate) fn replace(&mut self, reader: Box<dyn Read + Send>) {
        self.reader = reader;
        self.again = None;
    }

    /// The path, for messages.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// The size of the file, if it is known.
    #[must_use]
    pub fn size(&self) -> Option<u64> {
        self.state.map(|state| state.0).or(self.kept)
    }

    /// The reader of the bytes in order, and the file for reading them again.
    pub(crate) fn take(&mut self) -> (Box<dyn Read + Send>, Option<File>) {
        (std::mem::replace(&mut self.reader, Box::new(io::empty())), self.again.take())
    }

    /// Whether the file has another size or time of change than when the run began.
    pub(crate) fn has_changed(&self) -> bool {
        let now = std::fs::metadata(&self.path).map(|now| (now.len(), now.modified().ok()));
        self.state.is_some_and(|state| now.map_or(true, |now| now != state))
    }
}

/// Reads from a place in a file as much of `into` as there is.
pub(crate) fn read_at(file: &Mutex<File>, offset: u64, into: &mut [u8]) -> io::Result<usize> {
    let mut file = file.lock().unwrap_or_else(PoisonError::into_inner);
    file.seek(SeekFrom::Start(offset))?;
    read_full(&mut *file, into)
}

/// Reads until `into` is full or the end is reached.
pub(crate) fn read_full(from: &mut (impl Read + ?Sized), into: &mut [u8]) -> io::Result<usize> {
    let mut count = 0;
    while let Some(rest) = into.get_mut(count..).filter(|rest| !rest.is_empty()) {
        match from.read(rest) {
            Ok(0) => break,
            Ok(read) => count += read,
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            Err(error) => return Err(error),
        }
    }
    Ok(count)
}
