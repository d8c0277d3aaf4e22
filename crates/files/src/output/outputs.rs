//! All outputs of a run: each written to a temporary file beside its place, and all moved there at the end, or none.

use super::one::Output;
use super::{leftovers, placing};
use crate::digest::{Digest, digest_of};
use crate::error::Error;
use crate::row_output::RowOutput;
use std::fs::Metadata;
use std::io::BufWriter;
use std::path::{Path, PathBuf};
use tempfile::NamedTempFile;

/// Which outputs a run may write.
#[derive(Debug, Default)]
pub struct Outputs {
    force: bool,
    /// Files that no output may overwrite, and what they are.
    guarded: Vec<(Guarded, &'static str)>,
    finished: Vec<(PathBuf, NamedTempFile)>,
}

/// A file that no output may overwrite.
#[derive(Debug)]
enum Guarded {
    Path(PathBuf),
    /// The open file behind a stream.
    Open(Metadata),
}

impl Outputs {
    /// With `force`, existing files may be overwritten; never the guarded ones.
    #[must_use]
    pub fn new(force: bool) -> Self {
        Self { force, ..Self::default() }
    }

    /// No output may overwrite this file; `-` is the one behind standard input.
    pub fn guard(&mut self, path: &Path, what: &'static str) {
        if path != Path::new("-") {
            self.guarded.push((Guarded::Path(path.to_owned()), what));
        } else if let Some(open) = behind_standard_input() {
            self.guarded.push((Guarded::Open(open), what));
        }
    }

    /// Begins an output. `endings` are those of its forms, as `.csv`; `what` it holds.
    ///
    /// # Errors
    /// When it has another ending, exists, would overwrite an input or another output, or cannot be written.
    pub fn create(
        &mut self,
        path: &Path,
        what: &'static str,
        endings: &'static str,
    ) -> Result<Output, Error> {
        let ending = path.extension().map(|ending| format!(".{}", ending.to_string_lossy().to_lowercase()));
        let mut known = endings.split([',', ' ']).filter(|word| word.starts_with('.'));
        if !ending.is_some_and(|ending| known.any(|known| known == ending)) {
            return Err(Error::Ending { path: path.to_owned(), what, endings });
        }
        let is_guarded = |guarded: &Guarded| match guarded {
            Guarded::Path(guarded) => is_same(path, guarded),
            Guarded::Open(open) => std::fs::metadata(path).is_ok_and(|found| same_file(&found, open)),
        };
        if let Some((_, what)) = self.guarded.iter().find(|(guarded, _)| is_guarded(guarded)) {
            return Err(Error::Overlap { path: path.to_owned(), what });
        }
        if path.is_dir() {
            return Err(Error::Folder { path: path.to_owned() });
        }
        if !self.force && path.symlink_metadata().is_ok() {
            return Err(Error::Exists { path: path.to_owned(), free: placing::free_name(path) });
        }
        self.guard(path, "another output of this run");
        let place = placing::place_of(path)?;
        let folder = placing::folder_of(&place);
        leftovers::take_away(folder);
        let file = placing::temporary(folder, &place).map_err(|source| Error::write(path, source))?;
        Ok(Output { path: path.to_owned(), writer: BufWriter::with_capacity(1 << 18, file) })
    }

    /// An output is complete; it will be moved to its place with the others.
    ///
    /// # Errors
    /// When its last bytes cannot be written.
    pub fn complete(&mut self, output: Output) -> Result<(), Error> {
        self.finished.push(output.finish()?);
        Ok(())
    }

    /// The same of an output of rows.
    ///
    /// # Errors
    /// When its last bytes cannot be written.
    pub fn complete_rows(&mut self, output: RowOutput) -> Result<(), Error> {
        self.complete(output.finish()?)
    }

    /// Where the outputs will stand that are complete so far.
    pub fn completed(&self) -> impl Iterator<Item = &Path> {
        self.finished.iter().map(|(path, _)| path.as_path())
    }

    /// The digest of an output that is complete.
    pub fn digest(&self, path: &Path) -> Option<Result<Digest, Error>> {
        let (_, file) = self.finished.iter().find(|(own, _)| own == path)?;
        Some(digest_of(file.path()))
    }

    /// Moves all complete outputs to their places, or none: if one cannot be, those moved before are as they were.
    ///
    /// # Errors
    /// When one cannot be moved, or has come into being meanwhile.
    pub fn persist(&mut self) -> Result<Vec<PathBuf>, Error> {
        placing::put(self.finished.drain(..).collect(), self.force)
    }
}

/// What is known of the file behind standard input.
#[cfg(unix)]
fn behind_standard_input() -> Option<Metadata> {
    use std::os::fd::AsFd;
    let open = std::io::stdin().as_fd().try_clone_to_owned().ok()?;
    std::fs::File::from(open).metadata().ok()
}

#[cfg(not(unix))]
fn behind_standard_input() -> Option<Metadata> {
    None
}

/// Whether two paths are the same file, by whatever names and links.
fn is_same(one: &Path, other: &Path) -> bool {
    if let (Ok(one), Ok(other)) = (std::fs::metadata(one), std::fs::metadata(other)) {
        return same_file(&one, &other);
    }
    // Not there yet: the same name in the same folder.
    let folder = |path: &Path| {
        let parent = path.parent().filter(|parent| !parent.as_os_str().is_empty()).unwrap_or(Path::new("."));
        parent.canonicalize().ok()
    };
    one.file_name() == other.file_name() && folder(one).is_some() && folder(one) == folder(other)
}

#[cfg(unix)]
fn same_file(one: &std::fs::Metadata, other: &std::fs::Metadata) -> bool {
    use std::os::unix::fs::MetadataExt;
    (one.dev(), one.ino()) == (other.dev(), other.ino())
}

#[cfg(not(unix))]
fn same_file(one: &std::fs::Metadata, other: &std::fs::Metadata) -> bool {
    one.len() == other.len()
        && one.modified().ok() == other.modified().ok()
        && one.created().ok() == other.created().ok()
}
