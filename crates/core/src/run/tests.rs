//! Whole checks on tables in memory, cut into blocks of every size.

use super::*;
use crate::block::{Block, Extent};
use crate::catalogue::Code;
use crate::finding::Finding;
use crate::gate::{Gate, Settings};
use crate::mode::Mode;
use crate::report::{FileFacts, Report, Tool, Verdict};
use crate::schema::{NoLists, RecordSchema};
use crate::table::Table;
use crate::value::Date;
use std::convert::Infallible;
use std::sync::Mutex;

/// A table in memory, cut after every so many rows.
struct Memory {
    rows: Vec<String>,
    each: usize,
    next: Mutex<usize>,
}

impl Memory {
    fn block(&self, from: usize, count: usize, block: &mut Block) {
        let offset: usize = self.rows.iter().take(from).map(String::len).sum();
        let text: String = self.rows.iter().skip(from).take(count).cloned().collect();
        *block = Block::of(text.as_bytes(), 2 + from as u64);
        block.offset = offset as u64;
        block.number = (from / self.each) as u64;
        block.last = from + count >= self.rows.len();
    }
}

impl BlockSource for Memory {
    type Error = Infallible;

    fn next(&self, block: &mut Block) -> Result<bool, Infallible> {
        let mut next = self.next.lock().unwrap();
        if *next >= self.rows.len() {
            return Ok(false);
        }
        self.block(*next, self.each, block);
        *next += self.each;
        Ok(true)
    }

    fn again(&self, extent: &Extent, block: &mut Block) -> Result<(), Infallible> {
        self.block((extent.first_row - 2) as usize, extent.rows as usize, block);
        assert_eq!((block.offset, block.len), (extent.offset, extent.len), "a piece is where it was");
        Ok(())
    }

    fn not_text(&self, row: u64) -> Infallible {
        panic!("row {row} is no text")
    }
}

struct Sink(Vec<Finding>);

impl FindingSink<Infallible> for Sink {
    fn take(&mut self, finding: &Finding) -> Result<(), Infallible> {
        self.0.push(finding.clone());
        Ok(())
    }
}

const SCHEMA: &str = "format = 1\nrecord = \"tree\"\nkey = [\"tag\"]\nunique = [[\"site\", \"girth\"]]\n\
    [[field]]\nname = \"tag\"\nkind = \"integer\"\n\
    [[field]]\nname = \"site\"\nkind = \"text\"\nlength = { max = 4 }\n\
    [[field]]\nname = \"girth\"\nkind = \"decimal\"\n";

fn check(rows: &[String], each: usize, threads: usize) -> (Report, Vec<Finding>) {
    check_by(SCHEMA, rows, each, threads)
}

fn check_by(schema: &str, rows: &[String], each: usize, threads: usize) -> (Report, Vec<Finding>) {
    let schema = RecordSchema::read(schema, &mut NoLists).unwrap();
    let settings = Settings::plain(Mode::Add, Date::new(2026, 1, 1).unwrap());
    let headings = schema.fields.iter().map(|field| field.name.clone()).collect();
    let mut gate = Gate::new(schema, settings, Table { seeks_total: true, ..Table::with_headings(headings) });
    let source = Memory { rows: rows.to_vec(), each, next: Mutex::new(0) };
    let mut begin = || Ok(Some(Sink(Vec::new())));
    let (outcome, sink) = super::check(&mut gate, &source, threads, &Unwatched, &mut begin).unwrap();
    let mut sink = sink.unwrap();
    each_repeat(&gate, &source, &outcome, &mut |finding| {
        sink.0.push(finding.clone());
        Ok(true)
    })
    .unwrap();
    sink.0.extend(outcome.late.clone());
    sink.0.sort_by_key(Finding::order);
    let tool = Tool { name: "tidy-gate".into(), version: "0".into() };
    (Report::new(&gate, &outcome, FileFacts::default(), None, tool), sink.0)
}

/// 400 rows: a repeat far apart, equal numbers written differently, blank rows across block borders.
fn rows() -> Vec<String> {
    (0..400_u64)
        .map(|n| match n {
            120..=131 | 399 => ",,\n".to_owned(),
            200 => "\n".to_owned(),
            7 => "0390,W7,1\n".to_owned(),
            300 => "301,W7,12.50\n".to_owned(),
            301 => "+301,W07-LONG,12.5\n".to_owned(),
            302 => "9001,W7,12.5\n".to_owned(),
            n => format!("{n},S{},{n}.5\n", n % 90),
        })
        .collect()
}

#[test]
fn blocks_and_threads_change_nothing() {
    let rows = rows();
    let (whole, all) = check(&rows, 400, 1);
    let shown = |report: &Report| serde_json::to_string(report).unwrap();
    for (each, threads) in [(1, 1), (3, 2), (7, 4), (64, 3), (399, 2), (400, 2)] {
        let (report, findings) = check(&rows, each, threads);
        assert_eq!(shown(&report), shown(&whole), "{each} rows a block, {threads} threads");
        assert_eq!(findings, all);
    }
    let told: Vec<String> = all
        .iter()
        .map(|finding| format!("{} {:?} {:?}", finding.code, finding.row, finding.places))
        .collect();
    insta::assert_snapshot!(told.join("\n"), @"
    key-repeated Some(9) [9, 392]
    row-blank Some(122) []
    row-blank Some(202) []
    unique-repeated Some(302) [302, 304]
    key-repeated Some(302) [302, 303]
    key-repeated Some(303) [302, 303]
    text-too-long Some(303) []
    unique-repeated Some(304) [302, 304]
    key-repeated Some(392) [9, 392]
    blank-tail Some(401) []
    ");
    assert_eq!((whole.counts.rows, whole.counts.held, whole.gate), (386, 5, Verdict::Shut));
}

#[test]
fn a_report_holds_the_first_of_each_code_and_counts_the_rest() {
    let rows: Vec<_> = (0..5000)
        .map(|n| format!("{n},{},{}\n", if n == 4321 { "TOO LONG" } else { "W7" }, "thick"))
        .collect();
    let (report, all) = check(&rows, 512, 2);
    assert_eq!(all.len(), 5001);
    assert_eq!(report.findings.len(), 1000);
    assert_eq!((report.findings_left_out, report.counts.stops, report.counts.held), (4001, 5001, 5000));
    assert!(
        report.findings.iter().any(|finding| finding.code == Code::TextTooLong),
        "the rare one is among them"
    );
    assert!(report.findings.is_sorted_by_key(Finding::order));
}

const VISITS: &str = "format = 1\nrecord = \"tree\"\nkey = [\"tag\"]\n\
    lines = { header = [\"tag\", \"site\"], key = [\"visit\"], count = { min = 2, max = 9 } }\n\
    [[field]]\nname = \"tag\"\nkind = \"integer\"\n\
    [[field]]\nname = \"site\"\nkind = \"text\"\nrequired = true\n\
    [[field]]\nname = \"visit\"\nkind = \"integer\"\n\
    [[field]]\nname = \"girth\"\nkind = \"decimal\"\n\
    [[rule]]\nname = \"no girth at S13\"\nwhen = \"site = 'S13'\"\nforbid = [\"girth\"]\n";

/// A record of several rows, read plainly.
struct PlainRecord {
    tag: String,
    site: String,
    visits: Vec<String>,
    is_faulty: bool,
}

/// How many records there are, how many are held, and how many rows they have.
fn plainly(rows: &[String]) -> (usize, usize, u64) {
    let mut records: Vec<PlainRecord> = Vec::new();
    for row in rows {
        let cells: Vec<_> = row.trim().split(',').collect();
        let [tag, site, visit, girth] = cells[..] else { panic!("four cells") };
        if [tag, site, visit, girth].iter().all(|cell| cell.is_empty()) {
            continue;
        }
        if records.last().is_none_or(|record| !tag.is_empty() && record.tag != tag) {
            let (tag, site) = (tag.to_owned(), site.to_owned());
            records.push(PlainRecord { tag, site, visits: Vec::new(), is_faulty: false });
        }
        let record = records.last_mut().unwrap();
        record.is_faulty |= record.site.is_empty() || !site.is_empty() && site != record.site;
        record.is_faulty |= record.site == "S13" && !girth.is_empty() || girth == "x";
        record.is_faulty |= visit.is_empty() || record.visits.iter().any(|before| before == visit);
        record.visits.push(visit.to_owned());
    }
    let is_apart = |tag: &str| records.iter().filter(|record| record.tag == tag).count() > 1;
    let is_held = |record: &&PlainRecord| {
        record.is_faulty || !(2..=9).contains(&record.visits.len()) || is_apart(&record.tag)
    };
    let held: Vec<_> = records.iter().filter(is_held).collect();
    let tags: std::collections::HashSet<_> = records.iter().map(|record| &record.tag).collect();
    let held_tags: std::collections::HashSet<_> = held.iter().map(|record| &record.tag).collect();
    (tags.len(), held_tags.len(), held.iter().map(|record| record.visits.len() as u64).sum())
}

#[test]
fn records_of_several_rows_are_held_as_a_whole_wherever_blocks_are_cut() {
    let mut rows = Vec::new();
    for n in 0..300_u64 {
        // Every third record repeats its header, the others leave it blank below the first row.
        for line in 0..[3, 2, 4, 9, 2][n as usize % 5] {
            // A row with header cells of its own has its key.
            let is_named = line == 0 || n % 3 == 0 || line == 2 && n % 40 == 0;
            let tag = if is_named { n.to_string() } else { String::new() };
            let site = match (n, line) {
                (_, 0) if n % 50 == 49 => String::new(),
                (_, 2) if n % 40 == 0 => "ELSE".to_owned(),
                (_, 0) => format!("S{}", n % 90),
                _ if n % 3 == 0 => format!("S{}", n % 90),
                _ => String::new(),
            };
            let visit = if n % 70 == 5 && line == 1 { 0 } else { line };
            let girth = match n {
                77 if line == 3 => "x".to_owned(),
                n if n % 90 == 13 && line > 0 => "1.5".to_owned(),
                n if n % 90 == 13 => String::new(),
                _ => format!("{n}.{line}"),
            };
            rows.push(format!("{tag},{site},{visit},{girth}\n"));
        }
        match n {
            120 => rows.extend([",,,\n".to_owned(), "9001,S1,0,1\n".to_owned()]),
            200 => rows.extend((0..10).map(|line| format!("9002,S2,{line},\n"))),
            250 => rows.push("0017,S17,77,1\n".to_owned()),
            _ => {}
        }
    }
    let (whole, all) = check_by(VISITS, &rows, rows.len(), 1);
    let shown = |report: &Report| serde_json::to_string(report).unwrap();
    for (each, threads) in [(1, 1), (2, 3), (7, 4), (64, 3), (500, 2)] {
        let (report, findings) = check_by(VISITS, &rows, each, threads);
        assert_eq!(findings, all, "{each} rows a block");
        assert_eq!(shown(&report), shown(&whole), "{each} rows a block, {threads} threads");
    }
    // 0017 is 17 as a number.
    let plain: Vec<_> = rows.iter().map(|row| row.replace("0017", "17")).collect();
    let (records, held, rows_held) = plainly(&plain);
    assert_eq!(whole.counts.records, Some(records as u64));
    assert_eq!(whole.counts.records_held, Some(held as u64));
    assert_eq!(whole.counts.held, rows_held);
}
