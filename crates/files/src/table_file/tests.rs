//! One text, read in steps of every size: the same rows in whatever blocks they come.

use super::*;
use std::io::Write;
use tidy_gate_core::block::OpenRow;
use tidy_gate_core::scan::{Dialect, RowWalk, walk_row};

static NEVER: AtomicBool = AtomicBool::new(false);

struct Read {
    headings: Vec<String>,
    /// Row number, physical line and text of each row.
    rows: Vec<(u64, u64, String)>,
    open: Option<OpenRow>,
}

fn read(text: &[u8], step: usize) -> Read {
    let options = ReadOptions { delimiter: Some(b','), ..ReadOptions::default() };
    let mut file = tempfile::NamedTempFile::new().unwrap();
    file.write_all(text).unwrap();
    let input = Input::open(file.path()).unwrap();
    let source = TableFile::open_by(step, input, &options, None, true, &NEVER).unwrap();
    let (mut block, mut again) = (Block::default(), Block::default());
    let mut read = Read { headings: source.table().headings.clone(), rows: Vec::new(), open: None };
    while source.next(&mut block).unwrap() {
        source.again(&block.extent(), &mut again).unwrap();
        assert_eq!(again.content(), block.content(), "what is read again is the same");
        let (mut at, mut row, mut line) = (0, block.first_row, block.first_line);
        while at < block.len {
            let RowWalk::Whole { end, .. } =
                walk_row(block.content(), at, Dialect::default(), |_| (), |_| ())
            else {
                panic!("a block holds whole rows");
            };
            let bytes = &block.content()[at..end];
            read.rows.push((row, line, String::from_utf8_lossy(bytes).into_owned()));
            line += bytes.iter().filter(|&&byte| byte == b'\n').count() as u64;
            (at, row) = (end, row + 1);
        }
        assert_eq!((row, line), (block.first_row + block.rows, block.first_line + block.lines));
        read.open = block.open;
    }
    source.confirm_unchanged().unwrap();
    read
}

#[test]
fn blocks_of_every_size_hold_the_same_rows() {
    let sound = "\u{FEFF}\r\n\"a\r\nb\",c\r\n1,\"x,\ny\"\r\n\r\n2,5\" pipe\r\n\"\",\"\"\"\"\r\nlast,row";
    let open = format!("{sound}\n9,\"swallowed\n1,2\n");
    for text in [sound, &open] {
        let whole = read(text.as_bytes(), 1 << 16);
        assert_eq!(whole.headings, ["a\r\nb", "c"]);
        let rows: Vec<_> = whole.rows.iter().map(|(row, line, text)| (*row, *line, text.as_str())).collect();
        assert_eq!(
            rows,
            [
                (3, 4, "1,\"x,\ny\"\r\n"),
                (4, 6, "\r\n"),
                (5, 7, "2,5\" pipe\r\n"),
                (6, 8, "\"\",\"\"\"\"\r\n"),
                (7, 9, "last,row\n"),
            ]
        );
        for step in 1..text.len() + 2 {
            let read = read(text.as_bytes(), step);
            assert_eq!(
                (&read.headings, &read.rows, read.open),
                (&whole.headings, &whole.rows, whole.open),
                "{step}"
            );
        }
    }
    let found = read(open.as_bytes(), 7).open.unwrap();
    assert_eq!((found.row, found.line, found.column, found.cell_line), (8, 10, 1, 10));
    assert_eq!(&open.as_bytes()[found.offset as usize..][..4], b"9,\"s");
}

fn open(path: &std::path::Path) -> Result<TableFile, Error> {
    TableFile::open(Input::open(path).unwrap(), &ReadOptions::default(), None, true, &NEVER)
}

#[test]
fn a_file_that_changes_is_not_trusted() {
    let mut file = tempfile::NamedTempFile::new().unwrap();
    file.write_all(b"a\n1\n2\n").unwrap();
    let source = open(file.path()).unwrap();
    let mut block = Block::default();
    assert!(source.next(&mut block).unwrap());
    let extent = block.extent();
    file.as_file().set_len(2).unwrap();
    assert!(matches!(source.confirm_unchanged(), Err(Error::Changed { .. })));
    assert!(matches!(source.again(&extent, &mut block), Err(Error::Changed { .. })));
}

#[test]
fn headings_beyond_all_bounds_are_refused() {
    let open = |text: &[u8]| {
        let mut file = tempfile::NamedTempFile::new().unwrap();
        file.write_all(text).unwrap();
        open(file.path()).map(|_| ()).unwrap_err().to_string()
    };
    assert!(open(&b"a,".repeat(20_000)).contains("there are 20001 headings; at most 16384 columns are read"));
    assert!(
        open(&b"abcdefgh".repeat(5 << 20)).contains("the row that begins on line 1 is longer than 32 MiB")
    );
    assert!(open(b"a,b\0\n1,2\n").contains("row 1 holds a NUL byte"));
}
