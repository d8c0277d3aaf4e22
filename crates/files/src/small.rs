//! Files that are read whole: schemas, plans and lists.

use std::fs::File;
use std::io::{self, Read};
use std::path::Path;

/// None of them is larger.
const LARGEST: u64 = 64 << 20;

/// Reads a small file whole, whatever it is: no device and no pipe gives more than 64 MiB.
///
/// # Errors
/// When it cannot be read, or is larger.
pub fn read_small(path: &Path) -> io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    File::open(path)?.take(LARGEST + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > LARGEST {
        let what = "it is larger than the 64 MiB that such a file may have";
        return Err(io::Error::new(io::ErrorKind::FileTooLarge, what));
    }
    Ok(bytes)
}
