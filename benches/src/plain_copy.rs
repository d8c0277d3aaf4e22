//! Reads every record of a CSV into one reused record and writes it to another file, and no more: what handing over rows
//! is measured beside.

fn main() -> Result<(), csv::Error> {
    let mut arguments = std::env::args_os().skip(1);
    let (Some(from), Some(to)) = (arguments.next(), arguments.next()) else {
        return Err(std::io::Error::other("usage: plain-copy FROM TO").into());
    };
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .buffer_capacity(1 << 18)
        .from_reader(std::fs::File::open(from)?);
    let mut writer =
        csv::WriterBuilder::new().buffer_capacity(1 << 18).from_writer(std::fs::File::create(to)?);
    let mut record = csv::ByteRecord::new();
    while reader.read_byte_record(&mut record)? {
        writer.write_byte_record(&record)?;
    }
    Ok(writer.flush()?)
}
