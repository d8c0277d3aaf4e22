//! The measure: a plain read of a CSV with the `csv` crate, one `ByteRecord` after the other, buffers of
//! 256 KB. Prints how many rows and cells it saw.

use std::fs::File;
use std::io::{self, Write};

fn main() -> io::Result<()> {
    let path = std::env::args().nth(1).ok_or_else(|| io::Error::other("usage: plain-read FILE.csv"))?;
    let mut reader = csv::ReaderBuilder::new().buffer_capacity(256 << 10).from_reader(File::open(path)?);
    let (mut record, mut rows, mut cells) = (csv::ByteRecord::new(), 0_u64, 0_u64);
    while reader.read_byte_record(&mut record)? {
        rows += 1;
        cells += record.len() as u64;
    }
    writeln!(io::stdout(), "{rows} rows, {cells} cells")
}
