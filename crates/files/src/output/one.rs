//! One output, on its way.

use crate::error::Error;
use std::io::{BufWriter, Write};
use std::path::{Path, PathBuf};
use tempfile::NamedTempFile;

/// One output, not yet in its place.
#[derive(Debug)]
pub struct Output {
    pub(super) path: PathBuf,
    pub(super) writer: BufWriter<NamedTempFile>,
}

impl Output {
    /// Where it will stand.
    #[must_use]
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// The temporary file that holds it until then.
    #[must_use]
    pub fn temporary(&self) -> PathBuf {
        self.writer.get_ref().path().to_owned()
    }

    /// Adds bytes.
    ///
    /// # Errors
    /// When they cannot be written.
    pub fn write(&mut self, bytes: &[u8]) -> Result<(), Error> {
        self.writer.write_all(bytes).map_err(|source| Error::write(&self.path, source))
    }

    /// For writers that go back and forth.
    pub(crate) fn writer(&mut self) -> &mut BufWriter<NamedTempFile> {
        &mut self.writer
    }

    /// The temporary file with all that was written; it stays open, which says that its run goes on.
    pub(super) fn finish(self) -> Result<(PathBuf, NamedTempFile), Error> {
        let failed = |source| Error::write(&self.path, source);
        let file = self.writer.into_inner().map_err(|error| failed(error.into_error()))?;
        Ok((self.path, file))
    }
}
