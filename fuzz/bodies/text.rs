//! Any bytes as a delimited text: opened, laid out, judged, looked at and written without a panic, and with counts
//! that add up.

use std::io::Cursor;
use std::sync::OnceLock;
use std::sync::atomic::AtomicBool;
use tidy_gate_core::block::Block;
use tidy_gate_core::gate::{Gate, Settings};
use tidy_gate_core::mode::Mode;
use tidy_gate_core::profile::Profiler;
use tidy_gate_core::report::{FileFacts, Report, Tool};
use tidy_gate_core::run::{self, BlockSource, Unlisted, Unwatched};
use tidy_gate_core::schema::{NoLists, RecordSchema};
use tidy_gate_core::value::Date;
use tidy_gate_files::{Input, ReadOptions, TableFile};

static NEVER: AtomicBool = AtomicBool::new(false);

const SCHEMA: &str = "format = 1\nrecord = \"t\"\nkey = [\"a\"]\nunique = [[\"b\", \"c\"]]\n\
    [[field]]\nname = \"a\"\nkind = \"integer\"\nexample = 7\n\
    [[field]]\nname = \"b\"\nkind = \"text\"\npattern = \"[0-9]{3}|x+\"\nexample = \"x\"\n\
    [[field]]\nname = \"c\"\nkind = \"date\"\ndates = [\"dd/MM/yyyy\", \"MM/dd/yyyy\"]\n\
    [[field]]\nname = \"d\"\nkind = \"decimal\"\nrange = { max = 99 }\n\
    [[field]]\nname = \"e\"\nkind = \"text\"\nlength = { max = 9 }\n";

/// The first byte states some of the layout; the others are the text.
pub(crate) fn run(data: &[u8]) {
    let Some((&stated, text)) = data.split_first() else { return };
    let mut options = ReadOptions { by_position: stated & 1 != 0, ..ReadOptions::default() };
    options.delimiter = (stated & 2 != 0).then_some(b';');
    options.heading_row = (stated & 4 != 0 && !options.by_position).then_some(2);
    options.last_row = (stated & 8 != 0).then_some(4);
    options.limits.row = 1 << 16;
    // Patterns take long to compile.
    static READ: OnceLock<RecordSchema> = OnceLock::new();
    let schema = READ.get_or_init(|| RecordSchema::read(SCHEMA, &mut NoLists).unwrap());
    let open = |may_return| {
        let input = Input::stream("text.csv".as_ref(), Box::new(Cursor::new(text.to_vec())));
        TableFile::open(input, &options, Some(schema), may_return, &NEVER)
    };
    let Ok(file) = open(true) else { return };
    let settings = Settings::plain(Mode::Add, Date::new(2026, 11, 25).unwrap());
    let mut gate = Gate::new(schema.clone(), settings, file.table().clone());
    let mut begin = || Ok(None::<Unlisted>);
    if let Ok((outcome, _)) = run::check(&mut gate, &file, 1, &Unwatched, &mut begin) {
        let counts = outcome.counts;
        assert!(counts.held + counts.left_out <= counts.rows);
        let tool = Tool { name: String::new(), version: String::new() };
        let report = Report::new(&gate, &outcome, FileFacts::default(), None, tool);
        let told = report.counts.stops + report.counts.warns + report.counts.notes;
        assert_eq!(told, report.findings.len() as u64 + report.findings_left_out);
    }
    let Ok(file) = open(false) else { return };
    let table = file.table();
    let mut profiler = Profiler::new(&table.headings, table.dialect, 3, Date::new(2026, 11, 25).unwrap());
    let mut block = Block::default();
    while let Ok(true) = file.next(&mut block) {
        profiler.look_at(&block);
    }
    let _ = profiler.finish();
}
