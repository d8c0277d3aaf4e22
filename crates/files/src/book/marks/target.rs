//! The workbook with its marks, as an archive of parts on its way.

use super::frame::Tail;
use super::sheet::{Counts, Sheet, With};
use super::source::Source;
use crate::book::new_cells::Fault;
use crate::book::package::Capped;
use crate::error::Error;
use crate::text::Limits;
use std::io::{BufRead, BufReader, BufWriter, Write};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::AtomicU64;
use zip::ZipWriter;
use zip::write::SimpleFileOptions;

/// The workbook that is written.
pub(super) struct Target<'a, W: Write + std::io::Seek> {
    pub(super) writer: ZipWriter<W>,
    pub(super) path: &'a Path,
}

impl<W: Write + std::io::Seek> Target<'_, W> {
    pub(super) fn failed(&self, error: zip::result::ZipError) -> Error {
        Error::write(self.path, std::io::Error::from(error))
    }

    pub(super) fn begin(&mut self, name: &str, is_large: bool) -> Result<(), Error> {
        let options = SimpleFileOptions::default()
            .compression_method(zip::CompressionMethod::Deflated)
            // What is packed here says the same over and over: little is won by looking longer.
            .compression_level(Some(3))
            .last_modified_time(zip::DateTime::default())
            .large_file(is_large);
        self.writer.start_file(name, options).map_err(|error| self.failed(error))
    }

    pub(super) fn bytes(&mut self, bytes: &[u8]) -> Result<(), Error> {
        self.writer.write_all(bytes).map_err(|source| Error::write(self.path, source))
    }

    pub(super) fn part(&mut self, name: &str, bytes: &[u8]) -> Result<(), Error> {
        self.begin(name, bytes.len() as u64 > u64::from(u32::MAX / 2))?;
        self.bytes(bytes)
    }

    pub(super) fn sheet(
        &mut self,
        source: &mut Source<'_>,
        number: usize,
        with: With<'_>,
    ) -> Result<(Tail, Counts), Error> {
        let path = source.path;
        let name = source.name(number)?;
        let entry = source.archive.by_index(number);
        let entry = entry.map_err(|error| Error::damaged(path, &name, &error.to_string()))?;
        let most =
            entry.compressed_size().saturating_mul(Limits::default().expansion).max(Limits::UNPACKED_FREELY);
        // Reasons make it larger than it was. Not every program reads what is packed as large.
        self.begin(&name, entry.size() > u64::from(u32::MAX / 3))?;
        let piece = Arc::new(AtomicU64::new(0));
        let from = BufReader::with_capacity(1 << 16, Capped::new(entry, most, Arc::clone(&piece)));
        self.copy(path, &name, from, with, piece)
    }

    /// The same for a sheet that is made elsewhere.
    pub(super) fn made_sheet(
        &mut self,
        path: &Path,
        (name, is_large): (&str, bool),
        rows: &mut dyn BufRead,
        with: With<'_>,
    ) -> Result<(Tail, Counts), Error> {
        self.begin(name, is_large)?;
        self.copy(path, name, rows, with, Arc::default())
    }

    pub(super) fn copy(
        &mut self,
        path: &Path,
        name: &str,
        from: impl BufRead,
        with: With<'_>,
        piece: Arc<AtomicU64>,
    ) -> Result<(Tail, Counts), Error> {
        // What packs is not asked for every few bytes.
        let mut buffered = BufWriter::with_capacity(1 << 18, &mut self.writer);
        let copied = Sheet::new(from, &mut buffered, with, piece).copy();
        let copied = copied.and_then(|done| buffered.flush().map(|()| done).map_err(Fault::Write));
        copied.map_err(|fault| match fault {
            Fault::Read(what) => Error::damaged(path, name, &what),
            Fault::Write(source) => Error::write(self.path, source),
            Fault::Other(error) => error,
        })
    }

    pub(super) fn finish(self) -> Result<(), Error> {
        let path = self.path;
        let failed = |error: zip::result::ZipError| Error::write(path, std::io::Error::from(error));
        let mut writer = self.writer.finish().map_err(failed)?;
        writer.flush().map_err(|source| Error::write(path, source))
    }
}
