//! The pieces of a check, each by itself: the splitter, a column of each kind, keys, pairing, ready rows.
//!
//! `cargo bench -p tidy-gate-benches` measures; with `-- --test` each runs once.

#![expect(
    clippy::unwrap_used,
    clippy::indexing_slicing,
    reason = "what is measured is made here and known to be sound"
)]

use divan::counter::{BytesCount, ItemsCount};
use divan::{Bencher, black_box};
use std::fmt::Write;
use tidy_gate_core::block::Block;
use tidy_gate_core::gate::{Gate, Judge, RowsOf, RunState, Settings};
use tidy_gate_core::headings::{PlanPairing, pair};
use tidy_gate_core::mode::Mode;
use tidy_gate_core::scan::{Dialect, RowIndex, cut, index};
use tidy_gate_core::schema::{NoLists, RecordSchema};
use tidy_gate_core::table::Table;
use tidy_gate_core::value::Date;

fn main() {
    divan::main();
}

const ROWS: u64 = 1_500;

/// A number that looks as if it were drawn, from a row and a column.
fn drawn(row: u64, column: u64) -> u64 {
    let n = (row * 31 + column + 1).wrapping_mul(0x9E37_79B9_7F4A_7C15);
    n ^ n >> 29
}

/// The keys of a field of each kind, and a sound cell of it.
fn kind(name: &str, n: u64) -> (&'static str, String) {
    match name {
        "text" => ("kind = \"text\"\nlength = { max = 60 }", format!("pruned in spring {}", n % 97)),
        "text with a pattern" => {
            ("kind = \"text\"\npattern = \"HT-[0-9]{7}\"", format!("HT-{:07}", n % 10_000_000))
        }
        "integer" => ("kind = \"integer\"\nrange = { max = 99999 }", (n % 90_000).to_string()),
        "decimal" => ("kind = \"decimal\"", format!("{}.{}", n % 900, n % 9 + 1)),
        "boolean" => ("kind = \"boolean\"", ["yes", "no", "true"][(n % 3) as usize].to_owned()),
        "date" => ("kind = \"date\"", format!("{}-{:02}-{:02}", 1900 + n % 120, n % 12 + 1, n % 28 + 1)),
        "date with a name" => {
            ("kind = \"date\"\ndates = [\"d MMM yyyy\"]", format!("{} May {}", n % 28 + 1, 1900 + n % 120))
        }
        "time" => ("kind = \"time\"", format!("{:02}:{:02}", n % 24, n % 60)),
        "datetime" => ("kind = \"datetime\"", format!("2020-02-{:02}T{:02}:00:00Z", n % 28 + 1, n % 24)),
        "picklist" => ("kind = \"picklist\"\npicklist = \"list\"", format!("SP-{:03}", n % 120)),
        "several values" => (
            "kind = \"picklist\"\npicklist = \"list\"\nmany = { separator = \";\" }",
            format!("SP-{:03};SP-{:03}", n % 60, 60 + n % 60),
        ),
        "email" => ("kind = \"email\"", format!("j.marsh{}@ward-7.harrowmere.example", n % 999)),
        "phone" => ("kind = \"phone\"", format!("+44 20 7946 0{:03}", n % 1000)),
        "url" => ("kind = \"url\"", format!("https://trees.example/ht/{}", n % 1_000_000)),
        _ => ("kind = \"uuid\"", format!("{:08x}-0000-4000-8000-{:012x}", n as u32, n & 0xFFFF_FFFF_FFFF)),
    }
}

const KINDS: [&str; 15] = [
    "text",
    "text with a pattern",
    "integer",
    "decimal",
    "boolean",
    "date",
    "date with a name",
    "time",
    "datetime",
    "picklist",
    "several values",
    "email",
    "phone",
    "url",
    "uuid",
];

/// A gate of columns of these kinds, and a block that it judges.
fn made(kinds: &[&str], head: &str) -> (Gate, Block) {
    let mut schema = format!("format = 1\nrecord = \"r\"\n{head}");
    let (mut headings, mut text) = (Vec::new(), String::new());
    for (number, name) in kinds.iter().enumerate() {
        headings.push(format!("c{number}"));
        write!(schema, "[[field]]\nname = \"c{number}\"\n{}\n", kind(name, 0).0).unwrap();
    }
    schema.push_str("[picklist.list]\nvalues = [");
    (0..120).for_each(|n| write!(schema, "{{ code = \"SP-{n:03}\" }}, ").unwrap());
    schema.push_str("]\n");
    for row in 0..ROWS {
        let cells = kinds.iter().zip(0..).map(|(name, column)| kind(name, drawn(row, column)).1);
        text.push_str(&cells.collect::<Vec<_>>().join(","));
        text.push('\n');
    }
    let schema = RecordSchema::read(&schema, &mut NoLists).unwrap();
    let settings = Settings::plain(Mode::Add, Date::new(2026, 11, 25).unwrap());
    (Gate::new(schema, settings, Table::with_headings(headings)), Block::of(text.as_bytes(), 2))
}

fn judge(bencher: Bencher<'_, '_>, (gate, block): &(Gate, Block)) {
    let state = RunState::default();
    let mut judge = Judge::new(gate, &state, false);
    bencher.counter(ItemsCount::new(ROWS)).bench_local(|| black_box(judge.judge(block)).rows);
}

/// One column of a kind beside a key of whole numbers, laid out and judged.
#[divan::bench(args = KINDS)]
fn column(bencher: Bencher<'_, '_>, kind: &str) {
    judge(bencher, &made(&[kind, "integer"], "key = [\"c1\"]\nalike = [\"c1\"]\n"));
}

/// Keys of one field and of two; without one, rows that repeat as a whole are looked for.
#[divan::bench(args = ["none", "c0", "c1", "c1\", \"c2"])]
fn keys(bencher: Bencher<'_, '_>, key: &str) {
    let head = if key == "none" { String::new() } else { format!("alike = [\"c2\"]\nkey = [\"{key}\"]\n") };
    judge(bencher, &made(&["text", "integer", "date"], &head));
}

/// Where rows end, and where cells do.
#[divan::bench(args = ["rows", "cells"])]
fn split(bencher: Bencher<'_, '_>, what: &str) {
    let block = made(&KINDS, "").1;
    let mut found = RowIndex::default();
    bencher.counter(BytesCount::new(block.len)).bench_local(|| match what {
        "rows" => cut(&block.buffer, block.len, Dialect::default()).end,
        _ => {
            index(&block.buffer, block.len, Dialect::default(), &mut found);
            found.ends().len()
        }
    });
}

/// Headings paired with fields: so many of each, none of them equal.
#[divan::bench(args = [20, 200])]
fn pairing(bencher: Bencher<'_, '_>, fields: usize) {
    let mut schema = "format = 1\nrecord = \"r\"\n".to_owned();
    (0..fields)
        .for_each(|n| write!(schema, "[[field]]\nname = \"planted_on_{n}\"\nkind = \"date\"\n").unwrap());
    let schema = RecordSchema::read(&schema, &mut NoLists).unwrap();
    let headings: Vec<String> = (0..fields).map(|n| format!("Planted {n} on")).collect();
    bencher
        .bench_local(|| pair(black_box(&headings), &schema.fields, &PlanPairing::default()).column_of.len());
}

/// The values of ready rows in the target's form.
#[divan::bench]
fn ready_values(bencher: Bencher<'_, '_>) {
    let (gate, block) = made(&["text", "decimal", "boolean", "date", "picklist"], "");
    let (state, fields) = (RunState::default(), gate.written_fields());
    let mut rows = RowsOf::new(&gate, &state);
    bencher.counter(ItemsCount::new(ROWS)).bench_local(|| {
        rows.read(&block);
        rows.rows(&block)
            .map(|row| fields.iter().map(|field| row.value(field).len()).sum::<usize>())
            .sum::<usize>()
    });
}
