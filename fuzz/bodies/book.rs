//! Any bytes as a workbook or as records in JSON: opened and judged without a panic, and with counts that add up. Bytes
//! that begin with `<` are the sheet of a workbook made around them.

use std::io::{Cursor, Write};
use std::sync::OnceLock;
use std::sync::atomic::AtomicBool;
use tidy_gate_core::gate::{Gate, Mode, Settings};
use tidy_gate_core::run::{self, Unwatched};
use tidy_gate_core::schema::{NoLists, RecordSchema};
use tidy_gate_core::value::Date;
use tidy_gate_files::{Input, ReadOptions, TextFile};

static NEVER: AtomicBool = AtomicBool::new(false);

const SCHEMA: &str = "format = 1\nrecord = \"t\"\nkey = [\"a\"]\n\
    [[field]]\nname = \"a\"\nkind = \"integer\"\n\
    [[field]]\nname = \"b\"\nkind = \"text\"\n\
    [[field]]\nname = \"c\"\nkind = \"date\"\n";

pub(crate) fn run(data: &[u8]) {
    static READ: OnceLock<RecordSchema> = OnceLock::new();
    let schema = READ.get_or_init(|| RecordSchema::read(SCHEMA, &mut NoLists).unwrap());
    let bytes = if data.starts_with(b"<") { around(data) } else { data.to_vec() };
    let input = Input::stream("book".as_ref(), Box::new(Cursor::new(bytes)));
    let options = ReadOptions::default();
    let Ok(file) = TextFile::open_sheet(input, None, &options, Some(schema), true, &NEVER) else { return };
    let settings = Settings::plain(Mode::Add, Date::new(2026, 11, 25).unwrap());
    let gate = Gate::new(schema.clone(), settings, file.table().clone());
    if let Ok(outcome) = run::judge(&gate, &file, 1, &Unwatched, None) {
        assert!(outcome.counts.held + outcome.counts.left_out <= outcome.counts.rows);
    }
}

/// A workbook with this sheet.
fn around(sheet: &[u8]) -> Vec<u8> {
    let ns = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
    let book =
        format!("<workbook xmlns:r=\"{ns}\"><sheets><sheet name=\"S\" r:id=\"r1\"/></sheets></workbook>");
    let relations = format!(
        "<Relationships><Relationship Id=\"r1\" Type=\"{ns}/worksheet\" Target=\"sheet.xml\"/></Relationships>"
    );
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let stored = zip::write::SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
    for (name, content) in [
        ("[Content_Types].xml", &b"<Types/>"[..]),
        ("xl/workbook.xml", book.as_bytes()),
        ("xl/_rels/workbook.xml.rels", relations.as_bytes()),
        ("xl/sheet.xml", sheet),
    ] {
        zip.start_file(name, stored).unwrap();
        zip.write_all(content).unwrap();
    }
    zip.finish().unwrap().into_inner()
}
