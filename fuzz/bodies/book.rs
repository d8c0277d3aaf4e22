//! Any bytes as a workbook or as records in JSON: opened and judged without a panic, and with counts that add up. Bytes
//! that begin with `<` are the sheet of a workbook made around them; a letter and `:` before them names another part.

use std::io::{Cursor, Write};
use std::sync::OnceLock;
use std::sync::atomic::AtomicBool;
use tidy_gate_core::gate::{Gate, Settings};
use tidy_gate_core::mode::Mode;
use tidy_gate_core::run::{self, Unlisted, Unwatched};
use tidy_gate_core::schema::{NoLists, RecordSchema};
use tidy_gate_core::value::Date;
use tidy_gate_files::{Input, ReadOptions, TableFile};

static NEVER: AtomicBool = AtomicBool::new(false);

const SCHEMA: &str = "format = 1\nrecord = \"t\"\nkey = [\"a\"]\n\
    [[field]]\nname = \"a\"\nkind = \"integer\"\n\
    [[field]]\nname = \"b\"\nkind = \"text\"\n\
    [[field]]\nname = \"c\"\nkind = \"date\"\n";

pub(crate) fn run(data: &[u8]) {
    static READ: OnceLock<RecordSchema> = OnceLock::new();
    let schema = READ.get_or_init(|| RecordSchema::read(SCHEMA, &mut NoLists).unwrap());
    let bytes = match data {
        [b'<', ..] => around(b'<', data),
        [kind @ (b'S' | b'Y' | b'W' | b'O' | b'B'), b':', part @ ..] => around(*kind, part),
        _ => data.to_vec(),
    };
    let input = Input::stream("book".as_ref(), Box::new(Cursor::new(bytes)));
    let options = ReadOptions::default();
    let Ok(file) = TableFile::open_sheet(input, None, &options, Some(schema), true, &NEVER) else { return };
    let settings = Settings::plain(Mode::Add, Date::new(2026, 11, 25).unwrap());
    let mut gate = Gate::new(schema.clone(), settings, file.table().clone());
    let mut begin = || Ok(None::<Unlisted>);
    if let Ok((outcome, _)) = run::check(&mut gate, &file, 1, &Unwatched, &mut begin) {
        assert!(outcome.counts.held + outcome.counts.left_out <= outcome.counts.rows);
    }
}

/// A package with these bytes as one of its parts.
fn around(kind: u8, part: &[u8]) -> Vec<u8> {
    let or = |letter: u8, otherwise| if kind == letter { part } else { otherwise };
    let ns = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
    match kind {
        b'O' => {
            package(&[("mimetype", b"application/vnd.oasis.opendocument.spreadsheet"), ("content.xml", part)])
        }
        b'B' => package(&[
            ("[Content_Types].xml", b"<Types/>"),
            ("xl/workbook.bin", BOOK),
            ("xl/_rels/workbook.bin.rels", relations(ns, "sheet.bin").as_bytes()),
            ("xl/sheet.bin", part),
        ]),
        _ => {
            let book = format!(
                "<workbook xmlns:r=\"{ns}\"><sheets><sheet name=\"S\" r:id=\"r1\"/></sheets></workbook>"
            );
            package(&[
                ("[Content_Types].xml", b"<Types/>"),
                ("xl/workbook.xml", or(b'W', book.as_bytes())),
                ("xl/_rels/workbook.xml.rels", relations(ns, "sheet.xml").as_bytes()),
                ("xl/sharedStrings.xml", or(b'S', STRINGS)),
                ("xl/styles.xml", or(b'Y', STYLES)),
                ("xl/sheet.xml", or(b'<', SHEET)),
            ])
        }
    }
}

/// Its sheets: one called S.
const BOOK: &[u8] =
    b"\x83\x01\0\x8f\x01\0\x9c\x01\x16\0\0\0\0\x01\0\0\0\x02\0\0\0r\x001\0\x01\0\0\0S\0\x90\x01\0\x84\x01\0";
const STRINGS: &[u8] = b"<sst><si><t>a</t></si><si><r><t>b</t></r></si><si><t>c</t></si></sst>";
const STYLES: &[u8] = b"<styleSheet><numFmts><numFmt numFmtId=\"164\" formatCode=\"dd/mm/yyyy\"/></numFmts>\
    <cellXfs><xf numFmtId=\"0\"/><xf numFmtId=\"164\"/><xf numFmtId=\"2\"/></cellXfs></styleSheet>";
const SHEET: &[u8] = b"<worksheet><sheetData><row r=\"1\"><c t=\"s\"><v>0</v></c><c t=\"s\"><v>1</v></c>\
    <c t=\"s\"><v>2</v></c></row><row><c><v>1</v></c><c s=\"2\"><v>1.25</v></c><c s=\"1\"><v>45000</v></c></row>\
    </sheetData></worksheet>";

fn relations(ns: &str, sheet: &str) -> String {
    format!(
        "<Relationships><Relationship Id=\"r1\" Type=\"{ns}/worksheet\" Target=\"{sheet}\"/>\
         <Relationship Id=\"r2\" Type=\"{ns}/sharedStrings\" Target=\"sharedStrings.xml\"/>\
         <Relationship Id=\"r3\" Type=\"{ns}/styles\" Target=\"styles.xml\"/></Relationships>"
    )
}

fn package(parts: &[(&str, &[u8])]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let stored = zip::write::SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
    for (name, content) in parts {
        zip.start_file(*name, stored).unwrap();
        zip.write_all(content).unwrap();
    }
    zip.finish().unwrap().into_inner()
}
