//! Decodes a file to UTF-8 and does nothing with it: what reading another encoding costs at least.

use encoding_rs::Encoding;
use std::fs::File;
use std::io::{self, Read, Write};

fn main() -> io::Result<()> {
    let words: Vec<String> = std::env::args().collect();
    let [_, path, label] = words.as_slice() else {
        return Err(io::Error::other("usage: plain-decode FILE ENCODING"));
    };
    let encoding =
        Encoding::for_label(label.as_bytes()).ok_or_else(|| io::Error::other("no such encoding"))?;
    let mut decoder = encoding.new_decoder();
    let mut file = File::open(path)?;
    let (mut raw, mut text, mut total) = (vec![0; 64 << 10], vec![0; 256 << 10], 0);
    loop {
        let count = file.read(&mut raw)?;
        let piece = raw.get(..count).unwrap_or_default();
        let (_, _, written, _) = decoder.decode_to_utf8(piece, &mut text, count == 0);
        total += written;
        if count == 0 {
            return writeln!(io::stdout(), "{total} bytes of UTF-8");
        }
    }
}
