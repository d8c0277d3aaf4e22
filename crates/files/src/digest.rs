//! SHA-256 (FIPS 180-4) of files, and of what comes in once.

use crate::error::Error;
use sha2::{Digest as _, Sha256};
use std::fs::File;
use std::io::{self, Read};
use std::path::Path;
use std::sync::{Arc, Mutex, PoisonError};
use tidy_gate_core::prints::hex;

/// The size of a file, and the SHA-256 of its bytes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Digest {
    /// In bytes.
    pub bytes: u64,
    /// In hexadecimal digits, in lower case.
    pub sha256: String,
}

/// Reads a file to its end.
///
/// # Errors
/// When it cannot be read.
pub fn digest_of(path: &Path) -> Result<Digest, Error> {
    let failed = |source| Error::Read { path: path.to_owned(), source };
    let mut file = File::open(path).map_err(failed)?;
    if file.metadata().map_err(failed)?.is_dir() {
        return Err(Error::Folder { path: path.to_owned() });
    }
    let (mut hash, mut bytes, mut buffer) = (Sha256::new(), 0, vec![0; 1 << 18]);
    loop {
        match file.read(&mut buffer) {
            Ok(0) => return Ok(Digest { bytes, sha256: hex(&hash.finalize()) }),
            Ok(count) => {
                hash.update(buffer.get(..count).unwrap_or_default());
                bytes += count as u64;
            }
            Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
            Err(error) => return Err(failed(error)),
        }
    }
}

/// The digest of what goes by.
#[derive(Debug, Clone, Default)]
pub struct DigestSoFar(Arc<Mutex<SoFar>>);

#[derive(Debug, Default)]
struct SoFar {
    hash: Sha256,
    bytes: u64,
    is_done: bool,
}

impl DigestSoFar {
    /// Takes up what is read from here on.
    pub(crate) fn beside(&self, reader: Box<dyn Read + Send>) -> Box<dyn Read + Send> {
        Box::new(Hashing { reader, so_far: self.clone() })
    }

    /// The digest, once all was read.
    #[must_use]
    pub fn done(&self) -> Option<Digest> {
        let so_far = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        so_far.is_done.then(|| Digest { bytes: so_far.bytes, sha256: hex(&so_far.hash.clone().finalize()) })
    }
}

struct Hashing {
    reader: Box<dyn Read + Send>,
    so_far: DigestSoFar,
}

impl Read for Hashing {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let count = self.reader.read(into)?;
        let mut so_far = self.so_far.0.lock().unwrap_or_else(PoisonError::into_inner);
        so_far.hash.update(into.get(..count).unwrap_or_default());
        so_far.bytes += count as u64;
        so_far.is_done |= count == 0 && !into.is_empty();
        Ok(count)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_file_and_a_stream_have_the_digest_that_the_standard_gives() {
        // FIPS 180-4, the example of one block.
        let wanted = "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad";
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("abc");
        std::fs::write(&path, "abc").unwrap();
        assert_eq!(digest_of(&path).unwrap(), Digest { bytes: 3, sha256: wanted.to_owned() });
        let so_far = DigestSoFar::default();
        let mut reader = so_far.beside(Box::new(io::Cursor::new(b"abc")));
        assert_eq!(so_far.done(), None);
        io::copy(&mut reader, &mut io::sink()).unwrap();
        assert_eq!(so_far.done().unwrap().sha256, wanted);
    }
}
