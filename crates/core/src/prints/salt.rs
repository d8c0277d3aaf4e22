//! Salted marks: eight bytes that stand for what must not be shown.

use sha2::{Digest, Sha256};

/// What marks are salted with: carried on from report to report, so that they can be compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Salt([u8; 16]);

impl Salt {
    /// The salt of a first report, made of the file's own SHA-256: the same on every run, another for every file.
    #[must_use]
    pub fn of_file(sha256: &str) -> Self {
        let digest = Sha256::new().chain_update(b"tidy-gate marks\0").chain_update(sha256).finalize();
        let mut salt = [0; 16];
        salt.iter_mut().zip(digest).for_each(|(into, byte)| *into = byte);
        Self(salt)
    }

    /// As it is written in a report: 32 hexadecimal digits.
    #[must_use]
    pub fn written(self) -> String {
        hex(&self.0)
    }

    /// From a report.
    #[must_use]
    pub fn read(text: &str) -> Option<Self> {
        let bytes = text.as_bytes();
        if bytes.len() != 32 || !bytes.iter().all(u8::is_ascii_hexdigit) {
            return None;
        }
        u128::from_str_radix(text, 16).ok().map(|salt| Self(salt.to_be_bytes()))
    }

    /// The mark of some parts; where they end counts.
    pub(crate) fn mark<'a>(self, parts: impl IntoIterator<Item = &'a [u8]>) -> u64 {
        let mut hash = Sha256::new_with_prefix(self.0);
        for part in parts {
            hash.update((part.len() as u64).to_le_bytes());
            hash.update(part);
        }
        let digest = hash.finalize();
        digest.iter().take(8).fold(0, |mark, byte| mark << 8 | u64::from(*byte))
    }
}

/// Bytes in hexadecimal digits, in lower case.
#[must_use]
pub fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect()
}
