//! The ZIP archive that a workbook is, part by part, with a cap on what a part may unpack to.

use crate::error::Error;
use crate::text::options::Limits;
use std::collections::HashMap;
use std::fs::File;
use std::io::{self, BufReader, Read};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use zip::ZipArchive;
use zip::read::ZipFile;

/// An archive, opened.
pub(super) struct Package {
    path: PathBuf,
    archive: ZipArchive<BufReader<File>>,
    limits: Limits,
    /// The size of the archive: a part that says it is packed in more says what is not so.
    size: u64,
    /// The parts by their names in small letters: names are the same whatever their case (ECMA-376 part 2, 6.2.2.3).
    loosely: HashMap<String, usize>,
    piece: Arc<AtomicU64>,
}

/// A part of an archive, unpacked as it is read.
pub(super) type Part<'a> = BufReader<Capped<ZipFile<'a, BufReader<File>>>>;

impl Package {
    pub(super) fn open(path: &Path, file: File, limits: Limits) -> Result<Self, Error> {
        let size = file.metadata().map_or(u64::MAX, |facts| facts.len());
        let archive = ZipArchive::new(BufReader::new(file))
            .map_err(|error| Error::damaged(path, "the archive", &error.to_string()))?;
        let names = archive.file_names().enumerate();
        let loosely =
            names.filter_map(|(number, name)| Some((name.ok()?.to_ascii_lowercase(), number))).collect();
        Ok(Self { path: path.to_owned(), archive, limits, size, loosely, piece: Arc::default() })
    }

    pub(super) fn path(&self) -> &Path {
        &self.path
    }

    /// Whether there is a part of this name.
    pub(super) fn has(&self, name: &str) -> bool {
        self.index(name).is_some()
    }

    fn index(&self, name: &str) -> Option<usize> {
        let loosely = || self.loosely.get(&name.to_ascii_lowercase()).copied();
        self.archive.index_for_name(name).or_else(loosely)
    }

    /// A part, if it is there.
    pub(super) fn part(&mut self, name: &str) -> Result<Option<Part<'_>>, Error> {
        let Some(index) = self.index(name) else { return Ok(None) };
        let part = self.archive.by_index(index);
        let part = part.map_err(|error| Error::damaged(&self.path, name, &error.to_string()))?;
        let packed = part.compressed_size().min(self.size);
        let most = packed.saturating_mul(self.limits.expansion).max(Limits::UNPACKED_FREELY);
        let piece = Arc::clone(&self.piece);
        Ok(Some(BufReader::with_capacity(1 << 16, Capped { inner: part, left: most, piece })))
    }

    /// A part that must be there.
    pub(super) fn needed(&mut self, name: &str) -> Result<Part<'_>, Error> {
        let missing = Error::damaged(&self.path, name, "it is missing");
        self.part(name)?.ok_or(missing)
    }

    /// How many bytes were read for the piece that is being looked at; whoever takes pieces sets it back to 0.
    pub(super) fn piece(&self) -> Arc<AtomicU64> {
        Arc::clone(&self.piece)
    }
}

/// The longest text, tag or comment of a part.
pub(super) const LONGEST_PIECE: u64 = 32 << 20;

/// A reader that ends in an error when it gives more than it may.
pub(super) struct Capped<R> {
    inner: R,
    left: u64,
    piece: Arc<AtomicU64>,
}

impl<R> Capped<R> {
    /// A reader that gives at most so many bytes; `piece` counts those of the piece that is being looked at.
    pub(super) fn new(inner: R, most: u64, piece: Arc<AtomicU64>) -> Self {
        Self { inner, left: most, piece }
    }
}

impl<R: Read> Read for Capped<R> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let count = self.inner.read(into)?;
        self.left = self.left.checked_sub(count as u64).ok_or_else(|| {
            io::Error::new(io::ErrorKind::FileTooLarge, "it unpacks to far more than a sound one")
        })?;
        if self.piece.fetch_add(count as u64, Ordering::Relaxed) > LONGEST_PIECE {
            return Err(io::Error::new(io::ErrorKind::FileTooLarge, "a piece of it is longer than 32 MiB"));
        }
        Ok(count)
    }
}
