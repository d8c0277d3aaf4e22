//! Hostile text files, made at run time: one clear message or true findings, in bounded memory.

use crate::tool::{Folder, Ran, told};
use std::io::Write;
use std::process::Command;

const SCHEMA: &str = "format = 1\nrecord = \"t\"\nkey = [\"k\"]\n[[field]]\nname = \"k\"\nkind = \"integer\"\n\
                      [[field]]\nname = \"n\"\nkind = \"text\"\n";

fn folder() -> Folder {
    let folder = Folder::new();
    folder.write("r.record.toml", SCHEMA);
    folder
}

/// Checks a file with no more than 400 MB of address space.
pub(crate) fn bounded(folder: &Folder, words: &str) -> Ran {
    within(400_000, folder, words)
}

/// Checks a file with no more than so many KB of address space.
fn within(limit: u32, folder: &Folder, words: &str) -> Ran {
    let program = env!("CARGO_BIN_EXE_tidy-gate");
    let line = format!("ulimit -v {limit}; MALLOC_ARENA_MAX=2 exec {program} {words}");
    let output = Command::new("sh").arg("-c").arg(line).current_dir(folder.path("")).output().unwrap();
    crate::tool::ran(output)
}

pub(crate) fn is_refused(ran: &Ran, message: &str) {
    assert_eq!((ran.code, ran.out.as_str(), ran.err.lines().count()), (2, "", 1), "{}", ran.err);
    assert!(ran.err.contains(message), "{}", ran.err);
}

/// gzip members one behind the other, each holding the same rows: a reader takes them as one text.
fn packed_many_times(rows: &str, times: usize) -> Vec<u8> {
    let mut member = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::best());
    member.write_all(rows.repeat(1000).as_bytes()).unwrap();
    let mut head = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    head.write_all(b"k,n\n").unwrap();
    [head.finish().unwrap(), member.finish().unwrap().repeat(times)].concat()
}

#[test]
fn a_compressed_bomb_is_refused_and_a_damaged_file_told() {
    let folder = folder();
    let row = format!("1,{}\n", "x".repeat(1000));
    folder.write("bomb.csv.gz", packed_many_times(&row, 300));
    let words = "--record r.record.toml --ready ready.csv --held held.csv";
    is_refused(
        &bounded(&folder, &format!("check bomb.csv.gz {words}")),
        "unpacks to more than 200 times its size",
    );
    is_refused(&bounded(&folder, "peek bomb.csv.gz --all"), "--max-expansion permits more");
    let sound = packed_many_times("1,x\n2,y\n", 1);
    for cut in [3, 20, sound.len() / 2, sound.len() - 3] {
        folder.write("cut.csv.gz", &sound[..cut]);
        let ran = folder.run(&format!("check cut.csv.gz {words}"));
        assert!(ran.code == 2 && ran.err.lines().count() == 1, "{cut}: {}", ran.err);
    }
    is_refused(&folder.run(&format!("check cut.csv.gz {words}")), "its gzip data is damaged or cut off");
    let zst = zstd::encode_all(&b"k,n\n1,x\n"[..], 3).unwrap();
    folder.write("cut.csv.zst", &zst[..zst.len() - 2]);
    is_refused(
        &folder.run(&format!("check cut.csv.zst {words}")),
        "its Zstandard data is damaged or cut off",
    );
    assert_eq!(folder.names().len(), 4, "nothing half-written: {:?}", folder.names());
}

#[test]
fn one_line_of_200_megabytes_and_many_columns_are_refused() {
    let folder = folder();
    let mut file = std::fs::File::create(folder.path("line.csv")).unwrap();
    file.write_all(b"k,n\n1,").unwrap();
    let piece = vec![b'x'; 1 << 20];
    (0..200).for_each(|_| file.write_all(&piece).unwrap());
    is_refused(
        &bounded(&folder, "check line.csv --record r.record.toml"),
        "the row that begins on line 2 is longer than 32 MiB",
    );
    is_refused(&bounded(&folder, "peek line.csv --all"), "(--max-row permits more)");

    let wide = format!("k,n{}\n1,x{}\n", ",c".repeat(20_000), ",1".repeat(20_000));
    folder.write("wide.csv", wide);
    is_refused(
        &bounded(&folder, "check wide.csv --record r.record.toml"),
        "there are 20002 headings; at most 16384 columns are read (--max-columns permits more)",
    );
    let ran = bounded(&folder, "check wide.csv --record r.record.toml --max-columns 30000 --format json");
    assert_eq!((ran.code, ran.err.as_str()), (0, ""));
}

#[test]
fn a_row_of_commas_takes_little_memory_and_too_little_memory_is_one_message() {
    let folder = folder();
    let mut packed = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::best());
    packed.write_all(b"k,n\n1,").unwrap();
    packed.write_all(&vec![b','; 12_000_000]).unwrap();
    folder.write("commas.csv.gz", packed.finish().unwrap());
    let words = "check commas.csv.gz --record r.record.toml --max-expansion 2000 --ready ready.csv";
    let ran = bounded(&folder, words);
    assert_eq!((ran.code, ran.err.as_str()), (0, ""));
    assert!(ran.out.contains("12,000,002 cells"), "{}", ran.out);
    std::fs::remove_file(folder.path("ready.csv")).unwrap();
    let mut seen = Vec::new();
    for limit in [50_000, 60_000, 80_000, 100_000, 130_000] {
        // Less than the program itself takes is no matter of its own.
        if within(limit, &folder, "--version").code != 0 {
            continue;
        }
        let ran = within(limit, &folder, words);
        if ran.code != 0 {
            assert_eq!((ran.code, ran.out.as_str()), (2, ""), "{limit}: {}", ran.err);
            assert!(ran.err.starts_with("error: ") && ran.err.lines().count() <= 2, "{limit}: {}", ran.err);
            assert!(!folder.path("ready.csv").exists(), "{limit}");
            seen.push(ran.err.contains("the system gives no more memory"));
        }
        let _ = std::fs::remove_file(folder.path("ready.csv"));
        assert_eq!(folder.names().len(), 2, "nothing half-written: {:?}", folder.names());
    }
    assert!(seen.contains(&true), "{seen:?}");
}

#[test]
fn a_long_list_takes_little_memory() {
    let folder = Folder::new();
    let list: String = (0..250_000).map(|number| format!("C{number:07},Name of {number}\n")).collect();
    folder.write("p.csv", format!("code,name\n{list}"));
    folder.write(
        "r.record.toml",
        "format = 1\nrecord = \"t\"\n[[field]]\nname = \"p\"\nkind = \"picklist\"\npicklist = \"p\"\n\
         [picklist.p]\nfile = \"p.csv\"\ncode = \"code\"\nlabel = \"name\"\n",
    );
    folder.write("t.csv", "p\nC0000001\nname of 249999\n");
    let ran = bounded(&folder, "check t.csv --record r.record.toml");
    assert_eq!((ran.code, ran.err.as_str()), (0, ""), "{}", ran.out);
}

#[test]
fn a_few_invalid_bytes_in_the_middle_are_told_where_they_are() {
    let folder = folder();
    let mut text = String::from("k,n\n");
    for row in 0..40_000 {
        text.push_str(&format!("{row},Désirée\n"));
    }
    let mut bytes = text.into_bytes();
    // Behind all that is looked at when the file is opened.
    let at = bytes.len() - 7;
    bytes[at] = 0xE9;
    folder.write("table.csv", &bytes);
    assert_eq!(told(&folder.report("")), ["encoding-doubt 40001 B n"]);

    // The first bytes beyond ASCII stand far down: the encoding is settled there, and the file read anew.
    let mut text = "k,n\n".to_owned();
    (0..40_000).for_each(|row| text.push_str(&format!("{row},Cafe au lait\n")));
    let bytes = [text.as_bytes(), b"90000,Caf\xE9 M\xFCller\n"].concat();
    folder.write("table.csv", &bytes);
    let report = folder.report("--ready ready.csv --findings f.ndjson");
    assert_eq!(report["file"]["encoding"], "windows-1252");
    assert_eq!(
        (told(&report), folder.read("f.ndjson").lines().count()),
        (vec!["layout-guessed - - -".to_owned()], 1)
    );
    assert!(folder.read("ready.csv").ends_with("90000,Café Müller\n"));
    // A stream cannot be read anew: its cells are told instead.
    let ran = folder.run_with("check - --record r.record.toml --format json", &bytes);
    assert!(ran.code == 1 && ran.out.contains("\"encoding-doubt\""), "{}", ran.err);
}

#[test]
fn an_encoding_is_settled_by_its_own_row_wherever_a_block_ends() {
    let folder = folder();
    // The first block ends within the row, or beside it.
    for before in (0..24).step_by(3) {
        let mut text = format!("k,n{}\n", " ".repeat(before));
        (0..).take_while(|row| 4 + before + 11 * row < (256 << 10) - 11).for_each(|row| {
            text.push_str(&format!("{:05},abcd\n", 10_000 + row));
        });
        let below: String = (0..4_000).map(|row| format!("{},abcd\n", 91_000 + row)).collect();
        let bytes = [text.as_bytes(), b"90000,Caf\xE9 M\xFCller\n", below.as_bytes()].concat();
        folder.write("table.csv", &bytes);
        assert_eq!(folder.report("")["file"]["encoding"], "windows-1252", "{before}");
    }
}

#[test]
fn odd_quotes_at_every_border_of_a_block_spoil_their_own_cell_only() {
    let folder = folder();
    // Rows of eleven bytes up to about the end of the first block, then one with a stray quote.
    for shift in 0..12 {
        let mut text = format!("k,n{}\n", " ".repeat(shift));
        let rows = (256 * 1024 - 8 - text.len()) / 11;
        (0..rows).for_each(|row| text.push_str(&format!("{row:06},abc\n")));
        text.push_str("800000,5\" pipe\n800001,\"a\"b\n800002,\"x, y\"\n");
        (0..100).for_each(|row| text.push_str(&format!("{},abc\n", 900_000 + row)));
        folder.write("table.csv", &text);
        for threads in [1, 3] {
            let report = folder.report(&format!("--threads {threads}"));
            let stray = [rows + 2, rows + 3].map(|row| format!("quote-stray {row} B n"));
            assert_eq!((told(&report), &report["counts"]["held"]), (stray.to_vec(), &0.into()), "{shift}");
        }
    }
}

#[test]
fn files_that_are_something_else_are_told_as_what_they_are() {
    let folder = folder();
    let utf32: Vec<u8> = "\u{FEFF}k,n\n".chars().flat_map(|c| u32::from(c).to_le_bytes()).collect();
    for (bytes, message) in [
        (&b"PK\x03\x04\x14\0\0\0"[..], "the archive is damaged"),
        (b"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1\0\0", "the workbook is damaged"),
        (b"%PDF-1.7\n%\xE2\xE3", "a PDF document"),
        (b"<html><body><table>", "an HTML page"),
        (b"BZh91AY&SY", "bzip2"),
        (&utf32, "text in UTF-32"),
        (b"k,n\n\x01\x02\x03\x04\x05\x06\x07\x08\n", "its bytes are no text"),
    ] {
        folder.write("table.csv", bytes);
        is_refused(&folder.run("check table.csv --record r.record.toml"), message);
        is_refused(&folder.run("peek table.csv"), message);
    }
}

const NS: &str = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";

/// An archive of these parts.
pub(crate) fn archive(parts: &[(&str, &[u8])]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
    let options = zip::write::SimpleFileOptions::default();
    for (name, content) in parts {
        zip.start_file(*name, options).unwrap();
        zip.write_all(content).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

/// A workbook of one sheet, with this content of its sheet and of its shared strings.
pub(crate) fn workbook(sheet: &[u8], strings: &[u8]) -> Vec<u8> {
    let book = format!(
        "<workbook xmlns:r=\"{NS}\"><sheets><sheet name=\"S\" sheetId=\"1\" r:id=\"r1\"/></sheets></workbook>"
    );
    let relations = format!(
        "<Relationships><Relationship Id=\"r1\" Type=\"{NS}/worksheet\" Target=\"worksheets/sheet1.xml\"/>\
         <Relationship Id=\"r2\" Type=\"{NS}/sharedStrings\" Target=\"/xl/sharedStrings.xml\"/>\
         <Relationship Id=\"r3\" Type=\"{NS}/styles\" Target=\"styles.xml\"/></Relationships>"
    );
    let styles = b"<styleSheet><numFmts><numFmt numFmtId=\"170\" formatCode=\"0.0%\"/></numFmts>\
                   <cellXfs><xf numFmtId=\"0\"/><xf numFmtId=\"170\"/></cellXfs></styleSheet>";
    archive(&[
        ("[Content_Types].xml", b"<Types/>"),
        ("xl/workbook.xml", book.as_bytes()),
        ("xl/_rels/workbook.xml.rels", relations.as_bytes()),
        ("xl/sharedStrings.xml", strings),
        ("xl/styles.xml", styles),
        ("xl/worksheets/sheet1.xml", sheet),
    ])
}

pub(crate) fn sheet(rows: &str) -> Vec<u8> {
    let head = "<row r=\"1\"><c r=\"A1\" t=\"inlineStr\"><is><t>k</t></is></c><c t=\"inlineStr\"><is><t>n</t></is></c></row>";
    format!("<worksheet><sheetData>{head}{rows}</sheetData></worksheet>").into_bytes()
}

#[test]
fn hostile_workbooks_get_one_message() {
    let folder = folder();
    let row = "<row r=\"2\"><c r=\"A2\"><v>1</v></c><c r=\"B2\" t=\"s\"><v>0</v></c></row>";
    let strings = b"<sst><si><t>x</t></si></sst>";
    let sound = workbook(&sheet(row), strings);
    folder.write("table.xlsx", &sound);
    let words = "check table.xlsx --record r.record.toml --ready ready.csv --force";
    let ran = bounded(&folder, words);
    assert_eq!((ran.code, folder.read("ready.csv").as_str()), (0, "k,n\n1,x\n"), "{}", ran.err);

    let mut bomb = sheet("");
    bomb.truncate(bomb.len() - "</sheetData></worksheet>".len());
    let long = bomb.clone();
    let comment = [b"<!--", &vec![b'a'; 1 << 20][..], b"-->"].concat();
    bomb.extend(comment.repeat(300));
    let long =
        [&long[..], b"<row><c><v>", &vec![b' '; 100 << 20][..], b"1</v></c></row></sheetData></worksheet>"]
            .concat();
    let entities = "<!DOCTYPE sst [<!ENTITY a \"aaaaaaaaaa\"><!ENTITY b \"&a;&a;&a;&a;\">]><sst><si><t>&b;</t></si></sst>";
    let far = "<row r=\"17179869184\"><c r=\"A17179869184\"><v>1</v></c></row>";
    let wide = "<row r=\"2\"><c r=\"ZZZ2\"><v>1</v></c></row>";
    for (content, message) in [
        (sound[..sound.len() / 2].to_vec(), "the archive is damaged"),
        (workbook(&bomb, strings), "far more than a sound one"),
        (workbook(&long, strings), "a piece of it is longer than 32 MiB"),
        (workbook(&sheet(row), entities.as_bytes()), "entities of its own, which are not expanded"),
        (workbook(&sheet(far), strings), "a sheet has 1048576"),
        (workbook(&sheet(wide), strings), "a sheet has 16384"),
        (workbook(&sheet(&row.replace(">0<", ">7<")), strings), "cell B2 refers to shared string 7, of 1"),
        (workbook(&sheet(&row.replace(">0<", ">zzz<")), strings), "refers to shared string zzz"),
        (workbook(&sheet(&format!("{row}{row}")), strings), "row 2 stands behind a later one"),
        (workbook(&sheet("<row r=\"2\"><c r=\"A2\">"), strings), "is damaged"),
        (archive(&[("xl/workbook.bin", b"\x9C\x01\xFF\xFF\xFF\x7F")]), "its records break off"),
        (archive(&[("readme.txt", b"hello")]), "it looks like an archive"),
        (b"\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1 and no more".to_vec(), "the workbook is damaged"),
        (
            archive(&[("[Content_Types].xml", b"<Types/>"), ("xl/workbook.bin", b"")]),
            "it has no sheet of cells",
        ),
    ] {
        folder.write("table.xlsx", content);
        is_refused(&bounded(&folder, words), message);
    }

    // What an office program makes of a workbook with a password.
    let mut compound = cfb::CompoundFile::create(std::io::Cursor::new(Vec::new())).unwrap();
    compound.create_stream("/EncryptedPackage").unwrap().write_all(b"secret").unwrap();
    compound.create_stream("/EncryptionInfo").unwrap().write_all(b"how").unwrap();
    folder.write("table.xlsx", compound.into_inner().into_inner());
    is_refused(&bounded(&folder, words), "it is encrypted; save it without a password");

    let ods = |rows: &str, manifest: &str| {
        let content = format!(
            "<office:document-content><office:body><office:spreadsheet><table:table table:name=\"S\">\
             <table:table-row><table:table-cell office:value-type=\"string\"><text:p>k</text:p></table:table-cell>\
             </table:table-row>{rows}</table:table></office:spreadsheet></office:body></office:document-content>"
        );
        archive(&[("META-INF/manifest.xml", manifest.as_bytes()), ("content.xml", content.as_bytes())])
    };
    // A note on an earlier sheet takes nothing from the one that is read.
    let noted = "<table:table-row><table:table-cell office:value-type=\"string\"><office:annotation><text:p>n</text:p>\
                 </office:annotation><text:p>x</text:p></table:table-cell></table:table-row></table:table>\
                 <table:table table:name=\"T\"><table:table-column table:number-columns-repeated=\"0\" \
                 table:visibility=\"collapse\"/><table:table-row><table:table-cell office:value-type=\"string\">\
                 <text:p>k</text:p></table:table-cell></table:table-row><table:table-row><table:table-cell \
                 office:value-type=\"string\"><text:p>7</text:p></table:table-cell></table:table-row>";
    folder.write("table.xlsx", ods(noted, "<manifest/>"));
    assert_eq!(bounded(&folder, &format!("{words} --sheet T")).code, 0);
    assert_eq!(folder.read("ready.csv"), "k\n7\n");
    let cell = "<table:table-cell office:value-type=\"float\" office:value=\"1\"";
    let many = format!(
        "<table:table-row table:number-rows-repeated=\"1048000\">{cell} table:number-columns-repeated=\"90\"/></table:table-row>"
    );
    let empty = "<table:table-row table:number-rows-repeated=\"1048000\"><table:table-cell table:number-columns-repeated=\"16384\"/></table:table-row>";
    let one = format!("<table:table-row>{cell}/></table:table-row>");
    folder.write("table.xlsx", ods(&format!("{one}{empty}"), "<manifest/>"));
    assert_eq!(bounded(&folder, words).code, 0, "rows that hold nothing cost nothing");
    for (content, message) in [
        (ods(&many, "<manifest/>"), "is repeated 1048000 times with its values"),
        (ods(&format!("{empty}{one}{empty}{one}"), "<manifest/>"), "a sheet has 1048576 rows"),
        (ods(&one, "<manifest><encryption-data/></manifest>"), "it is encrypted"),
    ] {
        folder.write("table.xlsx", content);
        is_refused(&bounded(&folder, words), message);
    }
}
