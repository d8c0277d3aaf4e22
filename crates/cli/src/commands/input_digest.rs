//! The digest of the file that is checked, taken beside the check.

use std::path::{Path, PathBuf};
use std::thread::JoinHandle;
use tidy_gate_files::{Digest, DigestSoFar, Error, digest_of};

/// The digest of an input, on its way.
#[derive(Debug)]
pub(super) enum InputDigest {
    /// Nobody asks for it.
    Unwanted,
    /// Of a file, read on a thread of its own.
    File(PathBuf, JoinHandle<Result<Digest, Error>>),
    /// Of what comes in once.
    Stream(DigestSoFar),
}

impl InputDigest {
    pub(super) fn begin(path: &Path, is_wanted: bool) -> Self {
        if !is_wanted {
            return Self::Unwanted;
        }
        if !path.metadata().is_ok_and(|facts| facts.is_file()) {
            return Self::Stream(DigestSoFar::default());
        }
        let own = path.to_owned();
        Self::File(path.to_owned(), std::thread::spawn(move || digest_of(&own)))
    }

    /// What takes the digest of an input that comes in once.
    pub(super) fn stream(&self) -> Option<&DigestSoFar> {
        match self {
            Self::Stream(so_far) => Some(so_far),
            Self::Unwanted | Self::File(..) => None,
        }
    }

    /// The digest, when the input was read; nothing of a stream whose end nobody asked for.
    pub(super) fn done(self) -> Result<Option<Digest>, Error> {
        match self {
            Self::Unwanted => Ok(None),
            Self::Stream(so_far) => Ok(so_far.done()),
            Self::File(path, thread) => thread.join().unwrap_or(Err(Error::BrokenOff { path })).map(Some),
        }
    }
}
