//! What memory has no room for, in a file of the temporary folder that is gone when the run ends, however it ends.

use crate::error::Error;
use crate::text::input::read_at;
use std::fs::File;
use std::io::{Seek, SeekFrom, Write};
use std::sync::{Mutex, OnceLock, PoisonError};
use tidy_gate_core::aside::Aside;

/// So much a run takes whatever it keeps: its blocks, lists and findings.
const BESIDES: u64 = 48 << 20;
/// So much is kept in memory in any case.
const LEAST: u64 = 1 << 20;

/// Bytes put aside in a temporary file.
pub(crate) struct TemporaryAside {
    room: usize,
    file: OnceLock<Mutex<File>>,
}

impl TemporaryAside {
    /// For a run that is to take about so many bytes of memory.
    pub(crate) fn for_memory(bytes: u64) -> Self {
        let room = (bytes / 2).min(bytes.saturating_sub(BESIDES)).max(LEAST);
        Self { room: usize::try_from(room).unwrap_or(usize::MAX), file: OnceLock::new() }
    }

    fn append(&self, bytes: &[u8]) -> std::io::Result<u64> {
        if self.file.get().is_none() {
            // Where two threads come at once, the file of one of them is dropped and gone.
            let _ = self.file.set(Mutex::new(tempfile::tempfile()?));
        }
        let Some(file) = self.file.get() else { return Ok(0) };
        let mut file = file.lock().unwrap_or_else(PoisonError::into_inner);
        let place = file.seek(SeekFrom::End(0))?;
        file.write_all(bytes)?;
        Ok(place)
    }
}

impl Aside for TemporaryAside {
    type Error = Error;

    fn room(&self) -> usize {
        self.room
    }

    fn put(&self, bytes: &[u8]) -> Result<u64, Error> {
        self.append(bytes).map_err(Error::temporary)
    }

    fn get(&self, place: u64, into: &mut [u8]) -> Result<(), Error> {
        let count =
            self.file.get().map_or(Ok(0), |file| read_at(file, place, into)).map_err(Error::temporary)?;
        match count == into.len() {
            true => Ok(()),
            false => Err(Error::temporary(std::io::ErrorKind::UnexpectedEof.into())),
        }
    }
}
