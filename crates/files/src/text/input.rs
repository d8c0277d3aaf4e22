//! Where the bytes come from: a file, which can be read twice, or a stream, which is kept in a temporary
//! file as far as it may be needed again.

use crate::Error;
use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};
use std::sync::{Mutex, PoisonError};
use std::time::SystemTime;

/// An input that blocks are read from.
pub struct Input {
    path: PathBuf,
    reader: Box<dyn Read + Send>,
    /// Keeps what is read from a stream.
    keep: Option<File>,
    /// For reading again; none for a stream that is not kept.
    again: Option<Mutex<File>>,
    /// Size and time of change when the run began; none for a stream.
    state: Option<(u64, Option<SystemTime>)>,
}

impl Input {
    /// Opens a file; `-` is standard input. A stream is kept in a temporary file when it `may_return`.
    ///
    /// # Errors
    /// When it cannot be opened, or is a folder.
    pub fn open(path: &Path, may_return: bool) -> Result<Self, Error> {
        let failed = |source| Error::Read { path: path.to_owned(), source };
        if path == Path::new("-") {
            return Self::stream(Path::new("standard input"), Box::new(io::stdin()), may_return);
        }
        let file = File::open(path).map_err(failed)?;
        let metadata = file.metadata().map_err(failed)?;
        if metadata.is_dir() {
            return Err(Error::Folder { path: path.to_owned() });
        }
        if !metadata.is_file() {
            return Self::stream(path, Box::new(file), may_return);
        }
        let again = Some(Mutex::new(File::open(path).map_err(failed)?));
        let state = Some((metadata.len(), metadata.modified().ok()));
        Ok(Self { path: path.to_owned(), reader: Box::new(file), keep: None, again, state })
    }

    fn stream(path: &Path, reader: Box<dyn Read + Send>, may_return: bool) -> Result<Self, Error> {
        let failed = |source| Error::Read { path: path.to_owned(), source };
        let keep = may_return.then(tempfile::tempfile).transpose().map_err(failed)?;
        // Both handles share one place in the file: all is written before anything is read again.
        let again = keep.as_ref().map(File::try_clone).transpose().map_err(failed)?.map(Mutex::new);
        Ok(Self { path: path.to_owned(), reader, keep, again, state: None })
    }

    /// The path, for messages.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// The size of the file, if it is known.
    #[must_use]
    pub fn size(&self) -> Option<u64> {
        self.state.map(|state| state.0)
    }

    /// Reads some bytes; 0 at the end.
    pub(super) fn read(&mut self, into: &mut [u8]) -> Result<usize, Error> {
        let read = read_some(&mut self.reader, into).and_then(|count| {
            if let Some(keep) = &mut self.keep {
                keep.write_all(into.get(..count).unwrap_or_default())?;
            }
            Ok(count)
        });
        read.map_err(|source| Error::Read { path: self.path.clone(), source })
    }

    /// The handle for reading again.
    pub(super) fn take_again(&mut self) -> Option<Mutex<File>> {
        self.again.take()
    }

    /// Whether the file has another size or time of change than when the run began.
    pub(super) fn has_changed(&self) -> bool {
        let now = std::fs::metadata(&self.path).map(|now| (now.len(), now.modified().ok()));
        self.state.is_some_and(|state| now.map_or(true, |now| now != state))
    }
}

/// Reads from a place in a file as much of `into` as there is.
pub(super) fn read_at(file: &Mutex<File>, offset: u64, into: &mut [u8]) -> io::Result<usize> {
    let mut file = file.lock().unwrap_or_else(PoisonError::into_inner);
    file.seek(SeekFrom::Start(offset))?;
    let mut count = 0;
    while let Some(rest) = into.get_mut(count..).filter(|rest| !rest.is_empty()) {
        match read_some(&mut *file, rest)? {
            0 => break,
            read => count += read,
        }
    }
    Ok(count)
}

fn read_some(from: &mut impl Read, into: &mut [u8]) -> io::Result<usize> {
    loop {
        match from.read(into) {
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            read => return read,
        }
    }
}
