//! Packed texts: gzip (RFC 1952) and Zstandard (RFC 8878), known by their first bytes, with a cap on what they
//! may unpack to.

use super::options::Limits;
use std::io::{self, Read};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

/// How a text is packed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Packing {
    /// gzip.
    Gzip,
    /// Zstandard.
    Zstd,
}

impl Packing {
    /// The name people know it by.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Gzip => "gzip",
            Self::Zstd => "Zstandard",
        }
    }

    /// By the first bytes.
    pub(crate) fn of(head: &[u8]) -> Option<Self> {
        if head.starts_with(b"\x1F\x8B\x08") {
            Some(Self::Gzip)
        } else if head.starts_with(b"\x28\xB5\x2F\xFD") {
            Some(Self::Zstd)
        } else {
            None
        }
    }
}

/// The message of the error of a text that unpacks to too much.
pub(crate) const TOO_LARGE: &str = "unpacks to too much";

/// A reader of the unpacked bytes.
pub(crate) fn unpacked(
    packing: Packing,
    packed: impl Read + Send + 'static,
    limits: Limits,
) -> io::Result<Box<dyn Read + Send>> {
    let read = Arc::new(AtomicU64::new(0));
    let counted = Counted { inner: packed, count: Arc::clone(&read) };
    let inner: Box<dyn Read + Send> = match packing {
        Packing::Gzip => Box::new(flate2::read::MultiGzDecoder::new(counted)),
        Packing::Zstd => {
            let mut decoder = zstd::Decoder::new(counted)?;
            // The largest window that the format asks readers to support without being told.
            decoder.window_log_max(27)?;
            Box::new(decoder)
        }
    };
    Ok(Box::new(Capped { inner, read, written: 0, expansion: limits.expansion }))
}

struct Counted<R> {
    inner: R,
    count: Arc<AtomicU64>,
}

impl<R: Read> Read for Counted<R> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let read = self.inner.read(into)?;
        self.count.fetch_add(read as u64, Ordering::Relaxed);
        Ok(read)
    }
}

struct Capped {
    inner: Box<dyn Read + Send>,
    read: Arc<AtomicU64>,
    written: u64,
    expansion: u64,
}

impl Read for Capped {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let count = self.inner.read(into)?;
        self.written += count as u64;
        let cap = self.read.load(Ordering::Relaxed).saturating_mul(self.expansion);
        if self.written > cap.max(Limits::UNPACKED_FREELY) {
            return Err(io::Error::new(io::ErrorKind::FileTooLarge, TOO_LARGE));
        }
        Ok(count)
    }
}
