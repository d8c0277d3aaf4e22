//! One table in dresses put together at random: whatever stands above, between and below its rows, however its cells
//! are marked and encoded, the same is found at the same cells.

#![allow(clippy::unwrap_used, clippy::indexing_slicing, reason = "a test that panics has failed")]

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE, WINDOWS_1252};
use proptest::prelude::*;
use std::io::Cursor;
use std::path::Path;
use std::sync::atomic::AtomicBool;
use tidy_gate_core::catalogue::Code;
use tidy_gate_core::finding::Finding;
use tidy_gate_core::gate::{Gate, Settings};
use tidy_gate_core::mode::Mode;
use tidy_gate_core::run::{self, FindingSink, Unwatched};
use tidy_gate_core::schema::{NoLists, RecordSchema};
use tidy_gate_core::value::Date;
use tidy_gate_files::{Error, Input, ReadOptions, TableFile};

static NEVER: AtomicBool = AtomicBool::new(false);

const SCHEMA: &str = "format = 1\nrecord = \"tree\"\nkey = [\"tag\"]\n\
    [[field]]\nname = \"tag\"\nlabel = \"Tag number\"\nkind = \"integer\"\nexample = 4711\n\
    [[field]]\nname = \"site\"\nlabel = \"Site\"\nkind = \"text\"\nrequired = true\nexample = \"Mill Lane\"\n\
    [[field]]\nname = \"girth\"\nlabel = \"Girth\"\nkind = \"decimal\"\n\
    [[field]]\nname = \"notes\"\nlabel = \"Notes\"\nkind = \"text\"\nlength = { max = 30 }\n";

/// How a table is dressed.
#[derive(Debug, Clone)]
struct Dress {
    titles: usize,
    names: bool,
    units: bool,
    example: bool,
    total: bool,
    blank_tail: usize,
    delimiter: char,
    line_end: &'static str,
    always_quoted: bool,
    encoding: usize,
    marked: bool,
}

const ENCODINGS: [&Encoding; 4] = [UTF_8, WINDOWS_1252, UTF_16LE, UTF_16BE];

fn dress() -> impl Strategy<Value = Dress> {
    let marks =
        (prop::sample::select(vec![',', ';', '\t', '|']), prop::sample::select(vec!["\n", "\r\n", "\r"]));
    let above = (0..5_usize, any::<bool>(), any::<bool>(), any::<bool>(), any::<bool>(), 0..3_usize);
    (above, marks, any::<bool>(), 0..ENCODINGS.len(), any::<bool>()).prop_map(
        |(
            (titles, names, units, example, total, blank_tail),
            (delimiter, line_end),
            always_quoted,
            encoding,
            marked,
        )| {
            Dress {
                titles,
                names,
                units,
                // An example is known by the technical names above it.
                example: example && names,
                total,
                blank_tail,
                delimiter,
                line_end,
                always_quoted,
                encoding,
                marked,
            }
        },
    )
}

/// Rows whose notes hold what is hard to carry: every delimiter, quotes, line breaks, letters beyond ASCII.
fn rows() -> impl Strategy<Value = Vec<[String; 4]>> {
    let notes = prop::sample::select(vec![
        "",
        "pruned",
        "a, b; c | d",
        "said \"no\"",
        "two\nlines",
        "Größe 5 µm – naïve",
        "#N/A",
        "x  y",
        "TBC",
        "far longer than thirty characters",
        "=1+1",
    ]);
    let row = (0..400_u32, prop::sample::select(vec!["Mill Lane", "", "Église"]), 1..900_u32, notes)
        .prop_map(|(tag, site, girth, notes)| {
            [tag.to_string(), site.into(), format!("{girth}.5"), notes.into()]
        });
    prop::collection::vec(row, 3..40)
}

impl Dress {
    fn written(&self, rows: &[[String; 4]]) -> Vec<u8> {
        let delimiter = self.delimiter.to_string();
        let cell = |text: &str| match self.always_quoted || text.contains([self.delimiter, '"', '\n']) {
            true => format!("\"{}\"", text.replace('"', "\"\"").replace('\n', self.line_end)),
            false => text.to_owned(),
        };
        let line = |cells: [&str; 4]| cells.map(cell).join(&delimiter);
        let mut lines: Vec<String> =
            (0..self.titles).map(|n| line([&format!("Report part {n}"), "", "", ""])).collect();
        lines.push(line(["Tag number", "Site", "Girth", "Notes"]));
        lines.extend(self.names.then(|| line(["tag", "site", "girth", "notes"])));
        lines.extend(self.units.then(|| line(["", "", "(cm)", ""])));
        lines.extend(self.example.then(|| line(["4711", "Mill Lane", "", ""])));
        lines.extend(rows.iter().map(|row| line([&row[0], &row[1], &row[2], &row[3]])));
        let tenths: u64 = rows.iter().map(|row| row[2].replace('.', "").parse::<u64>().unwrap()).sum();
        let total = format!("{}.{}", tenths / 10, tenths % 10);
        lines.extend(self.total.then(|| line(["Total", "", &total, ""])));
        lines.extend((0..self.blank_tail).map(|_| line(["", "", "", ""])));
        let text = lines.join(self.line_end) + self.line_end;
        let encoding = ENCODINGS[self.encoding];
        let mark = if self.marked && encoding != WINDOWS_1252 { "\u{FEFF}" } else { "" };
        let text = format!("{mark}{text}");
        match encoding {
            encoding if encoding == UTF_16LE => text.encode_utf16().flat_map(u16::to_le_bytes).collect(),
            encoding if encoding == UTF_16BE => text.encode_utf16().flat_map(u16::to_be_bytes).collect(),
            encoding => encoding.encode(&text).0.into_owned(),
        }
    }

    /// How many rows are left out.
    fn left_out(&self) -> u64 {
        [self.names, self.units, self.example, self.total].map(u64::from).iter().sum()
    }
}

struct Sink(Vec<Finding>);

impl FindingSink<Error> for Sink {
    fn take(&mut self, finding: &Finding) -> Result<(), Error> {
        self.0.push(finding.clone());
        Ok(())
    }
}

type Told = Vec<(u64, usize, Code, Option<String>)>;

/// What is found at cells, with rows counted from the first that can be a record; and the rows, held and left out.
fn checked(bytes: Vec<u8>, threads: usize) -> (Told, [u64; 3], String) {
    let schema = RecordSchema::read(SCHEMA, &mut NoLists).unwrap();
    let input = Input::stream(Path::new("table.csv"), Box::new(Cursor::new(bytes)));
    let file = TableFile::open(input, &ReadOptions::default(), Some(&schema), true, &NEVER).unwrap();
    let settings = Settings::plain(Mode::Add, Date::new(2026, 11, 25).unwrap());
    let mut gate = Gate::new(schema, settings, file.table().clone());
    let mut begin = || Ok(Some(Sink(Vec::new())));
    let (outcome, sink) = run::check(&mut gate, &file, threads, &Unwatched, &mut begin).unwrap();
    let mut sink = sink.unwrap();
    let _ = run::each_repeat(&gate, &file, &outcome, &mut |finding| {
        sink.0.push(finding.clone());
        Ok(true)
    });
    let first = file.table().first_row;
    let told = sink.0.iter().filter(|finding| finding.letter.is_some());
    let told = told.map(|finding| {
        let value = finding.value.as_ref().map(|value| value.replace("\r\n", "\n"));
        (finding.row.unwrap() - first, finding.column.unwrap(), finding.code, value)
    });
    let mut told: Told = told.collect();
    told.sort();
    let facts: Vec<_> = file.facts().iter().map(|fact| format!("{} {}", fact.what, fact.choice)).collect();
    (told, [outcome.counts.rows, outcome.counts.held, outcome.counts.left_out], facts.join(", "))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn the_same_is_found_in_every_dress(rows in rows(), dress in dress(), threads in 1..4_usize) {
        let plain = Dress {
            titles: 0, names: false, units: false, example: false, total: false, blank_tail: 0,
            delimiter: ',', line_end: "\n", always_quoted: false, encoding: 0, marked: false,
        };
        let (wanted, [all, held, _], _) = checked(plain.written(&rows), 1);
        let (told, counts, facts) = checked(dress.written(&rows), threads);
        prop_assert_eq!(told, wanted, "{}", facts);
        prop_assert_eq!(counts, [all + dress.left_out(), held, dress.left_out()], "{}", facts);
    }
}
